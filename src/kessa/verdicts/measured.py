"""What was measured of a sample, about its time and lately at other parts of its water."""

from collections.abc import Iterable

from kessa.results.models import Result
from kessa.visits.models import Sample
from kessa_core.derived.deriving import OLDEST, SAME_SAMPLE, Measured, Place
from kessa_core.judging import Limit
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
    near = about.nearest_of_each(at).select_related("current", "point")
    found = [
        Measured(value, one.sampled_at, one.point.part)
        for one in near
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
    measured, place = measured_with(sample), place_of(sample)
    return tuple(limit.for_sample(measured, sample.known_at, place) for limit in known)
