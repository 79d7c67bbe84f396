"""Photometer and colorimeter: a display in mg/L, absorbance or transmittance.

A = -log10(%T / 100); the calibration line A = a + b c is read backwards. The line is the maker's,
printed in the document, or the instrument's own, fitted from its standards (Lot.table: c, A).
"""

from collections.abc import Sequence
from decimal import Decimal
from functools import cached_property
from typing import Any, ClassVar, Literal

from pydantic import Field, model_validator

from kessa_core.chemistry.photometry import absorbance
from kessa_core.documents import Figure, Measures, Part, Short, Signed
from kessa_core.influences.part import PORTION
from kessa_core.quality.calibration import fit
from kessa_core.quantities import Value
from kessa_core.quantities.rounding import figure
from kessa_core.readings.displays import CALIBRATION, NOISE, ZERO, Display
from kessa_core.readings.scale import Scale
from kessa_core.readings.seen import Seen


class CalibrationLine(Part):
    """A = intercept + slope c, for the cell that the method uses."""

    intercept: Signed
    slope: Figure = Field(description="Absorbance for each mg/L.")


class PhotometerPart(Part):
    """What the display shows, and how it becomes a concentration."""

    by: Literal["photometer"]
    instrument: Short
    shows: Literal["concentration", "absorbance", "transmittance"] = "concentration"
    decimals: int = Field(ge=0, le=4, description="Decimals of the display.")
    high: Figure = Field(description="The top of the range, as the display shows it.")
    cell_mm: int = Field(ge=1, le=100, description="Path length of the cell.")
    zero: Literal["sample", "reagent-blank"] = Field(
        description="Zeroed with each untreated sample, or once with a reagent blank."
    )
    line: CalibrationLine | None = None

    @model_validator(mode="after")
    def _has_a_line(self) -> "PhotometerPart":
        if (self.shows == "concentration") == (self.line is not None):
            raise ValueError("line is given when, and only when, the display shows no mg/L")
        return self


class Photometer(Display):
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
    def misfit(cls, part: Any, measures: Measures) -> str:
        """What the display shows has to be what is reported, to the same decimal."""
        if part.shows == "concentration" and measures.decimals > part.decimals:
            return "measures.decimals cannot be finer than the display"
        return ""

    def scale(self, slot: str) -> Scale:
        """The display."""
        p = self.part
        unit = {"concentration": self.measures.unit, "absorbance": "A", "transmittance": "% T"}
        high = int(Decimal(p.high).scaleb(p.decimals))
        low = 1 if p.shows == "transmittance" else 0
        return Scale(slot, low, high, p.decimals, unit[p.shows], over=True, under=False)

    @cached_property
    def line(self) -> tuple[float, float]:
        """Intercept and slope: the instrument's own where its standards are on file."""
        if self.lot.table:
            own = fit([c for c, _ in self.lot.table], [a for _, a in self.lot.table])
            return own.intercept, own.slope
        return float(self.part.line.intercept), float(self.part.line.slope)

    def curve(self, n: float) -> float:
        """mg/L of a place on the display; a transmittance counts down from its top."""
        p = self.part
        if p.shows == "concentration":
            return self.main.figure(n)
        if p.shows == "transmittance":
            shown = max((self.main.high - n) / 10.0**p.decimals, 1e-3)
            seen = absorbance(shown)
        else:
            seen = n / 10.0**p.decimals
        a, b = self.line
        return (seen - a) / b

    @property
    def reach(self) -> tuple[int, int]:
        """A transmittance begins at its clear end."""
        if self.part.shows == "transmittance":
            return 0, self.main.high - self.main.low
        return super().reach

    def example(self, position: int) -> Seen:
        """A reading at this position."""
        turned = self.part.shows == "transmittance"
        return Seen(self.main.high - position if turned else position)

    @property
    def room(self) -> float:
        """A transmittance cannot go below nothing."""
        return 0.0 if self.part.shows == "transmittance" else super().room

    def position(self, seen: Seen) -> int:
        """Steps from the clear end of the display."""
        return self.main.high - seen.n if self.part.shows == "transmittance" else seen.n

    def weights(self) -> dict[str, int]:
        """A transmittance falls as the concentration rises."""
        return {"reading": -2 if self.part.shows == "transmittance" else 2}

    def number(self, seen: Seen) -> Decimal:
        """Read backwards from the line; never below zero."""
        at = self.curve(float(self.position(seen)))
        return Decimal(repr(round(max(at, 0.0), 9)))

    def working(self, used: Sequence[Seen], blanks: Sequence[Seen], value: Value) -> str:
        """ "0.412 A: (0.412 − 0.004) / 0.255 = 1.6 mg/L"."""
        said = ", ".join(self.said(seen) for seen in used)
        if self.part.shows == "concentration" or value.qualifier:
            return super().working(used, blanks, value)
        a, b = self.line
        whose = "own line" if self.lot.table else "the maker’s line"
        return f"{said}, by {whose} A = {figure(a, 4)} + {figure(b, 4)} c: {value.text}"
