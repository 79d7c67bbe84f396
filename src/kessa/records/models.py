"""The audit trail: one chain a programme. Entries are inserted, never changed."""

from datetime import UTC

from django.db import models

from kessa.accounts.models import Person, Programme
from kessa.records.queries import EntryQuery
from kessa_core.records import Entry as CoreEntry


class Chain(models.Model):
    """The head of a programme's chain: number and hash of its last entry."""

    programme = models.OneToOneField(Programme, models.PROTECT, primary_key=True)
    number = models.BigIntegerField(default=0)
    hash = models.CharField(max_length=64, blank=True)

    def __str__(self) -> str:
        return f"{self.programme_id}: {self.number}"


class Entry(models.Model):
    """Who did what to what, sealed together with the entry before. Names are never in it."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    number = models.BigIntegerField()
    at = models.DateTimeField()
    person = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    act = models.CharField(max_length=40)
    about = models.CharField(max_length=80)
    data = models.JSONField(default=dict)
    before = models.CharField(max_length=64, blank=True)
    hash = models.CharField(max_length=64)

    objects = EntryQuery.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["programme", "number"], name="one_entry_a_number")
        ]
        indexes = [models.Index(fields=["programme", "about", "number"])]

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
