"""The API, a health check, and the one page of the front end for everything else."""

from django.db import connection
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.urls import path, re_path
from django.views.decorators.cache import never_cache
from django.views.decorators.csrf import ensure_csrf_cookie

from widedusk.api import api


def health(_: HttpRequest) -> HttpResponse:
    """200 when the database answers."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
    return JsonResponse({"healthy": True})


@never_cache
@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """The front end; its router reads the path."""
    return render(request, "index.html")


urlpatterns = [path("api/", api.urls), path("health", health), re_path(r"^(?!api/|static/).*$", page)]
