"""Which release serves this page: whatever changes a script or a style changes it."""

from django.conf import settings
from django.contrib.staticfiles.storage import staticfiles_storage

from kessa_core import VERSION


def release() -> str:
    """The name of the release, for pages that outlive it."""
    if settings.RELEASE:
        return str(settings.RELEASE)
    return f"{VERSION}-{getattr(staticfiles_storage, 'manifest_hash', '')}".rstrip("-")
