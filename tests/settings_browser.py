"""Settings for the browser tests: static files hashed and collected as in production."""

from tests.settings import *  # noqa: F403

STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "kessa.ui.storage.HashedStatic"},
}
MIDDLEWARE = ["tests.browser.inflight.InFlight", *MIDDLEWARE]  # noqa: F405
TEST_RUNNER = "tests.runner.BrowserRunner"
DATABASES["default"]["TEST"] = {"NAME": "test_kessa_browser"}  # noqa: F405
MEDIA_URL = "media/"
"""Else the live server looks for every address among the photographs first, and serves static files
from there without letting a browser keep them."""
