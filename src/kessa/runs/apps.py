"""Runs and their events."""

from django.apps import AppConfig
from django.urls import reverse

from kessa.platform.registry import registry

SENTENCES = {
    "run.opened": "started a test",
    "run.ready": "made a test ready before sampling",
    "run.cancelled": "cancelled a test before the first reading",
    "run.instrument": "chose another instrument",
    "run.lot": "chose another lot",
    "standard.measured": "measured a standard",
    "run.handed-over": "handed a test over",
    "acts.kept": "sent actions",
    "run.ended": "the test ended",
    "run.resumed": "the test was resumed",
}
"""How the audit says what was done here."""


class RunsConfig(AppConfig):
    name = "kessa.runs"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.runs import comparing, models

        registry.seal(models.Event)
        registry.seal(models.RunDecision)
        registry.seal(models.RunInstrument)
        registry.seal(models.Run, ["water_kind"], leave_out=("kept_by_id", "finish"))
        registry.seal(models.RunLot, ["by_id", "at"])
        registry.seal(models.StandardCheck)
        registry.exempt_from_seals("a projection of runs", models.LotUse, models.PhotoReading)
        registry.allow_removal(models.LotUse)
        registry.compare(comparing.differing)
        registry.allow_changes(models.Run, "kept_by_id", "finish")
        registry.link(models.Run, lambda slug, number: reverse("bench", args=[slug, number]))
        registry.name(models.Run, lambda row: row.described, "version", "sample__point__water")
        registry.describe(SENTENCES)
