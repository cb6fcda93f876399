"""Django's settings; every value that differs between machines comes from the environment."""

import os
from datetime import timedelta
from pathlib import Path
from wsgiref.headers import Headers

from django.core.exceptions import ImproperlyConfigured

ROOT = Path(__file__).resolve().parents[2]
VAR = Path(os.environ.get("WIDE_DUSK_VAR") or ROOT / "var")  # everything that this checkout makes and keeps


def _needed(name: str) -> str:
    value = os.environ.get(name)
    if not value:
        raise ImproperlyConfigured(f"{name} is not set. Start through ./wide-dusk, which sets it, or see docs/architecture.md.")
    return value


def _on(name: str) -> bool:
    return os.environ.get(name, "") not in {"", "0", "no", "false"}


SECRET_KEY = _needed("WIDE_DUSK_SECRET_KEY")
DEBUG = False
ALLOWED_HOSTS = os.environ.get("WIDE_DUSK_HOSTS", "127.0.0.1,localhost").split(",")

# Product
WIDE_DUSK_DEMO = _on("WIDE_DUSK_DEMO")  # offer the demo account on the sign-in page
WIDE_DUSK_DEMO_PASSWORD = os.environ.get("WIDE_DUSK_DEMO_PASSWORD", "")
WIDE_DUSK_SIGN_UP = os.environ.get("WIDE_DUSK_SIGN_UP", "open")  # open, closed, or first: until somebody has an account
if WIDE_DUSK_SIGN_UP not in {"open", "first", "closed"}:
    raise ImproperlyConfigured(f"WIDE_DUSK_SIGN_UP is “{WIDE_DUSK_SIGN_UP}”; set it to open, first or closed.")
