"""Settings for the core's tests: no application, no database."""

SECRET_KEY = "core-tests"
INSTALLED_APPS: list[str] = []
DATABASES: dict[str, dict[str, str]] = {}
USE_TZ = True
TEST_RUNNER = "tests.runner.CountingRunner"
