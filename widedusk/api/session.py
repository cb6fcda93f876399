"""Signing in and out, and making an account."""

from datetime import datetime, timedelta
from typing import Annotated

from axes.helpers import get_client_ip_address
from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.auth import authenticate, get_user_model, login, logout
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError as DjangoValidationError
from django.db.models import Sum
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.errors import HttpError
from ninja.security import APIKeyCookie
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.core.errors import Fault, InvalidInput
from widedusk.records.clock import now, true_now

router = Router(tags=["session"])
DEMO = "demo"  # the name of the account that a demo offers
MAX_WRONG_PASSWORDS = 40  # passwords from one address within the time that a lock lasts, over all names
Word = Annotated[str, Field(max_length=150)]


class Anyone(APIKeyCookie):
    """No account needed, but the cross-site check still holds."""

    param_name = "csrftoken"

    def authenticate(self, request: HttpRequest, key: str | None) -> bool:
        return True


class Credentials(Schema):
    username: Word
    password: Word


class SessionOut(Schema):
    username: str | None
    demo: Credentials | None  # offered on the sign-in page of a demo
    now: datetime
    sign_up: bool  # whether an account may be made
    frozen: bool  # the clock stands still, for tests and pictures


def _signup_open() -> bool:
    """Whether accounts may be made: always, never, or until the first person besides the demo has one."""
    if settings.WIDE_DUSK_SIGN_UP == "first":
        return not get_user_model().objects.exclude(username=DEMO).exists()
    return bool(settings.WIDE_DUSK_SIGN_UP == "open")


def _is_throttled(request: HttpRequest) -> bool:
    """Whether too many passwords were wrong from one address, whatever names they were tried with."""
    since = true_now() - settings.AXES_COOLOFF_TIME
    attempts = AccessAttempt.objects.filter(ip_address=get_client_ip_address(request), attempt_time__gt=since)
    return (attempts.aggregate(wrong=Sum("failures_since_start"))["wrong"] or 0) >= MAX_WRONG_PASSWORDS


def _session(request: HttpRequest) -> SessionOut:
    get_token(request)
    offered = Credentials(username=DEMO, password=settings.WIDE_DUSK_DEMO_PASSWORD) if settings.WIDE_DUSK_DEMO else None
    username = request.user.get_username() if request.user.is_authenticated else None
    return SessionOut(username=username, demo=offered, now=now(), sign_up=_signup_open(), frozen=bool(settings.WIDE_DUSK_NOW))


@router.get("", auth=None, response=SessionOut)
def who(request: HttpRequest) -> SessionOut:
    """Who is signed in, and what time it is."""
    return _session(request)


@router.post("", auth=Anyone(), response={200: SessionOut, 422: FailureOut, 429: FailureOut})
def sign_in(request: HttpRequest, data: Credentials) -> SessionOut:
    """Start a session. After too many wrong tries the throttle answers in our place, see locked_out."""
    if _is_throttled(request):
        raise HttpError(429, _wait_words())
    user = authenticate(request, username=data.username, password=data.password)
    if user is None:
        raise InvalidInput([Fault("password", None, "Name and password do not belong together. Check both and try again.")])
    login(request, user)
    return _session(request)


@router.post("/account", auth=Anyone(), response={200: SessionOut, 422: FailureOut, 429: FailureOut})
def make_account(request: HttpRequest, data: Credentials) -> SessionOut:
    """Make an account and sign in with it."""
    people = get_user_model()
    if not _signup_open():
        raise InvalidInput([Fault("username", data.username, "New accounts are closed on this site. Ask whoever runs it.")])
    if people.objects.filter(date_joined__gt=true_now() - timedelta(hours=1)).count() >= settings.WIDE_DUSK_ACCOUNTS_PER_HOUR:
        raise HttpError(429, "Too many accounts were created in the last hour. Please try again later.")
    faults = []
    candidate = people(username=data.username.strip())
    try:
        candidate.username_validator(candidate.username)
        if people.objects.filter(username__iexact=candidate.username).exists():
            faults.append(Fault("username", data.username, "This name is taken; choose another."))
    except DjangoValidationError as caught:
        faults += [Fault("username", data.username, message) for message in caught.messages]
    try:
        validate_password(data.password, candidate)
    except DjangoValidationError as caught:
        faults += [Fault("password", None, message) for message in caught.messages]
    if faults:
        raise InvalidInput(faults)
    user = people.objects.create_user(candidate.username, password=data.password)
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return _session(request)


def locked_out(request: HttpRequest, response: HttpResponse | None, credentials: object, *rest: object) -> JsonResponse:
    """What the throttle says to one who tried too often; named in the settings."""
    return JsonResponse({"faults": [{"field": "password", "value": None, "message": _wait_words()}]}, status=429)


def _wait_words() -> str:
    return f"Too many tries. Wait {round(settings.AXES_COOLOFF_TIME.total_seconds() / 60)} minutes, then try again."


@router.delete("", response=SessionOut)
def sign_out(request: HttpRequest) -> SessionOut:
    """End the session."""
    logout(request)
    return _session(request)
