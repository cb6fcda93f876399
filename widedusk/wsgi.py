"""Entry point for the web server."""

import os

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "widedusk.settings")
application = get_wsgi_application()
_ = get_resolver().url_patterns  # every worker reads the API before its first request: nobody waits half a second for it
