"""Electrochemical meters and disposable sensors: a figure from a display, once it is stable.

A conductivity meter may change its unit by itself, may compensate for temperature or not, and to
20 or 25 °C: that is part of the reading. k25 = k / (1 + alpha (t - 25)).
"""

from collections.abc import Sequence
from decimal import Decimal
from functools import cached_property
from typing import Any, ClassVar, Literal

from pydantic import Field, model_validator

from kessa_core.chemistry.conductivity import ALPHA_PER_C, at_25
from kessa_core.documents import Amount, Measurand, Part, Short
from kessa_core.documents.parts import Signed
from kessa_core.errors import CoreError
from kessa_core.influences.part import SourceInfo
from kessa_core.quantities import Value, conversion, units
from kessa_core.quantities.rounding import figure
from kessa_core.readings.displays import CALIBRATION, NOISE, ZERO, Display, WithInstrument
from kessa_core.readings.reading import Reading
from kessa_core.readings.scale import Range, Scale


class DisplayRange(Part):
    """One range of the display."""

    unit: Short
    decimals: int = Field(ge=0, le=4)
    low: Signed = "0"
    high: Signed

    @model_validator(mode="after")
    def _rising(self) -> "DisplayRange":
        if float(self.low) >= float(self.high):
            raise ValueError("low must lie below high")
        return self


class MeterPart(Part):
    """What the meter shows and how a reading is taken from it."""

    by: Literal["meter"]
    instrument: Short
    ranges: tuple[DisplayRange, ...] = Field(min_length=1, max_length=4)
    take: Literal["stable", "mean"] = Field(
        description="Once it is stable, or the mean of three where it wanders."
    )
    stable_when: Short = "the display stands still for ten seconds"
    compensated_to: Literal["none", "20", "25", "not-needed"] = "not-needed"
    alpha_per_c: float = Field(default=ALPHA_PER_C, gt=0, le=0.05)

    @model_validator(mode="after")
    def _finest_first(self) -> "MeterPart":
        steps = [_step(one) for one in self.ranges]
        if steps != sorted(steps):
            raise ValueError("ranges begin with the finest one")
        return self


class SensorPart(Part):
    """A disposable sensor in a reader that shows the concentration."""

    by: Literal["sensor"]
    instrument: Short
    sensor: Short = Field(description="What each measurement uses up.")
    decimals: int = Field(ge=0, le=4)
    high: Amount


def _step(one: DisplayRange) -> Decimal:
    """The finest step of a range in the first range's family of units."""
    factor = units.convert(1.0, one.unit, "µS/cm") if "S/cm" in one.unit else 1.0
    return Decimal(repr(factor)) * Decimal(1).scaleb(-one.decimals)


def _shown_line(unit: str, measures: Measurand) -> tuple[float, float]:
    """Factor and shift from the display's unit to the reported one."""
    return conversion.line(
        measures.parameter, (measures.basis, unit), (measures.basis, measures.unit)
    )


