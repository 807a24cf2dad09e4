"""Settings, all from the environment; README.md says which a real installation needs.

JUSTLOOP_DATA        folder for the database and files (default: var/ in a checkout, else
                     ~/.local/share/justloop)
JUSTLOOP_SECRET_KEY  the secret key; required unless the demo runs
JUSTLOOP_HOSTS       host names served, comma separated
JUSTLOOP_HTTPS       1 behind HTTPS: secure cookies, redirect, HSTS
JUSTLOOP_HSTS_SUBDOMAINS, JUSTLOOP_HSTS_PRELOAD  1: HSTS for every subdomain, for browsers' lists
JUSTLOOP_DEMO        1: the demo's one-press sign-in, loopback only
JUSTLOOP_METER       host:port of a meter's line (default 127.0.0.1:7300; docs/meter.md)
JUSTLOOP_DEBUG       1: for development only
"""

import os
from datetime import timedelta
from pathlib import Path

from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured

PACKAGE = Path(__file__).resolve().parent


def _data() -> Path:
    """The folder of the database: never among the installed packages."""
    if given := os.environ.get("JUSTLOOP_DATA"):
        return Path(given).resolve()
    checkout = PACKAGE.parents[1]
    if (checkout / "pyproject.toml").exists():
        return checkout / "var"
    home = os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share"
    return Path(home) / "justloop"


DATA = _data()
DEMO = os.environ.get("JUSTLOOP_DEMO") == "1"
DEBUG = os.environ.get("JUSTLOOP_DEBUG") == "1"
HTTPS = os.environ.get("JUSTLOOP_HTTPS") == "1"
PHOTOS = DATA / "photos"
SIGNED = DATA / "signed"
KEYS = DATA / "keys"
#: Where a meter answers (docs/meter.md): loopback only, unless somebody says otherwise.
OFFICE = os.environ.get("JUSTLOOP_OFFICE", "http://127.0.0.1:7400")
METER = os.environ.get("JUSTLOOP_METER", "127.0.0.1:7300")
DATA.mkdir(parents=True, exist_ok=True)


def _secret_key() -> str:
    """From the environment; the demo makes one and keeps it beside its database."""
    if key := os.environ.get("JUSTLOOP_SECRET_KEY"):
        return key
    if not (DEMO or DEBUG):
        raise ImproperlyConfigured(
            "Set JUSTLOOP_SECRET_KEY to a long random text; README.md shows how to make one."
        )
    from django.core.management.utils import get_random_secret_key

    kept = DATA / "demo-secret-key"
    if not kept.exists():
        kept.write_text(get_random_secret_key(), "utf-8")
        kept.chmod(0o600)
    return kept.read_text("utf-8")


SECRET_KEY = _secret_key()
ALLOWED_HOSTS = [
    h for h in os.environ.get("JUSTLOOP_HOSTS", "localhost,127.0.0.1,[::1]").split(",") if h
]
CSRF_TRUSTED_ORIGINS = [f"https://{h}" for h in ALLOWED_HOSTS] if HTTPS else []

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "whitenoise.runserver_nostatic",
    "django.contrib.staticfiles",
    "django_htmx",
    "csp",
    "axes",
    "django_otp",
    "django_otp.plugins.otp_totp",
    "django_otp.plugins.otp_static",
    "justloop.accounts",
    "justloop.jobs",
    "justloop.firm",
    "justloop.log",
    "justloop.planning",
    "justloop.signing",
    "justloop.learn",
]
MIDDLEWARE = [
    "justloop.logs.RequestId",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "justloop.limits.BodyLimit",
    "justloop.room.Room",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "justloop.accounts.seats.SeatSeen",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "axes.middleware.AxesMiddleware",
    "justloop.privacy.NoStore",
    "justloop.log.queued.AsWhoMadeIt",
    "justloop.trouble.Trouble",
]
ROOT_URLCONF = "justloop.urls"
WSGI_APPLICATION = "justloop.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [PACKAGE / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "justloop.context.shell",
            ],
        },
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA / "justloop.sqlite3",
        "OPTIONS": {
            "timeout": 10,  # busy timeout, seconds
            "transaction_mode": "IMMEDIATE",
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;"
            " PRAGMA foreign_keys=ON; PRAGMA temp_store=MEMORY;",
        },
        # A file, not memory: two browsers of a test are two threads.
        "TEST": {"NAME": DATA / "test.sqlite3"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": 10},
    },
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "jobs"
LOGOUT_REDIRECT_URL = "sign-in"
# A slow-down, not a wall: after some failures of a name from an address, a minute's wait.
AXES_HANDLER = "justloop.accounts.slow_down.SlowDown"
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = timedelta(minutes=1)
AXES_RESET_ON_SUCCESS = True
AXES_LOCKOUT_TEMPLATE = "accounts/locked.html"
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_VERBOSE = False

LANGUAGE_CODE = "en"
TIME_ZONE = os.environ.get("TZ") or "UTC"
USE_I18N = False
USE_TZ = True

STATIC_URL = "static/"
STATIC_ROOT = DATA / "static"
STATICFILES_DIRS = [PACKAGE / "static"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}

DATA_UPLOAD_MAX_MEMORY_SIZE = 2_500_000  # bytes of a form (limits.py says so first)
DATA_UPLOAD_MAX_NUMBER_FIELDS = 200
FILE_UPLOAD_MAX_MEMORY_SIZE = 2_500_000

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "data:", "blob:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
OTP_TOTP_ISSUER = "Just Loop"
SESSION_ENGINE = "justloop.accounts.session_store"
SESSION_COOKIE_AGE = 60 * 60 * 24 * 30
CSRF_FAILURE_VIEW = "justloop.accounts.views.forgery"
if HTTPS:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_SSL_REDIRECT = True
    SECURE_REDIRECT_EXEMPT = [r"^healthz$"]  # asked from the machine itself
    SESSION_COOKIE_SECURE = True
    CSRF_COOKIE_SECURE = True
    SECURE_HSTS_SECONDS = 31_536_000
    # Both bind more than this installation: only where somebody asks for it.
    SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]
    SECURE_HSTS_INCLUDE_SUBDOMAINS = os.environ.get("JUSTLOOP_HSTS_SUBDOMAINS") == "1"
    SECURE_HSTS_PRELOAD = os.environ.get("JUSTLOOP_HSTS_PRELOAD") == "1"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"json": {"()": "justloop.logs.AsJson"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "json"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    # One line a request; the demo's terminal stays readable.
    "loggers": {
        "justloop.requests": {"level": "WARNING" if DEMO or DEBUG else "INFO"},
        # These name the path, where a one-use link may stand: the line above says enough.
        "django.request": {"level": "CRITICAL"},
        "django.security": {"level": "ERROR"},
    },
}
