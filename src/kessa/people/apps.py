"""Invitations, devices, signing in, second factors, leaving."""

from django.apps import AppConfig

from kessa.platform.registry import registry

SENTENCES = {
    "programme.begun": "created the programme",
    "programme.changed": "changed the programme settings",
    "member.invited": "created an invitation",
    "member.invitation-withdrawn": "withdrew an invitation",
    "member.joined": "joined with an invitation",
    "member.renamed": "changed a name on results",
    "member.role": "changed a role",
    "member.withdrawn": "ended a membership",
    "member.left": "left the programme",
    "member.reset": "created a password code",
    "member.pseudonymised": "removed a former member’s name",
    "device.allowed": "allowed a device to send",
    "device.revoked": "revoked a device’s permission to send",
}
"""How the audit says what was done here."""


class PeopleConfig(AppConfig):
    name = "kessa.people"

    def ready(self) -> None:
        """Tell the platform what the audit seals here and how its entries read."""
        from kessa.people import models

        registry.exempt_from_seals(
            "entered in the audit when it is made, used and ended",
            models.Invitation,
            models.DeviceToken,
            models.ResetCode,
        )
        registry.exempt_from_seals(
            "working data of signing in",
            models.DeviceSession,
            models.AttemptCount,
            models.CredentialChange,
        )
        registry.allow_removal(models.DeviceSession, models.AttemptCount)
        registry.describe(SENTENCES)
