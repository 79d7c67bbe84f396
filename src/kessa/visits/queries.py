"""Visits and samples in the words of the field."""

from datetime import timedelta
from typing import Any, Self

from django.db.models import Q

from kessa.platform import clock
from kessa.platform.models import Membership
from kessa.platform.scoping import ProgrammeQuerySet


def _on_the_way() -> Q:
    return Q(outcome="open", visit__begun_at__gte=clock.now() - timedelta(days=1))


class VisitQuery(ProgrammeQuerySet):
    """of(programme)"""

    def of(self, programme: Any) -> Self:
        people = ("made_by", "lead", "companion")
        return self.filter(programme=programme).select_related("set", "case", *people)


class VisitEventQuery(ProgrammeQuerySet):
    """of(programme).undecided(), end_and_photographs_of(visit)"""

    scope_columns = ("programme_id", "sent_id")

    def undecided(self) -> Self:
        """What two devices say differently, each with the record that stands, and nobody has
        decided yet."""
        beside = self.filter(beside=True, settled_by=None)
        return beside.select_related("by", "sample__point__water").order_by("pk")

    def end_and_photographs_of(self, visit: Any) -> Self:
        """What was photographed on a visit, and that it was handed over, as they arrived."""
        told = self.filter(visit=visit, kind__in=("ended", "photo"))
        return told.select_related("by", "sample__point__water").order_by("pk")


class SampleQuery(ProgrammeQuerySet):
    """of(programme)"""

    def of(self, programme: Any) -> Self:
        return self.filter(programme=programme).select_related("point__water", "visit")

    def on_the_way(self) -> Self:
        """Begun within the last day, and neither taken nor given up."""
        return self.filter(_on_the_way()).order_by("-visit__begun_at")

    def on_the_way_or_not_taken(self) -> Self:
        """Those on the way; then those that could not be taken within the last 30 days."""
        since = clock.now() - timedelta(days=30)
        either = _on_the_way() | Q(outcome="not-taken", taken_at__gte=since)
        return self.filter(either).order_by("-outcome", "-visit__begun_at")

    def for_today(self) -> Self:
        """When, and why not; without the point, which Today has read already."""
        return self.select_related(None).select_related("visit").only(
            "programme", "point", "reason", "taken_at", "outcome", "safe", "context_at",
            "visit__programme", "visit__begun_at",
        )  # fmt: skip

    def for_visits(self) -> Self:
        """When, and what was found; without point and visit."""
        return self.select_related(None).only(
            "programme", "visit", "outcome", "reason", "weather_before", "taken_at"
        )

    def saying(self, programme: Any, wanted: str) -> Self:
        """Samples where each of these words stands in note, reason or weather, or in the name of
        the member who took it. Names are looked up first; they are no part of a sample. Of less
        than three letters an index finds words that begin with them, not those that hold them."""
        found = self
        for word in wanted.split():
            named = Q(person__shown_name__icontains=word) | Q(person__username__icontains=word)
            members = Membership.objects.filter(programme=programme).filter(named)
            takers = list(members.values_list("person_id", flat=True)[:50])
            said = Q(words__icontains=word if len(word) > 2 else f" {word}")
            found = found.filter(said | Q(taken_by__in=takers) if takers else said)
        return found


class TestAskedQuery(ProgrammeQuerySet):
    """of(programme).open()"""

    def open(self) -> Self:
        """Those not begun yet, in the order they were asked for."""
        return self.filter(state="asked").order_by("pk")
