"""The WSGI application. It refuses to start while a view declares no permission, and has read
limits and units before the first request waits for them."""

import os

from django.core.wsgi import get_wsgi_application

from kessa_core.judging.limit_sets import limit_sets

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kessa.settings")
application = get_wsgi_application()

from kessa.platform.permissions import refuse_undeclared  # noqa: E402 - needs the apps to be ready

refuse_undeclared()
limit_sets()
