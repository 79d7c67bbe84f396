"""People, programmes, and who has which role where."""

from django.contrib.auth.models import AbstractUser
from django.db import models

from kessa.accounts.queries import MembershipQuery


class Person(AbstractUser):
    """Somebody who signs in. `shown_name` is what results carry."""

    shown_name = models.CharField(max_length=80, blank=True)

    def __str__(self) -> str:
        return self.shown_name or self.username


class Programme(models.Model):
    """Who owns the work: waters, points, visits, methods and lots belong to one programme."""

    name = models.CharField(max_length=80)
    slug = models.SlugField(unique=True)
    timezone = models.CharField(max_length=40, default="UTC")
    is_demo = models.BooleanField(default=False)

    def __str__(self) -> str:
        return self.name


class Role(models.TextChoices):
    """From looking to deciding."""

    VIEWER = "viewer", "Viewer"
    MONITOR = "monitor", "Monitor"
    REVIEWER = "reviewer", "Reviewer"
    MANAGER = "manager", "Manager"


class Membership(models.Model):
    """One person's role in one programme."""

    programme = models.ForeignKey(Programme, models.PROTECT, related_name="memberships")
    person = models.ForeignKey(Person, models.PROTECT, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role.choices)

    objects = MembershipQuery.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["programme", "person"], name="one_role_a_programme")
        ]

    def __str__(self) -> str:
        return f"{self.person}, {self.role}, {self.programme}"
