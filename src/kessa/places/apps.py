"""Waters, their points, and which limits apply there."""

from django.apps import AppConfig
from django.urls import reverse

from kessa.platform.registry import registry

SENTENCES = {
    "water.made": "added a stream, pool or system",
    "water.changed": "edited a stream, pool or system",
    "point.made": "added a point",
    "point.changed": "edited a point",
    "water.limits": "changed the limits that apply",
    "limits.written": "wrote targets",
    "limits.published": "published a limit set",
}
"""How the audit says what was done here."""


class PlacesConfig(AppConfig):
    name = "kessa.places"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.places import models, services

        registry.seal(models.LimitAttachment, ["point_id"])
        registry.seal(models.OwnLimitSet, ["family", "based_on", "what"])
        registry.name(models.OwnLimitSet, str)
        registry.exempt_from_seals("a setting, sealed by its revisions", models.Water, models.Point)
        registry.exempt_from_seals("sealed when it is published", models.LimitSetDraft)
        registry.keep_revisions(models.Water, services.said_of_water)
        registry.keep_revisions(models.Point, services.said_of_point)
        registry.link(models.Point, lambda slug, number: reverse("point", args=[slug, number]))
        registry.name(models.Water, str)
        registry.name(models.Point, str, "water")
        registry.describe(SENTENCES)
