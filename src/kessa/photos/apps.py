"""Photographs, as devices took them."""

from django.apps import AppConfig

from kessa.platform.registry import registry


class PhotosConfig(AppConfig):
    name = "kessa.photos"

    def ready(self) -> None:
        """Tell the platform what the audit seals here, and what can be wrong with it."""
        from kessa.photos import comparing, models

        registry.seal(models.Photograph)
        registry.compare(comparing.missing)
        registry.describe({"photograph.kept": "sent a photograph"})
