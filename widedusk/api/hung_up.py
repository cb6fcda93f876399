"""Whether whoever asked still waits for the answer."""

from django.http import HttpRequest

from widedusk.front import DISCONNECTED


def hung_up(request: HttpRequest) -> bool:
    """Whether the other end of a request's connection is closed; False where nothing in front of us says so."""
    gone = request.META.get(DISCONNECTED)
    return gone is not None and bool(gone.is_set())
