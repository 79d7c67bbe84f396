"""Evaluations, decisions and what pages read of them."""

from django.apps import AppConfig
from django.urls import reverse

from kessa.platform.registry import registry

SENTENCES = {
    "results.judged-again": "compared results with the new limits",
    "results.judged-beside": "compared results again with what was measured beside them",
    "result.evaluated": "the result was computed",
    "result.accept": "accepted the result",
    "result.return": "returned the result",
    "result.reject": "rejected the result",
    "result.answer": "answered the reviewer",
    "usual.entered": "entered what is usual",
    "result.reopened": "the result went back to review",
}
"""How the audit says what was done here."""


class ResultsConfig(AppConfig):
    name = "kessa.results"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.results import comparing, models, projections

        registry.seal(models.Evaluation, ["instruments"], ["kit_verdict"])
        registry.seal(models.Review)
        registry.seal(models.EnteredUsual)
        registry.exempt_from_seals(
            "a projection of evaluations and decisions", models.Result, models.LatestResult
        )
        registry.compare(comparing.differing)
        registry.upgrade(projections.bring_up)
        registry.allow_removal(models.LatestResult)
        registry.link(models.Result, lambda slug, number: reverse("result", args=[slug, number]))
        registry.name(models.Result, lambda row: row.described, "point__water")
        registry.describe(SENTENCES)
