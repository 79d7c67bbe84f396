"""Sets of tests that are done again and again, and the calendar feeds of their days."""

from datetime import date
from typing import Any

from django.db import models

from kessa.library.models import KitCase
from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.platform.tenancy import programme_constraints, programme_key
from kessa.visits.set_queries import CalendarFeedQuery, SetQuery
from kessa_core.preparing import Rhythm, read_rhythm


class TestSet(models.Model):
    """Which tests are done at which points, and when they are due.

    asked: {"point": id, "methods": [ids]} for each point, in the order of the visit. rhythm: as the
    core reads it; it counts from *begins*. lead, companion: who goes, and who goes along; case:
    what they take. called_on: the day on which somebody said that a set without a calendar is due.
    """

    programme = models.ForeignKey(Programme, models.PROTECT)
    name = models.CharField(max_length=80)
    asked = models.JSONField(default=list)
    rhythm = models.JSONField(default=dict)
    begins = models.DateField()
    lead = models.ForeignKey(Person, models.PROTECT, null=True, blank=True, related_name="+")
    companion = models.ForeignKey(Person, models.PROTECT, null=True, blank=True, related_name="+")
    case = models.ForeignKey(KitCase, models.PROTECT, null=True, blank=True, related_name="+")
    called_on = models.DateField(null=True, blank=True)
    in_use = models.BooleanField(default=True)

    objects = SetQuery.as_manager()

    days_done: list[date]
    """Given by with_days_done()."""

    class Meta:
        constraints = programme_constraints("case")
        ordering = ["name", "pk"]

    def __str__(self) -> str:
        return self.name

    @property
    def when(self) -> Rhythm:
        """Its rhythm, read."""
        return read_rhythm(self.rhythm)

    @property
    def point_ids(self) -> list[int]:
        """Its points, in the order of the visit."""
        return [one["point"] for one in self.asked]

    def methods_at(self, point_id: int) -> list[str]:
        """The methods that are asked at a point."""
        return next((list(one["methods"]) for one in self.asked if one["point"] == point_id), [])

    @property
    def method_ids(self) -> list[str]:
        """Every method that it asks, each once."""
        return list(dict.fromkeys(key for one in self.asked for key in one["methods"]))

    def as_plain(self) -> dict[str, Any]:
        """What its revisions keep."""
        return {
            "name": self.name,
            "asked": self.asked,
            "rhythm": self.rhythm,
            "begins": _text(self.begins),
            "lead": self.lead_id,
            "companion": self.companion_id,
            "case": self.case_id,
            "called_on": _text(self.called_on),
            "in_use": self.in_use,
        }


class CalendarFeed(models.Model):
    """A person's permission to read the days of a programme's sets in a calendar program, without
    signing in. Only a hash of its token is kept."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    person = models.ForeignKey(Person, models.PROTECT, related_name="+")
    hash = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(default=clock.now)
    used_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)

    objects = CalendarFeedQuery.as_manager()

    class Meta:
        constraints = [programme_key()]

    def __str__(self) -> str:
        return f"Calendar of {self.programme_id} for {self.person_id}"


def _text(day: date | None) -> str | None:
    return day.isoformat() if day else None
