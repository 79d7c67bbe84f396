"""Settings for the tests of readings: the browser's, with a database of their own."""

from tests.settings_browser import *  # noqa: F403

DATABASES["default"]["TEST"] = {"NAME": "test_kessa_reading"}  # noqa: F405
