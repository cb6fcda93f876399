"""One way to fail: 422 with the path of each field, its value, and what would be right."""

import errno
import logging
from collections.abc import Iterable, Mapping
from typing import Any

from django.core.exceptions import RequestDataTooBig, SuspiciousOperation
from django.db import DataError, IntegrityError, InterfaceError, OperationalError, connection
from django.http import Http404, HttpRequest, HttpResponse
from django.http.multipartparser import MultiPartParserError
from ninja import NinjaAPI, Schema
from ninja.errors import AuthenticationError, HttpError, ValidationError

from widedusk.core.errors import Fault, InvalidInput, storable
from widedusk.core.number_text import LIKE

log = logging.getLogger(__name__)
NO_ROOM = {errno.ENOSPC, errno.EDQUOT, errno.EFBIG}
MOST_WORDS = 600  # letters of a message
_WORDS = {
    "missing": "This is needed.",
    "float_type": LIKE,
    "float_parsing": LIKE,
    "int_type": "Give a whole number.",
    "int_parsing": "Give a whole number.",
    "int_from_float": "Give a whole number.",
    "finite_number": "Give a finite number.",
    "string_type": "Give a text.",
    "string_too_long": "This is too long.",
    "too_long": "These are too many.",
}


class FaultOut(Schema):
    field: str
    value: str | float | None
    message: str


class FailureOut(Schema):
    faults: list[FaultOut]


def _plain(value: object) -> str | float | None:
    if value is None:
        return None
    if isinstance(value, (int, float)) and not isinstance(value, bool) and abs(value) < 2**53:
        return value
    return storable(str(value)[:400])[:200]


def _short(message: str) -> str:
    """A sentence of a readable length; of a longer one its beginning and its end, where it says what would be right."""
    kept = storable(message)
    return kept if len(kept) <= MOST_WORDS else f"{kept[: MOST_WORDS // 2]} … {kept[-MOST_WORDS // 2 :]}"


def told(fault: Fault) -> FaultOut:
    """A fault as it goes out: it may quote what was sent, as what can be shown, and no longer than can be read."""
    return FaultOut(field=storable(fault.field)[:200], value=_plain(fault.value), message=_short(fault.message))


def faults_of(errors: Iterable[Mapping[str, Any]]) -> list[Fault]:
    """From the parser's report: ("body", "data", "lens", "focal_mm") becomes lens.focal_mm."""
    faults = []
    for error in errors:
        path = [str(part) for part in error.get("loc", ())]
        if path[:1] in (["body"], ["query"], ["path"]):
            path = path[2:] if len(path) > 2 else path[1:]
        message = _WORDS.get(error["type"], "")
        if error["type"].startswith("time"):
            message = "This is no time; write it like 07:00."
        elif error["type"].startswith("date"):
            message = "This is no date; write it like 9 Dec 2026 or 2026-12-09."
        faults.append(Fault(".".join(path), error.get("input"), message or str(error.get("msg", "This cannot be right."))))
    return faults


def answer_failures(api: NinjaAPI) -> None:
    """Teach an API to answer every refusal in the same shape."""

    def say(request: HttpRequest, status: int, faults: list[Fault]) -> HttpResponse:
        return api.create_response(request, {"faults": [told(fault).dict() for fault in faults]}, status=status)

    @api.exception_handler(InvalidInput)
    def invalid(request: HttpRequest, exc: InvalidInput) -> HttpResponse:
        return say(request, 422, exc.faults)

    @api.exception_handler(ValidationError)
    def unreadable(request: HttpRequest, exc: ValidationError) -> HttpResponse:
        return say(request, 422, faults_of(exc.errors))

    @api.exception_handler(AuthenticationError)
    def unsigned(request: HttpRequest, exc: AuthenticationError) -> HttpResponse:
        return say(request, 401, [Fault("", None, "Sign in first.")])

    @api.exception_handler(HttpError)
    def refused(request: HttpRequest, exc: HttpError) -> HttpResponse:
        if isinstance(exc.__cause__, InvalidInput):  # the framework wraps what its parser raises
            return say(request, 422, exc.__cause__.faults)
        return say(request, exc.status_code, [Fault("", None, str(exc))])

    @api.exception_handler(IntegrityError)
    def taken(request: HttpRequest, exc: IntegrityError) -> HttpResponse:
        """Two at once: the database let the first in."""
        if "of_a_name" in str(exc) or "username" in str(exc):
            field = "username" if "username" in str(exc) else "name"
            return say(request, 422, [Fault(field, None, "This name was taken a moment ago; choose another.")])
        log.warning("Refused by the database: %s", exc, extra={"request": request})
        return say(
            request, 409, [Fault("", None, "It was changed elsewhere at the same moment. Look at it again, then try once more.")]
        )

    @api.exception_handler(DataError)
    def unfit(request: HttpRequest, exc: DataError) -> HttpResponse:
        log.warning("Not storable: %s", exc, extra={"request": request})
        return say(request, 422, [Fault("", None, "Something in it cannot be stored: a number too large or a text too long.")])

    @api.exception_handler(OperationalError)
    @api.exception_handler(InterfaceError)
    def away(request: HttpRequest, exc: Exception) -> HttpResponse:
        """The database is down or coming back; the connection is not used again."""
        connection.close()
        log.warning("No database: %s", exc, extra={"request": request})
        return say(
            request, 503, [Fault("", None, "The database does not answer just now. Nothing typed is lost; try again in a moment.")]
        )

    @api.exception_handler(OSError)
    def no_room(request: HttpRequest, exc: OSError) -> HttpResponse:
        if exc.errno not in NO_ROOM:
            raise exc
        log.error("No room: %s", exc, extra={"request": request})
        return say(request, 507, [Fault("", None, "There is no room left on the server's disk. Nothing was kept of it.")])

    @api.exception_handler(MultiPartParserError)
    def torn(request: HttpRequest, exc: MultiPartParserError) -> HttpResponse:
        log.info("An upload that cannot be parted: %s", exc, extra={"request": request})
        return say(request, 400, [Fault("", None, "This upload cannot be read; choose the file once more.")])

    @api.exception_handler(SuspiciousOperation)
    def too_much(request: HttpRequest, exc: SuspiciousOperation) -> HttpResponse:
        large = isinstance(exc, RequestDataTooBig)
        told = "This is larger than anything that is asked for." if large else "This request is not in order."
        return say(request, 413 if large else 400, [Fault("", None, told)])

    @api.exception_handler(Exception)
    def ours(request: HttpRequest, exc: Exception) -> HttpResponse:
        log.exception("%s %s failed", request.method, request.path, extra={"request": request})
        return say(
            request, 500, [Fault("", None, "This failed through our fault, and is written down in the log. Try it once more.")]
        )

    @api.exception_handler(Http404)
    def missing(request: HttpRequest, exc: Http404) -> HttpResponse:
        return say(request, 404, [Fault("", None, "There is no such record of yours.")])
