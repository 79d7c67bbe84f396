"""Settings, all from the environment; ./kessa demo and ./kessa test set it, docs/SERVE.md tells."""

import os
from pathlib import Path

from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured

BASE = Path(__file__).resolve().parent


def env(name: str, default: str = "") -> str:
    return os.environ.get(f"KESSA_{name}", default)


DEMO = bool(env("DEMO"))
DEBUG = bool(env("DEBUG"))
LOCAL = DEMO or DEBUG
SECRET_KEY = env("SECRET_KEY")
if not SECRET_KEY:
    raise ImproperlyConfigured("KESSA_SECRET_KEY is not set; docs/SERVE.md explains it.")
BEHIND_PROXY = bool(env("BEHIND_PROXY"))
RELEASE = env("RELEASE")
OTP_TOTP_ISSUER = "Kessa"
ALLOWED_HOSTS = ["localhost", "127.0.0.1", "[::1]"] if LOCAL else env("HOSTS").split(",")

PAGES = (
    "today",
    "points",
    "entry",
    "sets",
    "visit",
    "bench",
    "sending",
    "log",
    "limits",
    "calculator",
    "parameters",
    "lots",
    "editor",
    "finding",
    "readings",
    "method",
    "search",
    "audit",
    "demo",
)
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.contrib.humanize",
    "django.contrib.postgres",
    "django_otp",
    "django_otp.plugins.otp_totp",
    "django_otp.plugins.otp_static",
    "pgtrigger",
    "csp",
    "procrastinate.contrib.django",
    "kessa.ui",
    "kessa.platform",
    "kessa.people",
    "kessa.photos",
    "kessa.library",
    "kessa.places",
    "kessa.visits",
    "kessa.runs",
    "kessa.results",
    "kessa.verdicts",
    "kessa.flows",
    *(f"kessa.pages.{page}" for page in PAGES),
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "csp.middleware.CSPMiddleware",
    "kessa.platform.middleware.PermissionsPolicy",
    "kessa.platform.middleware.NothingStored",
    "kessa.platform.middleware.RequestLogMiddleware",
    "kessa.platform.middleware.RequestScopeMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "kessa.people.middleware.LastSeenMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
]

ROOT_URLCONF = "kessa.urls"
WSGI_APPLICATION = "kessa.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "kessa.ui.context.page",
            ],
        },
    }
]

APPLICATION_ROLE = env("DB_APP_USER")
"""The database role that serves requests and does jobs; it owns nothing (kessa.platform.grants)."""
AS_OWNER = not APPLICATION_ROLE or env("DB_AS") == "owner"
HEAD_KEY = env("HEAD_KEY") or SECRET_KEY
"""What the heads of the audit are signed with (kessa.platform.heads)."""
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "HOST": env("DB_HOST", "127.0.0.1"),
        "PORT": env("DB_PORT", "5432"),
        "NAME": env("DB_NAME", "kessa"),
        "USER": env("DB_USER", "kessa") if AS_OWNER else APPLICATION_ROLE,
        "PASSWORD": env("DB_PASSWORD") if AS_OWNER else env("DB_APP_PASSWORD"),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {"server_side_binding": True, "prepare_threshold": 2},  # decision 20
    }
}
if replica := env("REPLICA_HOST"):
    where = {"HOST": replica, "PORT": env("REPLICA_PORT", "5432"), "TEST": {"MIRROR": "default"}}
    DATABASES["replica"] = DATABASES["default"] | where
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "platform.Person"
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "home"
LOGOUT_REDIRECT_URL = "sign-in"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}", "OPTIONS": options}
    for name, options in (
        ("UserAttributeSimilarityValidator", {}),
        ("MinimumLengthValidator", {"min_length": 12}),
        ("CommonPasswordValidator", {}),
        ("NumericPasswordValidator", {}),
    )
]
"""Twelve characters; not among the common ones that Django ships as a list."""

LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_TZ = True
USE_I18N = False

STATIC_URL = "static/"
STATIC_ROOT = env("STATIC_ROOT") or str(BASE.parent.parent / "static")
MEDIA_ROOT = env("MEDIA_ROOT")
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {
        "BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"
        if DEBUG
        else "kessa.ui.storage.HashedStatic"
    },
}

DATA_UPLOAD_MAX_MEMORY_SIZE = 1_000_000
LONGEST_SIGN_IN = 24 * 60 * 60
LONGEST_IDLE = 8 * 60 * 60
"""Seconds from signing in, and since the last request, after which somebody signs in again. Acts
that wait on a device outlive both (decision 9)."""
SESSION_COOKIE_AGE = LONGEST_SIGN_IN
SESSION_COOKIE_SAMESITE = "Lax"
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "data:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "worker-src": [SELF],
        "object-src": [NONE],
        "base-uri": [NONE],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
    }
}
SECURE_REFERRER_POLICY = "same-origin"
if not LOCAL:
    SECURE_SSL_REDIRECT = True
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if BEHIND_PROXY else None
    SECURE_HSTS_SECONDS = 31_536_000
    SECURE_HSTS_INCLUDE_SUBDOMAINS = True
    SECURE_HSTS_PRELOAD = True
    SESSION_COOKIE_SECURE = True
    CSRF_COOKIE_SECURE = True
    SESSION_COOKIE_NAME = "__Host-session"
    CSRF_COOKIE_NAME = "__Host-csrftoken"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"json": {"()": "kessa.platform.logs.JsonLogFormatter"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "json"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {
        "kessa": {"level": "INFO" if env("LOG_REQUESTS") else "WARNING"},
        "kessa.security": {"level": "INFO"},
        "django.request": {"handlers": ["console"], "propagate": False},
        "django.server": {"handlers": ["console"], "propagate": False},
    },
}

PROCRASTINATE_AUTODISCOVER_MODULE_NAME = "jobs"
"""An app's background work stands in its module of this name."""
PROCRASTINATE_READONLY_MODELS = True
