"""A printed scale with an edge or a thread to read against it: refractometer and thermometer."""

from typing import ClassVar, Literal

from pydantic import Field, model_validator

from kessa_core.documents import Amount, Line, Part, Signed
from kessa_core.influences.part import EYE, SourceInfo
from kessa_core.readings.displays import Display
from kessa_core.readings.scale import Scale, whole_steps


class PrintedScalePart(Part):
    """What the scale looks like, and how fine it is read."""

    by: Literal["printed-scale"]
    device: Literal["refractometer", "thermometer"]
    low: Signed
    high: Signed
    mark: Amount = Field(description="From one printed mark to the next.")
    estimate: Amount = Field(description="The finest part that is read between marks.")
    read_at: Line = Field(description="What is read: the edge, the thread's end.")

    @model_validator(mode="after")
    def _parts_fill_it(self) -> "PrintedScalePart":
        if float(self.low) >= float(self.high):
            raise ValueError("low must lie below high")
        whole_steps(self.estimate, "estimate", low=self.low, high=self.high, mark=self.mark)
        return self


class PrintedScale(Display):
    """A refractometer's edge, a thermometer's thread."""

    by = "printed-scale"
    words = "printed scale"
    document = PrintedScalePart
    step = "the finest part of the scale"
    knows: ClassVar = {
        "eye": EYE,
        "scale": SourceInfo("steps", "how true the scale is"),
        "calibration": SourceInfo("relative", "how the scale is stretched"),
        "temperature": SourceInfo("steps", "what the instrument’s own temperature does"),
    }
    needs = frozenset({"eye"})

    def scale(self, slot: str) -> Scale:
        """From the lowest to the highest mark."""
        p = self.part
        return Scale.printed(slot, (p.low, p.high), p.estimate, self.measures.unit, over=True)

    def curve(self, n: float) -> float:
        """The scale is printed in the reported unit."""
        return self.main.figure(n)
