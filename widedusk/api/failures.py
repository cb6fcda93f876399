"""One way to fail: 422 with the path of each field, its value, and what would be right."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI, Schema
from ninja.errors import AuthenticationError, ValidationError

from widedusk.core.errors import Fault, InvalidInput, storable

_WORDS = {
    "missing": "This is needed.",
    "float_type": "Give a number.",
    "float_parsing": "This is no number.",
    "int_type": "Give a whole number.",
    "int_parsing": "This is no whole number.",
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


def _faults_of(errors: list[dict[str, Any]]) -> list[Fault]:
    """From the parser's report: ("body", "data", "lens", "focal_mm") becomes lens.focal_mm."""
    faults = []
    for error in errors:
        path = [str(part) for part in error.get("loc", ())]
        if path[:1] in (["body"], ["query"], ["path"]):
            path = path[2:] if len(path) > 2 else path[1:]
        message = _WORDS.get(error["type"], "")
        if error["type"].startswith("date"):
            message = "This is no date; write it like 2026-12-09."
        faults.append(Fault(".".join(path), error.get("input"), message or str(error.get("msg", "This cannot be right."))))
    return faults


def answer_failures(api: NinjaAPI) -> None:
    """Teach an API to answer every refusal in the same shape."""

    def say(request: HttpRequest, status: int, faults: list[Fault]) -> HttpResponse:
        body = {"faults": [{"field": fault.field, "value": _plain(fault.value), "message": fault.message} for fault in faults]}
        return api.create_response(request, body, status=status)

    @api.exception_handler(InvalidInput)
    def invalid(request: HttpRequest, exc: InvalidInput) -> HttpResponse:
        return say(request, 422, exc.faults)

    @api.exception_handler(ValidationError)
    def unreadable(request: HttpRequest, exc: ValidationError) -> HttpResponse:
        return say(request, 422, _faults_of(exc.errors))

    @api.exception_handler(AuthenticationError)
    def unsigned(request: HttpRequest, exc: AuthenticationError) -> HttpResponse:
        return say(request, 401, [Fault("", None, "Sign in first.")])

    @api.exception_handler(Http404)
    def missing(request: HttpRequest, exc: Http404) -> HttpResponse:
        return say(request, 404, [Fault("", None, "There is no such record of yours.")])
