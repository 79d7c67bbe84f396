"""Methods in use, lots, instruments."""

from django.apps import AppConfig

from kessa.platform.registry import registry

SENTENCES = {
    "method.taken-up": "took up a method document",
    "method.own-settings": "chose how a method is done here",
    "lot.noted": "noted a lot",
    "lot.corrected": "corrected what is noted of a lot",
    "instrument.noted": "noted an instrument",
    "instrument.changed": "changed what is noted of an instrument",
}
"""How the audit says what was done here."""


class LibraryConfig(AppConfig):
    name = "kessa.library"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.library import equipment, health, models

        registry.seal(models.MethodVersion)
        registry.exempt_from_seals(
            "a setting, sealed by its revisions", models.Lot, models.Instrument
        )
        registry.keep_revisions(models.Lot, equipment.said_of)
        registry.keep_revisions(models.Instrument, equipment.said_of)
        registry.exempt_from_seals("a projection of runs", models.MethodUse)
        registry.allow_removal(models.MethodUse)
        registry.describe(SENTENCES)
        registry.check_health(health.methods)
