"""Where two devices say different things of a sample."""

from dataclasses import dataclass
from datetime import datetime

from django.utils import timezone

from kessa.visits.conditions import said_of
from kessa.visits.models import Visit, VisitEvent
from kessa.visits.services import stands_against

Kind = VisitEvent.Kind


@dataclass(frozen=True)
class Question:
    """first: the record that stands; second: the one that came later."""

    first: VisitEvent
    second: VisitEvent

    @property
    def first_words(self) -> str:
        return _words(self.first)

    @property
    def second_words(self) -> str:
        return _words(self.second)


def questions_of(visit: Visit) -> list[Question]:
    """What is to be decided on a visit; records that say the same are no question."""
    found = []
    for beside in VisitEvent.objects.of(visit.programme_id).filter(visit=visit).undecided():
        standing = stands_against(beside)
        if standing is not None and (standing.kind, standing.data) != (beside.kind, beside.data):
            found.append(Question(standing, beside))
    return found


def _words(event: VisitEvent) -> str:
    """What a record says, by whom."""
    at = timezone.localtime(event.at)
    return f"{event.by}, {at:%H:%M}: {_said(event)}"


def _said(event: VisitEvent) -> str:
    data = event.data
    if event.kind == Kind.NOT_TAKEN:
        return f"not sampled: {data['reason']}"
    if event.kind == Kind.TAKEN:
        sampled = timezone.localtime(datetime.fromisoformat(data["taken_at"]))
        return f"sampled at {sampled:%H:%M}"
    seen = [data.get("weather_now"), data.get("weather_before"), *data.get("seen", [])]
    noted = [f"{label.lower()} {value}" for label, value in said_of(data.get("noted", {}))]
    return ", ".join([str(one) for one in seen if one] + noted) or "no conditions"
