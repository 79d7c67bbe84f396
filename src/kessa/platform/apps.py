"""Persons, programmes, permissions, tenancy, audit and health."""

from django.apps import AppConfig

from kessa.platform.registry import registry

SENTENCES = {
    "audit.exported": "exported the audit",
}
"""How the audit says what was done here."""


class PlatformConfig(AppConfig):
    name = "kessa.platform"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.platform import checks, health, models  # noqa: F401 - checks register themselves

        registry.seal(models.SettingRevision)
        registry.exempt_from_seals(
            "entered in the audit when it changes",
            models.Person,
            models.Programme,
            models.Membership,
        )
        registry.exempt_from_seals("the audit itself", models.AuditChain, models.AuditEntry)
        registry.check_health(*health.CHECKS)
        registry.describe(SENTENCES)
