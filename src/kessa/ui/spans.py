"""What a stage can report, as a drawing: its line, its steps, and how sure it is along it."""

from dataclasses import dataclass

from kessa_core.describing import Span, span_of
from kessa_core.methods.stage import Stage

LEFT, RIGHT = 14.0, 346.0


@dataclass(frozen=True)
class DrawnMark:
    """A value on the line with its 95 % range, in units of the drawing."""

    x: float
    low: float
    high: float
    figure: str
    words: str


@dataclass(frozen=True)
class DrawnSpan:
    """The span with its places."""

    span: Span
    steps: tuple[float, ...]
    marks: tuple[DrawnMark, ...]

    @property
    def ranges(self) -> str:
        """ "0.5 is 0.1–0.9, 4.0 is 3.1–5.1"."""
        return ", ".join(f"{one.figure} is {one.words}" for one in self.marks)

    @property
    def words(self) -> str:
        """What the drawing says, for who does not see it."""
        return f"From {self.span.low} to {self.span.high} {self.span.unit}: {self.ranges}."


def drawn_span(stage: Stage) -> DrawnSpan | None:
    """None where there is no line to draw."""
    span = span_of(stage)
    if span is None:
        return None
    marks = tuple(
        DrawnMark(_at(one.share), _at(one.low), _at(one.high), one.figure, one.words)
        for one in span.marks
    )
    return DrawnSpan(span, tuple(map(_at, span.steps)), marks)


def _at(share: float) -> float:
    return round(LEFT + (RIGHT - LEFT) * share, 1)
