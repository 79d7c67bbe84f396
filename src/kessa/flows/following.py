"""What follows from the results of a sample, and which of them contradict each other."""

from dataclasses import dataclass
from datetime import datetime

from kessa.verdicts.measured import measured_with, place_of
from kessa.verdicts.services import verdict_by
from kessa.visits.models import Sample
from kessa_core.derived import (
    Contradiction,
    DerivedValue,
    Measured,
    contradictions,
    derive,
)
from kessa_core.derived.deriving import SAME_SAMPLE
from kessa_core.judging import LimitSet, Verdict
from kessa_core.quantities import Value


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


def following(sample: Sample, held: LimitSet | None, parameter: str = "") -> Following:
    """What follows from what was measured of a sample that was taken, with the limits that *held*
    there then; *parameter*: only what rests on this one."""
    at = sample.sampled_at
    place, measured = place_of(sample), measured_with(sample)
    found = derive(measured, at, place)
    own = [one.value for one in measured if one.part == place.part and _is_near(one, at)]
    derived = [one.value for one in found if one.value]
    cannot = contradictions([*own, *derived])
    if parameter:
        found = tuple(one for one in found if _rests_on(one, parameter))
        cannot = tuple(one for one in cannot if parameter in one.parameters)
    applied = held.limits if held and found else ()
    limits = [one.for_sample(measured, at, place) for one in applied]
    values = []
    for one in found:
        verdict = verdict_by(limits, one.value) if one.value else None
        values.append(Follows(one, verdict if verdict and verdict.sign != "none" else None))
    return Following(tuple(values), cannot, tuple(own))


def _rests_on(one: DerivedValue, parameter: str) -> bool:
    return any(needed.parameter == parameter for needed in one.derived.needs)


def _is_near(one: Measured, at: datetime) -> bool:
    return abs(one.at - at) <= SAME_SAMPLE
