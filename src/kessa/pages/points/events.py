"""What happened at a point that can explain its results: weather before sampling, visits without a
sample, a new lot of a reagent, what somebody wrote down."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

from django.db.models import Min, Q

from kessa.results.history import MOST
from kessa.results.models import LatestResult
from kessa.runs.models import RunLot
from kessa.visits.models import Sample, WaterEvent

WET = ("rain", "heavy rain", "snow", "thaw")
"""Weather of the last 24 h that can change a result."""


@dataclass(frozen=True)
class ChartEvent:
    """One event: when, its kind, and what it was in a few words."""

    at: datetime
    kind: str
    words: str


def key_of(event: ChartEvent) -> str:
    """The key of an event in an address."""
    return f"{event.at.timestamp():.0f}"


def events_of(latest: LatestResult, noted: Iterable[WaterEvent]) -> list[ChartEvent]:
    """The events at the point of *latest*, the oldest first, with what was *noted* there; none
    where results lie so dense that they could not be told apart."""
    if latest.count > MOST:
        return []
    written = (ChartEvent(one.happened_at, one.kind, one.said) for one in noted)
    found = [*_samples(latest), *_new_lots(latest), *written]
    return sorted(found, key=lambda event: event.at)


def _samples(latest: LatestResult) -> list[ChartEvent]:
    not_taken = Q(outcome=Sample.Outcome.NOT_TAKEN)
    samples = Sample.objects.of(latest.programme_id).filter(point=latest.point_id)
    told = samples.filter(not_taken | Q(weather_before__in=WET), taken_at__isnull=False)
    rows = told.values_list("taken_at", "outcome", "weather_before", "reason")
    return [
        ChartEvent(at, "not sampled", f"not sampled: {reason}")
        if outcome == Sample.Outcome.NOT_TAKEN
        else ChartEvent(at, weather, f"{weather} in the last 24 h")
        for at, outcome, weather, reason in rows
    ]


def _new_lots(latest: LatestResult) -> list[ChartEvent]:
    """The first test with each lot, but for the first lot of each reagent."""
    used = RunLot.objects.of(latest.programme_id).filter(
        run__results__point=latest.point_id, run__results__parameter=latest.parameter
    )
    lots: Sequence[tuple[str, str, datetime]] = (
        used.order_by()
        .values_list("lot__reagent", "lot__number")
        .annotate(first=Min("run__results__sampled_at"))
        .order_by("first")
    )
    known: set[str] = set()
    found = []
    for reagent, number, first in lots:
        if reagent in known:
            found.append(ChartEvent(first, "new lot", f"new lot {number} of {reagent}"))
        known.add(reagent)
    return found
