"""People, programmes, and who has which role where."""

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils import timezone

from kessa.accounts.queries import InvitationQuery, MembershipQuery, SignInQuery


class Person(AbstractUser):
    """Somebody who signs in. `shown_name` is what results carry.

    pseudonymised_at: when a person who left had the name taken off the record.
    """

    shown_name = models.CharField(max_length=80, blank=True)
    pseudonymised_at = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return self.shown_name or self.username


class Programme(models.Model):
    """Who owns the work: waters, points, visits, methods and lots belong to one programme.

    own_review: a one-person programme lets its only member approve what he or she tested.
    depth_rule, depth_cm: how deep samples are taken. waste: its own words by route.
    """

    class Depth(models.TextChoices):
        FREE = "", "not said"
        FIXED = "fixed", "a fixed depth"
        SHARE = "share", "a fixed depth; half the depth where it is shallow"
        REACH = "reach", "as deep as reach allows"

    name = models.CharField(max_length=80)
    slug = models.SlugField(unique=True)
    timezone = models.CharField(max_length=40, default="UTC")
    is_demo = models.BooleanField(default=False)
    own_review = models.BooleanField(default=False)
    depth_rule = models.CharField(max_length=10, choices=Depth.choices, blank=True)
    depth_cm = models.PositiveSmallIntegerField(null=True, blank=True)
    waste = models.JSONField(default=dict, blank=True)

    def __str__(self) -> str:
        return self.name

    @property
    def depth_words(self) -> str:
        """How deep to fill, as the programme does it."""
        fixed = f"{self.depth_cm} cm below the surface"
        return {
            self.Depth.FIXED: f"Fill {fixed}.",
            self.Depth.SHARE: f"Fill {fixed}; where the water is shallower than twice that, at "
            "half its depth.",
            self.Depth.REACH: "Fill as deep as you can reach, and above the bed.",
        }.get(self.depth_rule, "Fill below the surface and above the bed.")


class Role(models.TextChoices):
    """From looking to deciding."""

    VIEWER = "viewer", "Viewer"
    MONITOR = "monitor", "Monitor"
    REVIEWER = "reviewer", "Reviewer"
    MANAGER = "manager", "Manager"


class Membership(models.Model):
    """One person's role in one programme; it ends and is never deleted."""

    programme = models.ForeignKey(Programme, models.PROTECT, related_name="memberships")
    person = models.ForeignKey(Person, models.PROTECT, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role.choices)
    since = models.DateTimeField(default=timezone.now)
    ended_at = models.DateTimeField(null=True, blank=True)

    objects = MembershipQuery.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["programme", "person"], name="one_role_a_programme")
        ]

    def __str__(self) -> str:
        return f"{self.person}, {self.role}, {self.programme}"


class Invitation(models.Model):
    """A code that lets one person join with a role. Only its hash is kept; it is shown once."""

    programme = models.ForeignKey(Programme, models.PROTECT, related_name="invitations")
    role = models.CharField(max_length=10, choices=Role.choices)
    note = models.CharField(max_length=80, blank=True, help_text="For whom it is meant.")
    hash = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(Person, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
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


class SignIn(models.Model):
    """A device that is signed in. Ending it ends its session."""

    person = models.ForeignKey(Person, models.CASCADE, related_name="sign_ins")
    session_key = models.CharField(max_length=40, unique=True)
    device = models.CharField(max_length=80)
    at = models.DateTimeField(default=timezone.now)
    seen_at = models.DateTimeField(default=timezone.now)

    objects = SignInQuery.as_manager()

    def __str__(self) -> str:
        return f"{self.device}, {self.at:%d %B %Y}"


class Tally(models.Model):
    """How often something was tried in a window of time; see kessa.accounts.throttle."""

    key = models.CharField(max_length=120, primary_key=True)
    until = models.DateTimeField()
    count = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return f"{self.key}: {self.count}"
