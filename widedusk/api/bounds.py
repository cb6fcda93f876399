"""What holds for every request: whether the database is there, and no answer of a person's kept on the way."""

from collections.abc import Callable

from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponseBase, JsonResponse


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
