"""What lets a device send after its sign-in has expired."""

from django.db import models
from django.utils import timezone

from kessa.accounts.models import Person, Programme
from kessa.sync.queries import CapabilityQuery
from kessa.visits.models import Visit


class Capability(models.Model):
    """A device's permission to append acts to one visit as one person. Only a hash is kept."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    person = models.ForeignKey(Person, models.PROTECT, related_name="capabilities")
    visit = models.ForeignKey(Visit, models.PROTECT, related_name="capabilities")
    device = models.CharField(max_length=64)
    named = models.CharField(max_length=80)
    hash = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(default=timezone.now)
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)

    objects = CapabilityQuery.as_manager()

    class Meta:
        indexes = [models.Index(fields=["person", "-made_at"])]

    def __str__(self) -> str:
        return f"{self.named} for visit {self.visit_id}"
