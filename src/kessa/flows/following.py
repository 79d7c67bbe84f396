"""What follows from the results of a sample, and which of them contradict each other."""

from dataclasses import dataclass
from datetime import datetime

from kessa.places.models import Point
from kessa.places.services import set_at
from kessa.results.models import Result
from kessa.verdicts.services import verdict_by
from kessa.visits.models import Sample
from kessa_core.derived import (
    Contradiction,
    DerivedValue,
    Measured,
    Place,
    contradictions,
    derive,
)
from kessa_core.derived.deriving import OLDEST, SAME_SAMPLE
from kessa_core.judging import Verdict
from kessa_core.quantities import Interval, Quantity, Value

WATER_C = Quantity("temperature", "water", "", "°C")
WATER_C_HALF = 0.5
"""By how much, with 95 %, a thermometer read into the field conditions may be off."""


@dataclass(frozen=True)
class Follows:
    """A derived value and the verdict on it; none where there is no limit for it."""

    found: DerivedValue
    verdict: Verdict | None


@dataclass(frozen=True)
class Following:
    """What follows from a sample, what in it cannot be, and what was measured of it."""

    values: tuple[Follows, ...]
    contradictions: tuple[Contradiction, ...]
    measured: tuple[Value, ...] = ()


def following(sample: Sample, parameter: str = "") -> Following:
    """What follows from what was measured of a sample that was taken, with its own limits;
    *parameter*: only what rests on this one."""
    point, at = sample.point, sample.sampled_at
    place = Place(point.part, point.altitude_m)
    measured = _measured(sample, point, at)
    found = derive(measured, at, place)
    own = [one.value for one in measured if one.part == place.part and _is_near(one, at)]
    derived = [one.value for one in found if one.value]
    cannot = contradictions([*own, *derived])
    if parameter:
        found = tuple(one for one in found if _rests_on(one, parameter))
        cannot = tuple(one for one in cannot if parameter in one.parameters)
    held = set_at(point, at) if found else None
    values = []
    for one in found:
        verdict = verdict_by(held, one.value) if held and one.value else None
        values.append(Follows(one, verdict if verdict and verdict.limit else None))
    return Following(tuple(values), cannot, tuple(own))


def _rests_on(one: DerivedValue, parameter: str) -> bool:
    return any(needed.parameter == parameter for needed in one.derived.needs)


def _is_near(one: Measured, at: datetime) -> bool:
    return abs(one.at - at) <= SAME_SAMPLE


def _measured(sample: Sample, point: Point, at: datetime) -> list[Measured]:
    """What was measured at the point with the sample, and lately at other parts of its water; one
    query."""
    results = Result.objects.of(sample.programme_id).counting()
    near = results.filter(
        point__water=point.water_id, sampled_at__range=(at - OLDEST, at + SAME_SAMPLE)
    ).select_related("current", "point")
    found = [
        Measured(value, one.sampled_at, one.point.part)
        for one in near
        if (one.point_id == point.pk or one.point.part != point.part)
        and (value := one.evaluation.value)
    ]
    warm = any(one.value.quantity == WATER_C and _is_near(one, at) for one in found)
    if sample.water_c is not None and not warm:
        number = float(sample.water_c)
        range_ = Interval(number - WATER_C_HALF, number + WATER_C_HALF)
        found.append(Measured(Value(WATER_C, number, 1, range_), at, point.part))
    return found
