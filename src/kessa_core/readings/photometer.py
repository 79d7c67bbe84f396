"""Photometer and colorimeter: a display in mg/L, absorbance or transmittance.

A = -log10(%T / 100); the calibration line A = a + b c is read backwards. The line is the maker's,
printed in the document, or the instrument's own, fitted from its standards (Lot.table: c, A).
"""

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from functools import cached_property
from math import log
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from kessa_core.chemistry.photometry import absorbance
from kessa_core.documents import Amount, Figure, Measurand, Part, Short, Signed
from kessa_core.influences.part import PORTION, spread
from kessa_core.quality.calibration import Line, calibration_line
from kessa_core.quantities import Value
from kessa_core.quantities.rounding import figure
from kessa_core.readings.displays import CALIBRATION, NOISE, ZERO, Display, WithInstrument
from kessa_core.readings.reading import Reading
from kessa_core.readings.scale import Scale
from kessa_core.readings.scale_model import ScaleModel

FIT_PLACES = 25
"""Places along the display at which the doubt of an own line is worked out."""


class CalibrationLine(Part):
    """A = intercept + slope c, for the cell that the method uses."""

    intercept: Signed
    slope: Amount = Field(description="Absorbance for each mg/L.")


class PhotometerPart(Part):
    """What the display shows, and how it becomes a concentration."""

    by: Literal["photometer"]
    instrument: Short
    shows: Literal["concentration", "absorbance", "transmittance"] = "concentration"
    decimals: int = Field(ge=0, le=4, description="Decimals of the display.")
    low: Figure = Field(
        default="0", description="The foot of the range; below it the display is not used."
    )
    high: Amount = Field(description="The top of the range, as the display shows it.")
    cell_mm: int = Field(ge=1, le=100, description="Path length of the cell.")
    zero: Literal["sample", "reagent-blank"] = Field(
        description="Zeroed with each untreated sample, or once with a reagent blank."
    )
    line: CalibrationLine | None = None
    darkest: Amount | None = Field(
        default=None, description="transmittance: the darkest reading that is still used, in % T."
    )

    @model_validator(mode="after")
    def _has_a_line(self) -> "PhotometerPart":
        if self.darkest is not None and (
            self.shows != "transmittance" or not 0 < float(self.darkest) < float(self.high)
        ):
            raise ValueError("darkest is a transmittance above 0 and below high")
        if self.shows == "transmittance" and float(self.low):
            raise ValueError("low belongs to a display of mg/L or absorbance; here darkest ends it")
        if float(self.low) >= float(self.high):
            raise ValueError("low must lie below high")
        if (self.shows == "concentration") == (self.line is not None):
            raise ValueError("line is given when, and only when, the display shows no mg/L")
        return self


class Photometer(WithInstrument, Display):
    """Zero, reagents, wait, read."""

    by = "photometer"
    words = "photometer"
    document = PhotometerPart
    knows: ClassVar = {
        "calibration": CALIBRATION,
        "noise": NOISE,
        "zero": ZERO,
        "portion": PORTION,
    }
    needs = frozenset({"calibration", "noise"})

    @classmethod
    def validation_error(cls, part: Any, measures: Measurand) -> str:
        """What the display shows has to be what is reported, to the same decimal."""
        if part.shows == "concentration" and measures.decimals > part.decimals:
            return "measures.decimals cannot be finer than the display"
        return ""

    def scale(self, slot: str) -> Scale:
        """The display."""
        p = self.part
        unit = {"concentration": self.measures.unit, "absorbance": "A", "transmittance": "% T"}
        high = int(Decimal(p.high).scaleb(p.decimals))
        foot = (p.darkest or "1") if self.turned else p.low
        low = int(Decimal(foot).scaleb(p.decimals))
        over_at = low if self.turned else None
        under = low > 0 and not self.turned
        return Scale(
            slot, low, high, p.decimals, unit[p.shows], over=True, under=under, over_at=over_at
        )

    @property
    def turned(self) -> bool:
        """Whether the display falls as the concentration rises."""
        return bool(self.part.shows == "transmittance")

    @cached_property
    def line(self) -> tuple[float, float]:
        """Intercept and slope: the instrument's own where its standards are on file."""
        if own := self.own_line:
            return own.intercept, own.slope
        return float(self.part.line.intercept), float(self.part.line.slope)

    @cached_property
    def own_line(self) -> Line | None:
        """The instrument's own line; None where no standards of it are on file.

        Raises NotANumber where the standards make no line that can be read backwards.
        """
        return calibration_line(self.lot.table) if self.lot.table else None

    @cached_property
    def spread(self) -> Any:
        """With an own line: the doubt of its fit in place of the maker's calibration."""
        found = super().spread
        if self.own_line is None:
            return found
        kept = tuple(i for i in self.influences if i.of != "calibration")
        return spread(kept, self._known)

    @cached_property
    def model(self) -> ScaleModel:
        """With an own line: the doubt of its fit, wider away from the middle of the standards."""
        found = super().model
        if not (own := self.own_line) or self.part.shows == "concentration":
            return found
        places = np.linspace(*found.ends, FIT_PLACES)
        step = 10.0**-self.part.decimals
        wide = []
        for u in places:
            shown = float(u) * step
            if self.turned:
                percent = max((self.main.high - float(u)) * step, step)
                shown, a_step = absorbance(percent), step / (percent * log(10))
            else:
                a_step = step
            wide.append((float(u), own.sd_of_line(shown) / a_step))
        return replace(found, fit=tuple(wide))

    def curve(self, n: float) -> float:
        """mg/L of a place on the display; a transmittance counts down from its top."""
        p = self.part
        if p.shows == "concentration":
            return self.main.figure(n)
        if self.turned:
            shown = max((self.main.high - n) / 10.0**p.decimals, 1e-3)
            seen = absorbance(shown)
        else:
            seen = n / 10.0**p.decimals
        a, b = self.line
        return (seen - a) / b

    @property
    def reach(self) -> tuple[int, int]:
        """A transmittance begins at its clear end."""
        if self.turned:
            return 0, self.main.high - self.main.low
        return super().reach

    def example(self, position: int) -> Reading:
        """A reading at this position."""
        return Reading(self.main.high - position if self.turned else position)

    @property
    def room(self) -> float:
        """A transmittance cannot go below nothing."""
        return 0.9 * self.main.low if self.turned else super().room

    def position(self, seen: Reading) -> float:
        """Steps from the clear end of the display."""
        return self.main.high - seen.n if self.turned else seen.n

    def weights(self) -> dict[str, int]:
        """A transmittance falls as the concentration rises."""
        return {"reading": -2 if self.turned else 2}

    @property
    def halves_at_zero(self) -> int:
        """A transmittance is counted from its clear end."""
        return 2 * self.main.high if self.turned else 0

    def number(self, seen: Reading) -> Decimal:
        """Read backwards from the line; never below zero."""
        at = self.curve(float(self.position(seen)))
        return Decimal(repr(round(max(at, 0.0), 9)))

    def working(self, used: Sequence[Reading], blanks: Sequence[Reading], value: Value) -> str:
        """ "0.412 A: (0.412 − 0.004) / 0.255 = 1.6 mg/L"."""
        said = ", ".join(self.format_reading(seen) for seen in used)
        if self.part.shows == "concentration" or value.qualifier:
            return super().working(used, blanks, value)
        a, b = self.line
        whose = "own line" if self.own_line else "the maker’s line"
        return f"{said}, by {whose} A = {figure(a, 4)} + {figure(b, 4)} c: {value.text}"
