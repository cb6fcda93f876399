"""Entry point for the web server: the front, and Django behind it."""

from http.cookies import CookieError, SimpleCookie
from importlib import import_module

from widedusk.front import Front
from widedusk.wsgi import application as django


def is_signed_in(cookies: str) -> bool:
    """Whether somebody is signed in by the session that the cookies name."""
    from django.conf import settings  # noqa: PLC0415 - after Django is set up
    from django.contrib.auth import SESSION_KEY  # noqa: PLC0415
    from django.db import close_old_connections  # noqa: PLC0415

    try:
        key = SimpleCookie(cookies)[settings.SESSION_COOKIE_NAME].value
    except (CookieError, KeyError):
        return False
    close_old_connections()
    try:
        return SESSION_KEY in import_module(settings.SESSION_ENGINE).SessionStore(key)
    finally:
        close_old_connections()


application = Front(django, is_signed_in)
