"""Settings for the browser tests: static files hashed and collected as in production."""

from tests.settings import *  # noqa: F403

STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "kessa.ui.storage.HashedStatic"},
}
MIDDLEWARE = ["tests.browser.inflight.InFlight", *MIDDLEWARE]  # noqa: F405
TEST_RUNNER = "tests.runner.BrowserRunner"
DATABASES["default"]["TEST"] = {"NAME": "test_kessa_browser"}  # noqa: F405
DATABASES["default"] |= {"CONN_MAX_AGE": 0, "CONN_HEALTH_CHECKS": False}  # noqa: F405
DATABASES["default"]["OPTIONS"] |= {"pool": {"min_size": 1, "max_size": 40}}  # noqa: F405
"""The live server answers each connection of a browser in a thread of its own: a pool keeps these
threads from signing in to the database again and again."""
MEDIA_URL = "media/"
"""Else the live server looks for every address among the photographs first, and serves static files
from there without letting a browser keep them."""
