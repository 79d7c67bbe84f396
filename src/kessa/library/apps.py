"""Methods in use, lots, instruments."""

from django.apps import AppConfig

from kessa.platform.registry import registry

SENTENCES = {
    "method.taken-up": "added a method version",
    "method.published": "published a method",
    "method.own-settings": "changed the local settings of a method",
    "lot.noted": "added a lot",
    "lot.corrected": "corrected a lot",
    "instrument.noted": "added an instrument",
    "instrument.changed": "edited an instrument",
    "instrument.checked": "recorded a check of an instrument",
    "case.made": "added a case",
    "case.changed": "edited a case",
}
"""How the audit says what was done here."""


class LibraryConfig(AppConfig):
    name = "kessa.library"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.library import cases, equipment, health, models, own_parameters
        from kessa_core.quantities.parameters import look_up_own_by

        registry.seal(models.MethodVersion)
        registry.seal(models.InstrumentCheck)
        registry.exempt_from_seals(
            "a setting, sealed by its revisions", models.Lot, models.Instrument, models.KitCase
        )
        registry.keep_revisions(models.KitCase, cases.said_of)
        registry.name(models.KitCase, str)
        registry.keep_revisions(models.Lot, equipment.said_of)
        registry.keep_revisions(models.Instrument, equipment.said_of)
        registry.exempt_from_seals("a projection of runs", models.MethodUse)
        registry.exempt_from_seals("a person’s own order of a list", models.FavouriteTest)
        registry.exempt_from_seals(
            "writing that nothing is decided by; the version it becomes is sealed",
            models.MethodDraft,
            models.DraftRevision,
        )
        registry.exempt_from_seals("follows from a sealed method", models.OwnParameter)
        registry.allow_removal(models.MethodUse, models.FavouriteTest)
        registry.name(models.Lot, str)
        registry.name(models.Instrument, str)
        registry.name(models.MethodVersion, str)
        registry.describe(SENTENCES)
        registry.check_health(health.methods)
        look_up_own_by(own_parameters.found)
