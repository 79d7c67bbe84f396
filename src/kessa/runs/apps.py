"""Runs and their events."""

from django.apps import AppConfig
from django.urls import reverse

from kessa.platform.registry import registry

SENTENCES = {
    "run.opened": "opened a run",
    "run.cancelled": "cancelled a test before anything was read",
    "run.instrument": "chose another instrument",
    "run.handed-over": "handed a test over",
    "acts.kept": "sent acts",
    "run.ended": "the test ended",
    "run.resumed": "the test was resumed",
}
"""How the audit says what was done here."""


class RunsConfig(AppConfig):
    name = "kessa.runs"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.runs import models

        registry.seal(models.Event)
        registry.seal(models.RunDecision)
        registry.seal(models.RunInstrument)
        registry.exempt_from_seals(
            "entered in the audit when it is opened", models.Run, models.RunLot
        )
        registry.link(models.Run, lambda slug, number: reverse("bench", args=[slug, number]))
        registry.describe(SENTENCES)
