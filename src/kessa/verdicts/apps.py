"""Evaluations against limits."""

from django.apps import AppConfig

from kessa.platform.registry import registry


class VerdictsConfig(AppConfig):
    name = "kessa.verdicts"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.verdicts import comparing, models

        registry.seal(models.Verdict)
        registry.exempt_from_seals("named by its own hash, which is compared", models.JudgedLimit)
        registry.compare(comparing.differing)
