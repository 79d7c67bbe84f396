"""What was measured of a sample, about its time and lately at other parts of its water."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator, Sequence

from kessa.results.models import Result
from kessa.visits.models import Sample
from kessa_core.derived.deriving import OLDEST, SAME_SAMPLE, Measured, Place
from kessa_core.judging import Limit
from kessa_core.judging.formulas import DEPENDING
from kessa_core.quantities import Interval, Quantity, Value

WATER_C = Quantity("temperature", "water", "", "°C")
WATER_C_HALF = 0.5
"""By how much, with 95 %, a thermometer read into the field conditions may be off."""


def place_of(sample: Sample) -> Place:
    """Where a sample was taken."""
    return Place(sample.point.part, sample.point.altitude_m)


def measured_with(sample: Sample) -> list[Measured]:
    """What was measured at the point with the sample and in the days before it, and lately at other
    parts of its water: of each quantity at a point what is nearest in time; one query."""
    point, at = sample.point, sample.known_at
    results = Result.objects.of(sample.programme_id).counting()
    about = results.filter(
        point__water=point.water_id, sampled_at__range=(at - OLDEST, at + SAME_SAMPLE)
    )
    return _of(sample, about.nearest_of_each(at).for_values())


def measured_with_each(samples: Sequence[Sample]) -> Iterator[list[Measured]]:
    """The same for each of several samples of one water, in one query: of what formulas of limits
    depend on, every value of that time."""
    moments = [sample.known_at for sample in samples]
    water, first, last = samples[0].point.water_id, min(moments), max(moments)
    results = Result.objects.of(samples[0].programme_id).counting()
    about = results.filter(
        point__water=water,
        parameter__in=DEPENDING,
        sampled_at__range=(first - OLDEST, last + SAME_SAMPLE),
    )
    rows = list(about.order_by("sampled_at").for_values())
    times = [row.sampled_at for row in rows]
    for sample, at in zip(samples, moments, strict=True):
        some = rows[bisect_left(times, at - OLDEST) : bisect_right(times, at + SAME_SAMPLE)]
        yield _of(sample, sorted(some, key=lambda one: -one.pk))


def _of(sample: Sample, results: Iterable[Result]) -> list[Measured]:
    """Of these results those of the sample's point and of other parts of its water."""
    point, at = sample.point, sample.known_at
    found = [
        Measured(value, one.sampled_at, one.point.part)
        for one in results
        if (one.point_id == point.pk or one.point.part != point.part)
        and (value := one.evaluation.value)
    ]
    warm = any(one.value.quantity == WATER_C and abs(one.at - at) <= SAME_SAMPLE for one in found)
    if sample.water_c is not None and not warm:
        number = float(sample.water_c)
        range_ = Interval(number - WATER_C_HALF, number + WATER_C_HALF)
        found.append(Measured(Value(WATER_C, number, 1, range_), at, point.part))
    return found


def for_sample(limits: Iterable[Limit], sample: Sample) -> tuple[Limit, ...]:
    """The limits as they are for a sample: those that a formula computes with their figure. Without
    one of those no query."""
    known = tuple(limits)
    if not any(limit.formula for limit in known):
        return known
    return _computed(known, sample, measured_with(sample))


def for_each_sample(
    limits: Iterable[Limit], samples: Sequence[Sample]
) -> Iterator[tuple[Limit, ...]]:
    """The same for each of several samples of one water, in one query for all of them."""
    if not samples:
        return
    known = tuple(limits)
    for sample, measured in zip(samples, measured_with_each(samples), strict=True):
        yield _computed(known, sample, measured)


def _computed(
    limits: Iterable[Limit], sample: Sample, measured: Sequence[Measured]
) -> tuple[Limit, ...]:
    place = place_of(sample)
    return tuple(limit.for_sample(measured, sample.known_at, place) for limit in limits)
