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
    "set.made": "added a set of tests",
    "set.changed": "changed a set of tests",
    "calendar.allowed": "made a calendar feed",
    "calendar.revoked": "withdrew a calendar feed",
    "sample.beside": "kept a second record of a sample",
    "sample.decided": "decided between two records of a sample",
    "visit.photographed": "photographed what was seen on a visit",
    "water.event": "wrote down what happened at a water",
    "water.event-withdrawn": "withdrew what was written down of a water",
    "visit.ended": "handed over a visit",
    "visit.written": "wrote down a visit of the past with all its tests",
    "sample.corrected": "corrected the sample or its field conditions",
}
"""How the audit says what was done here."""


class VisitsConfig(AppConfig):
    name = "kessa.visits"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.visits import models, projection

        registry.seal(models.VisitEvent, ("sent_id", "device", "beside", "settles_id"))
        registry.seal(models.Visit, ("set_id", "due_on"), ("lead_id", "companion_id", "case_id"))
        registry.seal(models.WaterEvent)
        registry.exempt_from_seals("a setting, sealed by its revisions", models.TestSet)
        registry.exempt_from_seals("permission to read, no record", models.CalendarFeed)
        registry.keep_revisions(models.TestSet, models.TestSet.as_plain)
        registry.name(models.TestSet, str)
        registry.exempt_from_seals("a plan, which can be made again at any time", models.BenchPlan)
        registry.compare(projection.differing)
        registry.exempt_from_seals("a projection of events", models.Sample, models.TestAsked)
        registry.name(models.Sample, lambda row: row.described, "point__water", "visit")
        registry.describe(SENTENCES)
