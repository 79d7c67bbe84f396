"""Visits, samples and the tests asked of them."""

from django.apps import AppConfig

from kessa.platform.registry import registry

SENTENCES = {
    "sample.begun": "began a test at a point",
    "sample.safe": "looked and went on",
    "sample.not-taken": "did not sample",
    "sample.context": "noted the context",
    "sample.taken": "took the sample",
    "sample.test-changed": "changed which test a sample is for",
    "sample.cancelled": "cancelled a test before sampling",
    "sample.corrected": "corrected the sample or its context",
}
"""How the audit says what was done here."""


class VisitsConfig(AppConfig):
    name = "kessa.visits"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.visits import models, projection

        registry.seal(models.VisitEvent)
        registry.seal(models.Visit)
        registry.compare(projection.differing)
        registry.exempt_from_seals("a projection of events", models.Sample, models.TestAsked)
        registry.describe(SENTENCES)
