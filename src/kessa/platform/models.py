"""Persons, programmes, who has which role where, and the audit trail of each programme."""

import secrets
from datetime import UTC

from django.contrib.auth.models import AbstractUser
from django.db import models

from kessa.platform import clock
from kessa.platform.queries import AuditQuery, MembershipQuery
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only
from kessa_core.records import Entry as CoreEntry
from kessa_core.records import sha


def new_name_key() -> str:
    """A key of its own for each person."""
    return secrets.token_hex(16)


class Person(AbstractUser):
    """Somebody who signs in. `shown_name` is what results carry.

    pseudonymised_at: when a person who left had the name removed from the record. name_key: what
    the audit hashes the name with, so that the hash says nothing once the key is gone.
    """

    shown_name = models.CharField(max_length=80, blank=True)
    name_key = models.CharField(max_length=32, default=new_name_key, editable=False)
    pseudonymised_at = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return self.shown_name or self.username

    @property
    def name_hash(self) -> str:
        """What the audit keeps of the name that results carry."""
        return sha([self.name_key, self.username, self.shown_name])


class Programme(models.Model):
    """Who owns the work: waters, points, visits, methods and lots belong to one programme.

    second_factor: nobody gets in without a one-time code.
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
    second_factor = models.BooleanField(default=False)
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
        }.get(self.Depth(self.depth_rule), "Fill below the surface and above the bed.")


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
    since = models.DateTimeField(default=clock.now)
    ended_at = models.DateTimeField(null=True, blank=True)

    objects = MembershipQuery.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["programme", "person"], name="one_role_a_programme")
        ]

    def __str__(self) -> str:
        return f"{self.person}, {self.role}, {self.programme}"


class AuditChain(models.Model):
    """The head of a programme's chain: number and hash of its last entry."""

    programme = models.OneToOneField(Programme, models.PROTECT, primary_key=True)
    number = models.BigIntegerField(default=0)
    hash = models.CharField(max_length=64, blank=True)

    def __str__(self) -> str:
        return f"{self.programme_id}: {self.number}"


class AuditEntry(models.Model):
    """Who did what to what, sealed together with the entry before. Names are never in it."""

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    number = models.BigIntegerField()
    at = models.DateTimeField()
    person = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+", db_index=False)
    act = models.CharField(max_length=40)
    about = models.CharField(max_length=80)
    data = models.JSONField(default=dict)
    before = models.CharField(max_length=64, blank=True)
    hash = models.CharField(max_length=64)

    objects = AuditQuery.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["programme", "number"], name="one_entry_a_number")
        ]
        indexes = [
            models.Index(fields=["programme", "about", "number"]),
            models.Index(
                fields=["programme", "-number"],
                name="platform_auditentry_read",
                condition=~models.Q(act="acts.kept"),
            ),
        ]
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"{self.number}: {self.act} {self.about}"

    def as_core(self, chain: str) -> CoreEntry:
        """The entry as the core checks it; *chain* is the programme's name in addresses."""
        return CoreEntry(
            chain,
            self.number,
            self.at.astimezone(UTC).isoformat(timespec="microseconds"),
            self.person_id or 0,
            self.act,
            self.about,
            self.data,
            self.before,
            self.hash,
        )


class SettingRevision(models.Model):
    """What a setting (a water, a point, a lot, a membership) said from a day on. Inserted, never
    changed; the setting's own row repeats the newest one.

    about: "water:3", as the audit names it. valid_from: empty for what has always been so.
    """

    programme = models.ForeignKey(Programme, models.PROTECT)
    about = models.CharField(max_length=80)
    valid_from = models.DateTimeField(null=True)
    made_at = models.DateTimeField(default=clock.now)
    made_by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    data = models.JSONField(default=dict)

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        indexes = [models.Index(fields=["programme", "about", "-valid_from"])]
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"{self.about} from {self.valid_from or 'the beginning'}"
