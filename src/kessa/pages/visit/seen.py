"""Photographs of what was seen on a visit, for its page and its report."""

from collections.abc import Sequence
from dataclasses import dataclass

from kessa.photos.models import Photograph
from kessa.visits.models import Visit, VisitEvent


@dataclass(frozen=True)
class Seen:
    """One photograph. sent: whether the server has the picture; the act can arrive before it."""

    event: VisitEvent
    sent: bool

    @property
    def photo(self) -> str:
        """Its key."""
        return str(self.event.data["photo"])

    @property
    def what(self) -> str:
        """What it shows, in words; else where."""
        return str(self.event.data["what"]) or str(
            self.event.sample.point if self.event.sample else ""
        )


def seen_on(visit: Visit) -> Sequence[Seen]:
    """The photographs of a visit, in the order they were taken."""
    told = VisitEvent.objects.of(visit.programme_id).end_and_photographs_of(visit)
    return seen_in(visit, list(told))


def seen_in(visit: Visit, told: Sequence[VisitEvent]) -> Sequence[Seen]:
    """The photographs among these events of a visit."""
    events = [event for event in told if event.kind == VisitEvent.Kind.PHOTOGRAPHED]
    if not events:
        return []
    keys = [event.data["photo"] for event in events]
    kept = Photograph.objects.of(visit.programme_id).filter(key__in=keys)
    sent = set(kept.values_list("key", flat=True))
    return [Seen(event, event.data["photo"] in sent) for event in events]
