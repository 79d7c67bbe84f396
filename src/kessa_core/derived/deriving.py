"""Finding the inputs of derived values among what was measured, and computing them."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from math import inf

from kessa_core.chemistry.oxygen import pressure_at_hpa
from kessa_core.derived.definition import Derived, Input
from kessa_core.derived.propagation import Carried, carry, decimals_for, interval_of
from kessa_core.derived.shipped import shipped_derived
from kessa_core.errors import CoreError, NoConversion
from kessa_core.quantities import Interval, Quantity, Value

SAME_SAMPLE = timedelta(hours=2)
"""Maximum time between a sample and another measurement at its point that still describes it."""
OLDEST = timedelta(days=8)
"""Of a value that changes slowly, or is from another part of the water: its oldest age beside a
sample."""
WEATHER_HPA = 15.0
"""By how much, with 95 %, weather moves the air pressure about that of the altitude."""


@dataclass(frozen=True)
class Measured:
    """A value that was measured: when, and of which part of the water."""

    value: Value
    at: datetime
    part: str = ""


@dataclass(frozen=True)
class Place:
    """Where a sample was taken: its part of the water, and the altitude in m, where it is known."""

    part: str = ""
    altitude_m: float | None = None


@dataclass(frozen=True)
class DerivedValue:
    """A derived value and the inputs that it follows from, in words. value: none where there is no
    answer; reason: why."""

    derived: Derived
    value: Value | None
    inputs: tuple[str, ...]
    reason: str = ""

    @property
    def title(self) -> str:
        """What it is of."""
        return self.derived.title


def derive(measured: Iterable[Measured], at: datetime, place: Place) -> tuple[DerivedValue, ...]:
    """Everything that follows from what was measured of a sample taken at *at*; what lacks an input
    or was measured itself is left out."""
    known = list(measured)
    found = []
    for derived in shipped_derived():
        if derived.of_part and derived.of_part != place.part:
            continue
        if any(_is_it(one, derived, at, place) for one in known):
            continue
        inputs = [find_input(one, known, at, place) for one in derived.needs]
        if all(inputs) and _with_the_sample(inputs):
            found.append(_computed(derived, [one for one in inputs if one], at))
    return tuple(found)


def _is_it(one: Measured, derived: Derived, at: datetime, place: Place) -> bool:
    """Whether the value was measured itself."""
    same = (one.value.quantity.parameter, one.value.quantity.form) == (
        derived.quantity.parameter, derived.quantity.form,
    )  # fmt: skip
    return same and one.part == place.part and abs(one.at - at) <= SAME_SAMPLE


@dataclass(frozen=True)
class Found:
    """An input with its value in the basis and unit that the function expects; how long before the
    sample it was measured."""

    needed: Input
    value: Value
    age: timedelta = timedelta(0)
    words: str = ""

    @property
    def said(self) -> str:
        """ "pH 8.10", "Chloride of the make-up 32 mg/L as Cl, 3 days before"."""
        if self.words:
            return self.words
        named = f"{self.needed.name} {self.value.text_after_name}"
        if self.is_near:
            return named
        days, hours = self.age.days, round(self.age.total_seconds() / 3600)
        old = f"{days} day{'s' if days != 1 else ''}" if days else f"{hours} h"
        return f"{named}, {old} before"

    @property
    def is_near(self) -> bool:
        """Whether it was measured with the sample itself, or was not measured at all."""
        return self.age <= SAME_SAMPLE


def _with_the_sample(inputs: Sequence[Found | None]) -> bool:
    """Whether something of it was measured with the sample, and not all of it before."""
    return any(one and one.is_near and not one.words for one in inputs)


def find_input(
    needed: Input, known: Sequence[Measured], at: datetime, place: Place
) -> Found | None:
    """The measured value that stands for an input of a sample taken at *at*, the nearest in time;
    what is assumed where nobody measured it; else None."""
    part = needed.part or place.part
    oldest = OLDEST if needed.lasts else SAME_SAMPLE
    fitting = [
        one
        for one in known
        if one.value.quantity.parameter == needed.parameter
        and one.value.quantity.form in needed.forms
        and one.part == part
        and at - oldest <= one.at <= at + SAME_SAMPLE
        and not one.value.said
    ]
    for one in sorted(fitting, key=lambda one: abs(one.at - at)):
        try:
            value = one.value.converted(basis=needed.basis, unit=needed.unit)
        except NoConversion:
            continue
        return Found(needed, value, max(at - one.at, timedelta(0)))
    return _assumed(needed, place)


def _assumed(needed: Input, place: Place) -> Found | None:
    """What is taken where nobody measured it: the pressure of the altitude, fresh water."""
    quantity = Quantity(needed.parameter, needed.forms[0], needed.basis, needed.unit)
    if needed.parameter == "air-pressure":
        hpa = pressure_at_hpa(place.altitude_m or 0.0)
        value = Value(quantity, hpa, 0, Interval(hpa - WEATHER_HPA, hpa + WEATHER_HPA))
        where = "sea level" if place.altitude_m is None else f"{place.altitude_m:g} m"
        return Found(needed, value, words=f"Air pressure {value.text}, as at {where}")
    if needed.otherwise is None:
        return None
    sure = Interval(needed.otherwise, needed.otherwise)
    value = Value(quantity, needed.otherwise, 1, sure)
    return Found(needed, value, words=needed.otherwise_words)


def _computed(derived: Derived, inputs: Sequence[Found], at: datetime) -> DerivedValue:
    said = tuple(one.said for one in inputs)
    values = [one.value for one in inputs]
    if derived.needs_order and (reason := _out_of_order(inputs)):
        return DerivedValue(derived, None, said, reason)
    try:
        carried = carry(derived.compute, values)
    except (CoreError, ValueError, ZeroDivisionError, OverflowError) as error:
        reason = str(error) if isinstance(error, CoreError) else "These values allow no answer."
        return DerivedValue(derived, None, said, reason)
    return DerivedValue(derived, _value(derived, carried, values), said)


def _out_of_order(inputs: Sequence[Found]) -> str:
    """Why the first cannot be above the second; nothing where their ranges overlap."""
    first, second = inputs[0], inputs[1]
    low = first.value.interval.low or 0.0
    high = inf if second.value.interval.high is None else second.value.interval.high
    if low <= high:
        return ""
    return f"{first.said} is above {second.said}, which cannot be. Check both and which is which."


def _value(derived: Derived, carried: Carried, values: Sequence[Value]) -> Value:
    """The value with as many decimals as its range allows; never below nought where its parameter
    is not."""
    low, high = max(carried.low, 0.0), carried.high
    if derived.quantity.parameter == "saturation-index":
        low = carried.low
    decimals = decimals_for(high - low, derived.most)
    interval = replace(interval_of(carried), low=low)
    bound = [value.qualifier for value in values if value.qualifier]
    made = Value(derived.quantity, max(carried.number, low), decimals, interval)
    if derived.is_difference and carried.low <= 0:
        upper = f"less than {Value(derived.quantity, high, decimals, interval, '<').text[2:]}"
        return replace(made, number=0.0, said="not detected", said_range=upper)
    if high == inf:
        return replace(made, qualifier=">", number=low)
    if bound and low == 0:
        return replace(made, qualifier="<", number=high)
    return replace(made, bracket=(low, high)) if bound else made