WIDE_DUSK_ACCOUNTS_PER_HOUR = int(os.environ.get("WIDE_DUSK_ACCOUNTS_PER_HOUR", "20"))  # that anybody may make, in all
WIDE_DUSK_FORECAST_URL = os.environ.get("WIDE_DUSK_FORECAST_URL", "")  # of an hourly forecast service; none: no forecast
WIDE_DUSK_FORECAST_KEY = os.environ.get(
    "WIDE_DUSK_FORECAST_KEY", ""
)  # “Header: value” or “name=value” of the query, if it wants one
WIDE_DUSK_PATTERNS = os.environ.get("WIDE_DUSK_PATTERNS", str(VAR / "solver" / "patterns.bin"))  # made at set-up
WIDE_DUSK_PICTURES = os.environ.get("WIDE_DUSK_PICTURES", str(VAR / "pictures"))  # uploads, until they are measured
WIDE_DUSK_OBJECT_STORE = os.environ.get("WIDE_DUSK_OBJECT_STORE", "")  # for them instead: http(s)://key:secret@host:port/bucket
WIDE_DUSK_PICTURE_FOLDER = os.environ.get("WIDE_DUSK_PICTURE_FOLDER", "")  # pictures may be chosen from below this; none: no folder
WIDE_DUSK_MACHINE = os.environ.get("WIDE_DUSK_MACHINE", "")  # whose folder that is, of a worker elsewhere; none: the server's own
WIDE_DUSK_LAN_ADDRESS = os.environ.get("WIDE_DUSK_LAN_ADDRESS", "")  # where a phone in the same network finds it; none: it does not
WIDE_DUSK_LAN_FINGERPRINT = os.environ.get("WIDE_DUSK_LAN_FINGERPRINT", "")  # SHA-256 of the authority that was made here
WIDE_DUSK_LAN_AUTHORITY = os.environ.get("WIDE_DUSK_LAN_AUTHORITY", "")  # its certificate, a file
WIDE_DUSK_SEARCH_S = float(os.environ.get("WIDE_DUSK_SEARCH_S", "6"))  # that the best order of a night is looked for at most
WIDE_DUSK_NOW = os.environ.get("WIDE_DUSK_NOW", "")  # ISO instant that freezes the clock, or @ and a file with one

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "axes",
    "csp",
    "widedusk.records.kit",
    "widedusk.records.grounds",
    "widedusk.records.targets",
    "widedusk.records.habits",
    "widedusk.records.weather",
    "widedusk.records.nights",
    "widedusk.records.pictures",
    "widedusk.records.frames",
    "widedusk.records.pole",
    "widedusk.records.people",
    "procrastinate.contrib.django",
    "demo",
]
MIDDLEWARE = [
    "widedusk.api.bounds.answers_health",  # before anything that looks at host or protocol: it is asked on this machine
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "widedusk.api.bounds.keeps_nothing",
    "csp.middleware.CSPMiddleware",
    "django.middleware.gzip.GZipMiddleware",  # of answers; the pages were packed when they were built
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "widedusk.urls"
WSGI_APPLICATION = "widedusk.wsgi.application"
TEMPLATES = [
    {"BACKEND": "django.template.backends.django.DjangoTemplates", "DIRS": [ROOT / "frontend" / "dist"], "APP_DIRS": False}
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "HOST": os.environ.get("WIDE_DUSK_DB_HOST", "127.0.0.1"),
        "PORT": _needed("WIDE_DUSK_DB_PORT"),
        "NAME": os.environ.get("WIDE_DUSK_DB_NAME", "widedusk"),
        "USER": os.environ.get("WIDE_DUSK_DB_USER", "widedusk"),
        "PASSWORD": _needed("WIDE_DUSK_DB_PASSWORD"),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en-gb"

# Accounts
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in (
        "UserAttributeSimilarityValidator",
        "MinimumLengthValidator",
        "CommonPasswordValidator",
        "NumericPasswordValidator",
    )
]
AXES_FAILURE_LIMIT = 6
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_LOCKOUT_CALLABLE = "widedusk.api.session.locked_out"
AXES_VERBOSE = False

# Security: behind HTTPS set WIDE_DUSK_HTTPS=1
_HTTPS = _on("WIDE_DUSK_HTTPS")
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = _HTTPS
SECURE_HSTS_SECONDS = 31_536_000 if _HTTPS else 0
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if _HTTPS else None
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS] if _HTTPS else []
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
X_FRAME_OPTIONS = "DENY"
SECURE_REFERRER_POLICY = "same-origin"
# The component library writes its styles into the page at run time, hence inline styles; scripts are files of our own only.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'self'"],
        "script-src": ["'self'"],
        "style-src": ["'self'", "'unsafe-inline'"],
        "img-src": ["'self'", "data:"],
        "font-src": ["'self'", "data:"],
        "connect-src": ["'self'"],
        "object-src": ["'none'"],
        "base-uri": ["'self'"],
        "form-action": ["'self'"],
        "frame-ancestors": ["'none'"],
    }
}
DATA_UPLOAD_MAX_MEMORY_SIZE = 256 * 1024

# Long work: a queue in the same database
PROCRASTINATE_IMPORT_PATHS = ["widedusk.jobs.queue"]
PROCRASTINATE_WORKER_DEFAULTS = {
    "concurrency": 1,
    "delete_jobs": "successful",
    "update_heartbeat_interval": 4.0,
    "stalled_worker_timeout": 20.0,
}

STATIC_URL = "/static/"
STATIC_ROOT = VAR / "static"
STATICFILES_DIRS = [path for path in [ROOT / "frontend" / "dist"] if path.is_dir()]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
WHITENOISE_ALLOW_ALL_ORIGINS = False


def _guard(headers: Headers, path: str, url: str) -> None:
    """Whatever lies among the static files can be shown in nobody's frame and runs nothing by itself."""
    headers["X-Frame-Options"] = "DENY"
    headers["Content-Security-Policy"] = "default-src 'none'; frame-ancestors 'none'"


WHITENOISE_ADD_HEADERS_FUNCTION = _guard
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/static/(field/)?assets/.+-[\w-]{8}\.\w+$"  # the bundler writes a hash into these names

NINJA_PAGINATION_CLASS = "widedusk.api.door.Pages"
NINJA_PAGINATION_MAX_LIMIT = 200

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"asked": {"()": "widedusk.settings.logs.WhoAsked"}},
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s account %(account)s from %(address)s: %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "filters": ["asked"], "formatter": "line"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
