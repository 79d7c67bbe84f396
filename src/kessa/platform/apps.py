"""Persons, programmes, permissions, tenancy, audit and health."""

from django.apps import AppConfig

from kessa.platform.registry import registry

SENTENCES = {
    "audit.exported": "exported the audit trail",
    "record.adopted": "hashed records of an earlier release",
}
"""How the audit says what was done here."""


class PlatformConfig(AppConfig):
    name = "kessa.platform"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.platform import (  # noqa: F401 - checks register themselves
            checks,
            health,
            models,
            revisions,
        )

        registry.seal(models.SettingRevision)
        registry.exempt_from_seals(
            "a setting, sealed by its revisions", models.Programme, models.Membership
        )
        registry.exempt_from_seals("sealed by the revisions of memberships", models.Person)
        registry.keep_revisions(models.Programme, revisions.said_of_programme)
        registry.keep_revisions(models.Membership, revisions.said_of_membership)
        registry.exempt_from_seals("the audit itself", models.AuditChain, models.AuditEntry)
        registry.check_health(*health.CHECKS)
        registry.name(models.Membership, lambda row: str(row.person), "person")
        registry.name(models.Programme, str)
        registry.describe(SENTENCES)
