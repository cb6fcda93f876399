"""The API, a health check, the field with what works beside its page, and the one page of the desk for everything else."""

from pathlib import Path

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import path, re_path
from django.views.decorators.cache import never_cache
from django.views.decorators.csrf import ensure_csrf_cookie
from ninja.errors import HttpError

from widedusk.api import api

FIELD_FILES = {"sw.js": "text/javascript", "manifest.webmanifest": "application/manifest+json"}


@never_cache
@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """The desk; its router reads the path."""
    return render(request, "index.html")


@never_cache
@ensure_csrf_cookie
def field(request: HttpRequest) -> HttpResponse:
    """The field, an application of its own that stays when the connection goes."""
    return render(request, "field/field.html")


@never_cache
def field_file(request: HttpRequest, name: str) -> HttpResponse:
    """What keeps the field there: it has to come from the field's own address."""
    lies = settings.ROOT / "frontend" / "dist" / "field" / name
    if not lies.is_file():
        raise Http404
    return HttpResponse(lies.read_bytes(), content_type=FIELD_FILES[name])


@never_cache
def authority(request: HttpRequest) -> HttpResponse:
    """The certificate of the authority that was made on this machine, for a phone to trust. It is no secret."""
    lies = Path(settings.WIDE_DUSK_LAN_AUTHORITY)
    if not settings.WIDE_DUSK_LAN_AUTHORITY or not lies.is_file():
        raise Http404
    return HttpResponse(lies.read_bytes(), content_type="application/x-x509-ca-cert")


def no_such_address(request: HttpRequest) -> HttpResponse:
    """What the API does not know is refused in its own shape."""
    return api.on_exception(request, HttpError(404, "There is nothing at this address."))


urlpatterns = [
    path("api/", api.urls),
    re_path(r"^api/", no_such_address),
    *(path(f"field/{name}", field_file, {"name": name}) for name in FIELD_FILES),
    path("field/authority.crt", authority),
    re_path(r"^field(?:/.*)?$", field),
    re_path(r"^(?!api/|static/).*$", page),
]
