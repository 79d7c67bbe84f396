"""Where the width of a drop count's interval comes from, and what would narrow it most.

An influence's part is how much the squared width shrinks when that influence alone is taken away;
the whole drop's part is the squared width that is left when all of them are taken away. The parts
are scaled to add up to one. Source: the one-at-a-time index of the GUM (JCGM 100:2008, 5.1.3),
with interval widths in place of standard deviations because the steps are wide.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from kessa_core.influences.spread import DropSpread, drop_spread
from kessa_core.methods import Method
from kessa_core.quantities import Interval
from kessa_core.readings.dropcount import DropModel, DropReading, drop_model

STEADY = 0.02
"""Sd in drops that stands for "no scatter at all"."""
KNOWN_BOTTLE = 0.01
FINER = 3

NAMES = {
    "step": "the readings: whole drops, and how they differ",
    "drop-size": "this bottle’s drop size",
    "strength": "the titrant’s strength",
    "each-drop": "one drop and the next are not alike",
    "portion": "filling the portion",
    "eye": "where the eye sees the end",
    "colour-need": "titrant that the colour itself takes",
}
WHOSE = {
    "maker": "the maker’s figure",
    "replicates": "your own replicates",
    "default": "Kessa’s default",
}


@dataclass(frozen=True)
class Part:
    """One influence's part of the squared width, from 0 to 1, and whose figure it rests on."""

    of: str
    words: str
    share: float
    size: str
    whose: str
    scope: str


@dataclass(frozen=True)
class Narrower:
    """Something a person could do, and the width of the interval it would leave, in mg/L."""

    words: str
    width: float


@dataclass(frozen=True)
class Budget:
    """The width in the result's unit, its parts (largest first), what narrows it (best first)."""

    width: float
    parts: tuple[Part, ...]
    narrowers: tuple[Narrower, ...]


def budget(
    method: Method, readings: Sequence[DropReading], blanks: Sequence[DropReading]
) -> Budget | None:
    """The budget of a two-sided interval; None where a reading leaves a bound only."""
    if not readings or any(reading.kind == "beyond" for reading in readings):
        return None
    model = drop_model(method)
    width = _width(model, readings, blanks)
    shrinks = {"step": _width(_bare(model), readings, blanks) ** 2}
    for name in [influence.of for influence in method.influences]:
        without = replace(model, spread=_without(method, model.spread, name))
        shrinks[name] = max(0.0, width**2 - _width(without, readings, blanks) ** 2)
    total = sum(shrinks.values())
    parts = [_part(method, name, shrink / total) for name, shrink in shrinks.items()]
    parts.sort(key=lambda part: -part.share)
    return Budget(width, tuple(parts), _narrowers(model, readings, blanks, width))


def _width(
    model: DropModel, readings: Sequence[DropReading], blanks: Sequence[DropReading]
) -> float:
    found: Interval = model.interval(readings, blanks)
    return (found.high or 0.0) - (found.low or 0.0)


def _bare(model: DropModel) -> DropModel:
    middle = (model.spread.need_low + model.spread.need_high) / 2
    return replace(model, spread=DropSpread(0.0, 0.0, 0.0, STEADY, middle, middle))


def _without(method: Method, spread: DropSpread, name: str) -> DropSpread:
    if name in ("strength", "drop-size"):
        kept = [i for i in method.influences if i.of != name]
        left = drop_spread(method.model_copy(update={"influences": kept}))
        return replace(spread, shared=left.shared)
    if name == "colour-need":
        middle = (spread.need_low + spread.need_high) / 2
        return replace(spread, need_low=middle, need_high=middle)
    return replace(spread, **{name.replace("-", "_"): STEADY if name == "eye" else 0.0})


def _part(method: Method, name: str, share: float) -> Part:
    influence = next((i for i in method.influences if i.of == name), None)
    if influence is None:
        return Part(name, NAMES[name], share, "one drop", "the kit", "every determination")
    if influence.distribution == "uniform":
        size = f"{influence.low or 0:g}–{influence.high or 0:g} drops"
    else:
        sd = influence.sd or 0.0
        size = f"sd {sd:g} drops" if name == "eye" else f"sd {100 * sd:g} %"
    scope = f"shared by one {influence.key}" if influence.scope == "shared" else "each anew"
    return Part(name, NAMES[name], share, size, WHOSE[influence.source], scope)


def _narrowers(
    model: DropModel,
    readings: Sequence[DropReading],
    blanks: Sequence[DropReading],
    width: float,
) -> tuple[Narrower, ...]:
    s = model.spread
    standard = replace(model, spread=replace(s, shared=min(s.shared, KNOWN_BOTTLE)))
    middle = sum(reading.halves for reading in readings) / len(readings)
    nearest = min(readings, key=lambda reading: abs(reading.halves - middle))
    steady = replace(model, spread=replace(s, eye=s.eye / 2))
    tried = [
        ("a standard beside it, which shows this bottle’s drop size",
         _width(standard, readings, blanks)),
        ("one more determination like these", _width(model, [*readings, nearest], blanks)),
        ("an eye that is known to half the scatter, from your own replicates",
         _width(steady, readings, blanks)),
    ]  # fmt: skip
    if blanks:
        twice = _width(model, readings, [*blanks, blanks[0]])
        tried.append(("a second blank like the first", twice))
    finer = _finer(model, readings, blanks)
    if finer:
        tried.append((f"a portion {FINER} times as large, so that one drop is less", finer))
    better = [Narrower(words, new) for words, new in tried if new < 0.97 * width]
    return tuple(sorted(better, key=lambda one: one.width))


def _finer(
    model: DropModel, readings: Sequence[DropReading], blanks: Sequence[DropReading]
) -> float | None:
    """The width with a portion FINER times as large, where its counts still fit on the bottle."""
    mean = sum(reading.reported for reading in readings) / len(readings)
    drops = round(mean * FINER)
    if drops > model.max_drops:
        return None
    finer = replace(model, factor=model.factor / FINER)
    return _width(finer, [DropReading(drops)] * len(readings), blanks)
