"""Whether whoever asked has left, so that long work for nobody can end."""

import select
import socket
import ssl

from django.http import HttpRequest


def hung_up(request: HttpRequest) -> bool:
    """Whether the other end of a request's connection is closed. Never under TLS, whose records cannot be looked at beforehand."""
    line = request.META.get("gunicorn.socket")
    if not isinstance(line, socket.socket) or isinstance(line, ssl.SSLSocket):
        return False
    try:
        readable, _, _ = select.select([line], [], [], 0)
        return bool(readable) and not line.recv(1, socket.MSG_PEEK)
    except OSError:
        return True
