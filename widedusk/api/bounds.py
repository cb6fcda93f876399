"""What holds for every request: no body larger than any that is asked for, and no answer of a person's kept on the way."""

import re
from collections.abc import Callable

from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponseBase, JsonResponse

from widedusk.core.files import MOST_BYTES
from widedusk.core.frames.header import MOST_PICTURE_BYTES

WRAPPING = 50_000  # what a form puts around a file
PICTURES = re.compile(r"/api/pictures|/api/frames/folders/\d+/files")  # where one picture at a time comes in


def answers_health(get_response: Callable[[HttpRequest], HttpResponseBase]) -> Callable[[HttpRequest], HttpResponseBase]:
    """Middleware. 200 at /health when the database answers, 503 when it does not, whatever name or protocol it is asked by."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        if request.path != "/health":
            return get_response(request)
        try:
            with connection.cursor() as cursor:
                cursor.execute("SELECT 1")
        except DatabaseError:
            connection.close()
            return JsonResponse({"healthy": False}, status=503)
        return JsonResponse({"healthy": True})

    return answer


def keeps_nothing(get_response: Callable[[HttpRequest], HttpResponseBase]) -> Callable[[HttpRequest], HttpResponseBase]:
    """Middleware. Answers of the API are a person's own: no cache on the way keeps them, unless an endpoint says otherwise."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        response = get_response(request)
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "private, no-store")
        return response

    return answer


def bounded_body(get_response: Callable[[HttpRequest], HttpResponseBase]) -> Callable[[HttpRequest], HttpResponseBase]:
    """Middleware. A body without a stated length is not read at all, so the statement is enough."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        stated = str(request.META.get("CONTENT_LENGTH") or "0")
        most = MOST_PICTURE_BYTES if PICTURES.fullmatch(request.path) else MOST_BYTES
        if stated.isdecimal() and int(stated) > most + WRAPPING:
            told = f"{int(stated):,} bytes are too many; a file may have {most:,}."
            return JsonResponse({"faults": [{"field": "file", "value": int(stated), "message": told}]}, status=413)
        return get_response(request)

    return answer
