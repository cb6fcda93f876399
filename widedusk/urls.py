"""The API, a health check, and the one page of the front end for everything else."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import path, re_path
from django.views.decorators.cache import never_cache
from django.views.decorators.csrf import ensure_csrf_cookie
from ninja.errors import HttpError

from widedusk.api import api


@never_cache
@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """The front end; its router reads the path."""
    return render(request, "index.html")


def no_such_address(request: HttpRequest) -> HttpResponse:
    """What the API does not know is refused in its own shape."""
    return api.on_exception(request, HttpError(404, "There is nothing at this address."))


urlpatterns = [path("api/", api.urls), re_path(r"^api/", no_such_address), re_path(r"^(?!api/|static/).*$", page)]
