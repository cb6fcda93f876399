"""One's own account: another password, no sessions elsewhere, everything in one file, the end of it."""

from typing import Annotated, cast

from django.contrib.auth import authenticate, login, logout
from django.contrib.auth.models import User
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.api.files import FileOut
from widedusk.api.schemas import Done, user_of
from widedusk.core.errors import Fault, InvalidInput
from widedusk.records.people.services import delete_account, end_sessions, everything_of, set_password

router = Router(tags=["account"])
Word = Annotated[str, Field(max_length=150)]


def _person(request: HttpRequest, password: str) -> User:
    """Who asks, proved by the password once more: a page left open is not enough. Tries count like those of signing in."""
    person = cast(User, user_of(request))
    if authenticate(request, username=person.get_username(), password=password) is None:
        raise InvalidInput([Fault("password", None, "This is not your password. Check it and try again.")])
    return person


class PasswordIn(Schema):
    password: Word
    new_password: Word


@router.put("/password", response={200: Done, 422: FailureOut, 429: FailureOut})
def change_password(request: HttpRequest, data: PasswordIn) -> Done:
    """Take another password. Every other session ends."""
    person = _person(request, data.password)
    set_password(person, data.new_password, "new_password")
    end_sessions(person, but=request.session.session_key)
    login(request, person, backend="django.contrib.auth.backends.ModelBackend")
    return Done()


class EndedOut(Schema):
    ended: int


@router.post("/sign-out-elsewhere", response=EndedOut)
def sign_out_elsewhere(request: HttpRequest) -> EndedOut:
    """End every session of yours but this one."""
    return EndedOut(ended=end_sessions(cast(User, user_of(request)), but=request.session.session_key))


@router.get("/export", response=FileOut)
def export(request: HttpRequest) -> FileOut:
    """Everything that is kept of you, as JSON."""
    return FileOut(name="wide-dusk-account.json", media="application/json", text=everything_of(cast(User, user_of(request))))


class EndIn(Schema):
    password: Word


@router.post("/delete", response={200: Done, 422: FailureOut, 429: FailureOut})
def delete(request: HttpRequest, data: EndIn) -> Done:
    """Delete the account with everything in it. It cannot be brought back."""
    person = _person(request, data.password)
    logout(request)
    delete_account(person)
    return Done()
