"""Invitations, codes, devices that are signed in and devices that may send."""

from django.db import models

from kessa.people.queries import DeviceSessionQuery, DeviceTokenQuery, InvitationQuery
from kessa.platform import clock
from kessa.platform.models import Person, Programme, Role
from kessa.platform.tenancy import programme_key


class Invitation(models.Model):
    """A code that lets one person join with a role. Only its hash is kept; it is shown once."""

    programme = models.ForeignKey(Programme, models.PROTECT, related_name="invitations")
    role = models.CharField(max_length=10, choices=Role.choices)
    note = models.CharField(max_length=80, blank=True, help_text="For whom it is meant.")
    hash = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(Person, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(default=clock.now)
    expires_at = models.DateTimeField()
    used_by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    used_at = models.DateTimeField(null=True)
    withdrawn_at = models.DateTimeField(null=True)

    objects = InvitationQuery.as_manager()

    def __str__(self) -> str:
        return f"Invitation as {self.role} to {self.programme_id}"


class ResetCode(models.Model):
    """A manager's code for somebody who has forgotten the password. Only its hash is kept."""

    person = models.ForeignKey(Person, models.PROTECT, related_name="+")
    hash = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(Person, models.PROTECT, related_name="+")
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"Code for person {self.person_id}"


class DeviceSession(models.Model):
    """A device that is signed in. Ending it ends its session."""

    person = models.ForeignKey(Person, models.CASCADE, related_name="sign_ins")
    session_key = models.CharField(max_length=40, unique=True)
    device = models.CharField(max_length=80)
    at = models.DateTimeField(default=clock.now)
    seen_at = models.DateTimeField(default=clock.now)

    objects = DeviceSessionQuery.as_manager()

    def __str__(self) -> str:
        return f"{self.device}, {self.at:%d %B %Y}"


class AttemptCount(models.Model):
    """How often something was tried in a window of time; see kessa.people.throttle."""

    key = models.CharField(max_length=120, primary_key=True)
    until = models.DateTimeField()
    count = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return f"{self.key}: {self.count}"


class DeviceToken(models.Model):
    """A device's permission to append actions to one visit as one person. Only a hash is kept.

    visit_id: by number alone, since visits stand above people.
    """

    programme = models.ForeignKey(Programme, models.PROTECT)
    person = models.ForeignKey(Person, models.PROTECT, related_name="device_tokens")
    visit_id = models.BigIntegerField()
    device = models.CharField(max_length=64)
    named = models.CharField(max_length=80)
    hash = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(default=clock.now)
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)

    objects = DeviceTokenQuery.as_manager()

    class Meta:
        constraints = [programme_key()]
        indexes = [models.Index(fields=["person", "-made_at"])]

    def __str__(self) -> str:
        return f"{self.named} for visit {self.visit_id}"


class CredentialChange(models.Model):
    """A change of how somebody signs in, told at the next sign-in. seen_at: when it was told."""

    class What(models.TextChoices):
        PASSWORD = "password", "Your password was changed"
        RESET = "reset", "Your password was set with a manager’s code"
        CODES_ON = "codes-on", "One-time codes were turned on"
        CODES_OFF = "codes-off", "One-time codes were turned off"

    person = models.ForeignKey(Person, models.PROTECT, related_name="credential_changes")
    what = models.CharField(max_length=10, choices=What.choices)
    at = models.DateTimeField(default=clock.now)
    device = models.CharField(max_length=80, blank=True)
    seen_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.get_what_display()} on {self.at:%Y-%m-%d %H:%M}"
