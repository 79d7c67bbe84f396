"""Settings for the web tests: the application's own, with a fast hasher and plain static files."""

from kessa.settings import *  # noqa: F403
from kessa.settings import MIDDLEWARE as WHOLE

ALLOWED_HOSTS = ["testserver", "localhost", "127.0.0.1"]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
PAST_STATIC = WHOLE.index("whitenoise.middleware.WhiteNoiseMiddleware") + 1
MIDDLEWARE = [*WHOLE[:PAST_STATIC], "tests.role.AsApplication", *WHOLE[PAST_STATIC:]]
TEST_RUNNER = "tests.runner.CountingRunner"
LOGGING = {"version": 1, "loggers": {"django.request": {"level": "CRITICAL"}}}
SECURE_SSL_REDIRECT = False
SESSION_COOKIE_SECURE = False
CSRF_COOKIE_SECURE = False
SESSION_COOKIE_NAME, CSRF_COOKIE_NAME = "sessionid", "csrftoken"  # __Host- asks for TLS
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
