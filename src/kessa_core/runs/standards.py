"""What a standard in a run came to."""

from dataclasses import dataclass

from kessa_core.methods.stage import Stage
from kessa_core.quality.agreement import recovery
from kessa_core.quantities.rounding import figure
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType


@dataclass(frozen=True)
class Recovery:
    """What was found of a known amount. words: what was done; percent: found by known, and the
    window it has to lie in, both ends included."""

    words: str
    percent: float
    low: int
    high: int

    @property
    def passes(self) -> bool:
        """Whether it lies inside the window."""
        return self.low <= self.percent <= self.high

    @property
    def line(self) -> str:
        """ "standard 1.50 found 1.46: 97.3 %, inside 90–110 %"."""
        where = "inside" if self.passes else "outside"
        return f"{self.words}: {figure(self.percent, 1)} %, {where} {self.low}–{self.high} %"


def standard_recovery(stage: Stage, reader: ReadingType, seen: Reading) -> Recovery | None:
    """What was found of the stage's standard: of the lot in use where its content is recorded, in
    the stage's unit and basis, else of the value that the method names; None without a standard."""
    rule = stage.standard
    if not rule:
        return None
    content = reader.lots.of(rule.name).content
    true, shown = (content.number, f"{content.number:g}") if content else (
        float(rule.value), rule.value,
    )  # fmt: skip
    doubt = f" ± {2 * content.sd * content.number:.2g}" if content and content.sd else ""
    found = float(reader.number(seen)) * reader.correction
    words = f"standard {shown}{doubt} found {reader.shown(found)}"
    return Recovery(words, recovery(found, true), rule.low_percent, rule.high_percent)
