"""What is drawn for a stage: its instrument with scales, ticks and stops, ready for a template."""

from collections.abc import Iterable
from dataclasses import dataclass
from math import ceil
from typing import Any

from kessa.ui.ticks import whole_step
from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.readings.scale import Scale

TICKS = 10
"""About so many numbered ticks on a scale."""
FEW = 5
"""And on a plain rule, which is short."""
RULED = ("temperature", "uncertainty", "refills", "across")
"""Slots that are read beside the instrument's own; a plain rule is drawn for them."""


@dataclass(frozen=True)
class Tick:
    """A mark on a scale: its share of the length, from 0 at the foot to 1, and its words."""

    share: float
    label: str


@dataclass(frozen=True)
class Dial:
    """One slot of a stage: what is read there and its marks."""

    slot: str
    title: str
    scale: Scale
    ticks: tuple[Tick, ...]
    minor: tuple[float, ...]
    template: str


@dataclass(frozen=True)
class Instrument:
    """A stage's instrument. key: method and stage; template: the drawing of its principle."""

    key: str
    stage: Stage
    part: Any
    template: str
    dials: tuple[Dial, ...]

    @property
    def main(self) -> Dial | None:
        """The dial whose reading counts."""
        return self.dials[-1] if self.dials else None


def instruments_of(methods: Iterable[Method]) -> list[Instrument]:
    """The instrument of every stage."""
    return [instrument_of(method.id, stage) for method in methods for stage in method.stages]


def instrument_of(method_id: str, stage: Stage) -> Instrument:
    """The instrument of one stage."""
    reader = stage.reader()
    titles = {step.slot: step.title for step in stage.steps if step.slot}
    dials = tuple(
        _dial(reader.scale(slot), titles.get(slot, slot), reader.by)
        for slot in reader.reading_fields
    )
    template = f"ui/instruments/{reader.by}.html"
    return Instrument(f"{method_id}/{stage.id}", stage, stage.reading, template, dials)


def _dial(scale: Scale, title: str, by: str) -> Dial:
    ruled = scale.slot in RULED
    about, drawing = (FEW, "rule") if ruled else (TICKS, by)
    template = f"ui/instruments/{drawing}.html"
    return Dial(scale.slot, title, scale, ticks(scale, about), minor(scale, about), template)


def ticks(scale: Scale, about: int = TICKS) -> tuple[Tick, ...]:
    """Numbered marks: every position of a scale with names, else round figures."""
    length = scale.high - scale.low or 1
    if scale.labels:
        return tuple(Tick(i / length, label) for i, label in enumerate(scale.labels))
    every = whole_step(length / about)
    first = ceil(scale.low / every) * every
    places = range(first, scale.high + 1, every)
    return tuple(Tick((n - scale.low) / length, _short(scale.say(n))) for n in places)


def minor(scale: Scale, about: int = TICKS) -> tuple[float, ...]:
    """Where the fine marks between numbered ones stand: five or two to a gap."""
    if scale.labels:
        return ()
    length = scale.high - scale.low
    every = whole_step(length / about)
    parts = next((parts for parts in (5, 2) if every % parts == 0), 1)
    places = range(ceil(scale.low / every) * every, scale.high + 1, every // parts)
    return tuple((n - scale.low) / length for n in places if n % every) if parts > 1 else ()


def _short(figure: str) -> str:
    return figure.rstrip("0").rstrip(".") if "." in figure else figure