class Meter(WithInstrument, Display):
    """A meter with its temperature beside it."""

    by = "meter"
    words = "meter"
    document = MeterPart
    step = "one digit of the display"
    knows: ClassVar = {
        "calibration": CALIBRATION,
        "offset": SourceInfo("steps", "where the calibration stands"),
        "noise": NOISE,
        "temperature": SourceInfo("relative", "what the temperature leaves uncertain"),
    }
    needs = frozenset({"noise"})

    @classmethod
    def validation_error(cls, part: Any, measures: Measurand) -> str:
        """A conductivity has to say to which temperature the display is compensated."""
        conducts = measures.parameter == "conductivity"
        if conducts == (part.compensated_to == "not-needed"):
            return "compensated_to is given when, and only when, conductivity is measured"
        try:
            _shown_line(part.ranges[0].unit, measures)
        except CoreError:
            return "the display's unit does not measure what is reported"
        return ""

    @property
    def reading_fields(self) -> tuple[str, ...]:
        """Temperature first where it is needed; three readings where their mean is taken."""
        before = ("temperature",) if self.part.compensated_to == "none" else ()
        more = ("first", "second") if self.part.take == "mean" else ()
        return (*before, *more, "reading")

    @cached_property
    def _finest(self) -> DisplayRange:
        found: DisplayRange = self.part.ranges[0]
        return found

    def scale(self, slot: str) -> Scale:
        """The display with all its ranges; the temperature to a tenth."""
        if slot == "temperature":
            return Scale(slot, -50, 600, 1, "°C")
        ranges = []
        step = _step(self._finest)
        for one in self.part.ranges:
            zeros = int((_step(one) / step).log10().to_integral_value())
            low, high = (int(Decimal(x).scaleb(one.decimals)) for x in (one.low, one.high))
            ranges.append(Range(one.unit, one.decimals, low, high, zeros))
        last = ranges[-1]
        several = tuple(ranges) if len(ranges) > 1 else ()
        return Scale(
            slot, ranges[0].low, last.high * 10**last.zeros, ranges[0].decimals, ranges[0].unit,
            over=True, ranges=several,
        )  # fmt: skip

    def curve(self, n: float) -> float:
        """The figure in the reported unit, as it would be at 25 °C where that is asked."""
        shown = n / 10.0**self._finest.decimals
        if self.part.compensated_to == "20":
            shown = at_25(shown, 20.0, self.part.alpha_per_c)
        factor, shift = _shown_line(self._finest.unit, self.measures)
        return shown * factor + shift

    def position(self, seen: Reading) -> float:
        """The place on the display: the mean of three, at 25 °C where that is computed."""
        every = [seen.n]
        if self.part.take == "mean":
            every += [seen.slot("first", seen.n), seen.slot("second", seen.n)]
        mean = sum(every) / len(every)
        if self.part.compensated_to == "none":
            return at_25(mean, seen.slot("temperature", 250) / 10, self.part.alpha_per_c)
        return mean

    def weights(self) -> dict[str, int]:
        """A sum of the slots only where nothing is computed between them."""
        plainly = self.part.compensated_to != "none" and self.part.take == "stable"
        return {"reading": 2} if plainly else {}

    def edges(self, seen: Reading) -> tuple[float, float]:
        """Half a digit to both sides of where it stands."""
        at = self.position(seen)
        if seen.kind == "beyond":
            return at + 0.5, float("inf")
        digit = self._digit(seen.n) / 2
        foot = at <= self.main.low and self.main.low >= 0
        return (float("-inf") if foot else at - digit), at + digit

    def _digit(self, n: float) -> int:
        """One digit of the range that shows *n*, in the finest steps."""
        for one in self.main.ranges:
            if n <= one.high * 10**one.zeros:
                return int(10**one.zeros)
        return 1

    def format_reading(self, seen: Reading) -> str:
        """What the display showed, in its own unit, and the temperature beside it."""
        beside = ""
        if self.part.compensated_to == "none":
            beside = f" at {self.scale('temperature').say(seen.slot('temperature'))} °C"
        for one in self.main.ranges:
            if seen.kind == "plain" and seen.n <= one.high * 10**one.zeros:
                shown = Scale("", 0, 0, one.decimals).say(seen.n / 10**one.zeros)
                return f"{shown} {one.unit}{beside}"
        return self._displays(seen) + beside

    def _displays(self, seen: Reading) -> str:
        """The readings of one determination: one, or the three whose mean is taken."""
        if self.part.take != "mean" or seen.kind != "plain":
            return super().format_reading(seen)
        three = (seen.slot("first", seen.n), seen.slot("second", seen.n), seen.n)
        return ", ".join(self.main.say(n) for n in three) + f" {self.main.unit}"

    def working(self, used: Sequence[Reading], blanks: Sequence[Reading], value: Value) -> str:
        """What was shown, and what was computed from it."""
        said = ", ".join(self.format_reading(seen) for seen in used)
        to = self.part.compensated_to
        alpha = figure(self.part.alpha_per_c, 4)
        if to == "20":
            return f"{said}, shown as at 20 °C: ÷ (1 − {alpha} × 5) = {value.text} at 25 °C"
        if to == "none":
            return f"{said}, not compensated: ÷ (1 + {alpha} × (t − 25)) = {value.text} at 25 °C"
        if self.part.take == "mean" and not value.qualifier:
            return f"mean of {said} = {value.text}"
        return super().working(used, blanks, value)


class Sensor(WithInstrument, Display):
    """A disposable sensor, read by an instrument; a chain of them makes the stages of a method."""

    by = "sensor"
    words = "sensor"
    document = SensorPart
    knows: ClassVar = {
        "lot": SourceInfo("relative", "how this lot of sensors is calibrated"),
        "each-sensor": SourceInfo("relative", "one sensor and the next are not alike"),
        "noise": NOISE,
        "zero": ZERO,
    }
    needs = frozenset({"lot", "noise"})

    def scale(self, slot: str) -> Scale:
        """The display of the reader."""
        high = int(Decimal(self.part.high).scaleb(self.part.decimals))
        return Scale(slot, 0, high, self.part.decimals, self.measures.unit, over=True)

    def curve(self, n: float) -> float:
        """The display shows the concentration."""
        return self.main.figure(n)
