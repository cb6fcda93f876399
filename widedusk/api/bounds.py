"""No request body larger than any that is asked for, refused before it is read."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase, JsonResponse

from widedusk.core.kit.exchange import MOST_BYTES

MOST_BODY = MOST_BYTES + 50_000  # the largest file with what a form wraps around it


def bounded_body(get_response: Callable[[HttpRequest], HttpResponseBase]) -> Callable[[HttpRequest], HttpResponseBase]:
    """Middleware. A body without a stated length is not read at all, so the statement is enough."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        stated = str(request.META.get("CONTENT_LENGTH") or "0")
        if stated.isdecimal() and int(stated) > MOST_BODY:
            told = f"{int(stated):,} bytes are too many; a file may have {MOST_BYTES:,}."
            return JsonResponse({"faults": [{"field": "file", "value": int(stated), "message": told}]}, status=413)
        return get_response(request)

    return answer
