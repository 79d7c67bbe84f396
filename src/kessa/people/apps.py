"""Invitations, devices, signing in, second factors, leaving."""

from django.apps import AppConfig

from kessa.platform.registry import registry

SENTENCES = {
    "programme.begun": "began the programme",
    "programme.changed": "changed the programme’s settings",
    "member.invited": "made an invitation",
    "member.invitation-withdrawn": "withdrew an invitation",
    "member.joined": "joined with an invitation",
    "member.renamed": "changed the name that results carry",
    "member.role": "changed a role",
    "member.withdrawn": "withdrew a membership",
    "member.left": "left the programme",
    "member.reset": "made a code for a forgotten password",
    "member.pseudonymised": "took a former member’s name off the record",
    "device.allowed": "allowed a device to send",
    "device.revoked": "took a device’s permission to send",
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
