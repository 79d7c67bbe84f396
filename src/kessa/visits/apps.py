"""Visits, samples and the tests asked of them."""

from django.apps import AppConfig

from kessa.platform.registry import registry

SENTENCES = {
    "sample.begun": "chose a test at a point",
    "sample.safe": "confirmed that sampling was safe",
    "sample.not-taken": "did not sample",
    "sample.context": "saved the field conditions",
    "sample.taken": "took the sample",
    "sample.test-changed": "changed the test of a sample",
    "sample.test-added": "added a test to a visit",
    "sample.cancelled": "cancelled a test before sampling",
    "sample.corrected": "corrected the sample or its field conditions",
}
"""How the audit says what was done here."""


class VisitsConfig(AppConfig):
    name = "kessa.visits"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.visits import models, projection

        registry.seal(models.VisitEvent)
        registry.seal(models.Visit)
        registry.exempt_from_seals("a plan, which can be made again at any time", models.BenchPlan)
        registry.compare(projection.differing)
        registry.exempt_from_seals("a projection of events", models.Sample, models.TestAsked)
        registry.name(models.Sample, lambda row: row.described, "point__water", "visit")
        registry.describe(SENTENCES)
