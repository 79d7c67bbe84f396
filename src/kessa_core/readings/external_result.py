"""A figure from elsewhere: a laboratory, a fixed instrument; with its own stated uncertainty."""

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from functools import cached_property
from typing import ClassVar, Literal

from pydantic import Field

from kessa_core.documents import Amount, Part, Short
from kessa_core.influences.part import SourceInfo
from kessa_core.quantities import Interval, Value
from kessa_core.readings.displays import Display
from kessa_core.readings.reading import Reading
from kessa_core.readings.scale import Scale
from kessa_core.readings.scale_model import ScaleModel

COVERAGE = 2.0
"""An expanded uncertainty is stated with k = 2 (JCGM 100:2008, 6.2)."""


class ExternalResultPart(Part):
    """How the figure is given: decimals, the largest that makes sense, the reporting limit."""

    by: Literal["elsewhere"]
    source: Short = Field(description="A laboratory's certificate, a fixed instrument.")
    decimals: int = Field(ge=0, le=6)
    high: Amount
    reporting_limit: Amount = Field(description='Below it the certificate says "<".')


class ExternalResult(Display):
    """A certificate's figure and its expanded uncertainty."""

    by = "elsewhere"
    words = "external result"
    document = ExternalResultPart
    slots = ("uncertainty", "reading")
    step = "one digit of the certificate"
    under_says = "Below the reporting limit"
    knows: ClassVar = {"noise": SourceInfo("steps", "what the certificate does not say")}

    def scale(self, slot: str) -> Scale:
        """The figure as certified; "<" is the reporting limit."""
        p = self.part
        high = int(Decimal(p.high).scaleb(p.decimals))
        low = int(Decimal(p.reporting_limit).scaleb(p.decimals)) if slot == "reading" else 0
        return Scale(slot, low, high, p.decimals, self.measures.unit, under=slot == "reading")

    def curve(self, n: float) -> float:
        """The figure itself."""
        return self.main.figure(n)

    @cached_property
    def model(self) -> ScaleModel:
        """From nothing to above the largest figure."""
        high = self.main.high * 1.25
        return ScaleModel(((0.0, 0.0), (high, self.curve(high))), self.main.count, self.spread)

    def interval(self, every: Sequence[Reading], blanks: Sequence[Reading] = ()) -> Interval:
        """As certified: the figure and its expanded uncertainty, never below zero."""
        stated = max(seen.slot("uncertainty") for seen in every)
        sized = replace(self.spread, steps=max(stated / COVERAGE, 0.3))
        model = replace(self.model, spread=sized)
        return Interval(*model.interval([self.edges(seen) for seen in every]))

    def bound(self, seen: Reading, blanks: Sequence[Reading] = ()) -> Value:
        """Below the reporting limit: at most that."""
        limit = float(Decimal(self.part.reporting_limit))
        return Value(
            self.measures.quantity, limit, self.measures.decimals, Interval(0.0, limit), "<",
            self.words,
        )  # fmt: skip

    def format_reading(self, seen: Reading) -> str:
        """ "0.0042 ± 0.0006"."""
        if seen.kind == "below":
            return f"< {self.part.reporting_limit}"
        return f"{self.main.say(seen.n)} ± {self.main.say(seen.slot('uncertainty'))}"
