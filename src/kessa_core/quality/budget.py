"""Where the width of an interval comes from, and what would narrow it most.

An influence's part is how much the squared width shrinks when that influence alone is taken away;
the whole step's part is the squared width that is left when all of them are taken away. The parts
are scaled to add up to one. Source: the one-at-a-time index of the GUM (JCGM 100:2008, 5.1.3),
with interval widths in place of standard deviations because the steps are wide.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from statistics import mean

from kessa_core.influences.part import UncertaintySource
from kessa_core.quantities import Interval
from kessa_core.quantities.rounding import span
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType

WHOSE = {
    "maker": "the maker’s value",
    "replicates": "your own replicates",
    "default": "Kessa’s default",
}
STEADY_EYE = "an eye that is known to half the scatter, from your own replicates"


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
    """Something a person could do, and the width of the interval it would leave, in its unit."""

    words: str
    width: float


@dataclass(frozen=True)
class Budget:
    """The width in the result's unit, its parts (largest first), what narrows it (best first)."""

    width: float
    parts: tuple[Part, ...]
    narrowers: tuple[Narrower, ...]

    def scaled(self, factor: float) -> "Budget":
        """The budget of a value *factor* times as large: its parts stay, its widths do not."""
        ways = tuple(replace(way, width=way.width * factor) for way in self.narrowers)
        return replace(self, width=self.width * factor, narrowers=ways)


def budget(
    reader: ReadingType, seen: Sequence[Reading], blanks: Sequence[Reading] = ()
) -> Budget | None:
    """The budget of a two-sided interval; None where a reading leaves a bound only, or the method
    names no source."""
    if (
        not seen
        or not reader.influences
        or any(one.kind in ("beyond", "below", "absent") for one in seen)
    ):
        return None
    width = _width(reader.interval(seen, blanks))
    bare = reader
    for influence in reader.influences:
        bare = bare.with_scaled_source(influence.of, 0.0)
    shrinks = {"step": _width(bare.interval(seen, blanks)) ** 2}
    for influence in reader.influences:
        without = _width(reader.with_scaled_source(influence.of, 0.0).interval(seen, blanks))
        shrinks[influence.of] = max(0.0, width**2 - without**2)
    total = sum(shrinks.values())
    by_name = {influence.of: influence for influence in reader.influences}
    parts = [
        _part(reader, by_name[name], shrink / total) if name in by_name
        else Part(name, "the readings: whole steps, and how they differ", shrink / total,
                  reader.step, "the kit", "every measurement")
        for name, shrink in shrinks.items()
    ]  # fmt: skip
    parts.sort(key=lambda part: -part.share)
    return Budget(width, tuple(parts), _narrowers(reader, seen, blanks, width))


def _width(found: Interval) -> float:
    return (found.high or 0.0) - (found.low or 0.0)


def _part(reader: ReadingType, influence: UncertaintySource, share: float) -> Part:
    knows = reader.knowledge(influence.of)
    unit = reader.step_unit
    if influence.distribution == "uniform":
        size = f"{span(f'{influence.low or 0:g}', f'{influence.high or 0:g}')} {unit}"
    elif knows.effect == "steps":
        size = f"sd {influence.sd:g} {unit}"
    else:
        size = f"sd {100 * (influence.sd or 0.0):g} %"
    scope = f"shared by one {influence.key}" if influence.scope == "shared" else "each measurement"
    return Part(influence.of, knows.words, share, size, WHOSE[influence.source], scope)


def _narrowers(
    reader: ReadingType, seen: Sequence[Reading], blanks: Sequence[Reading], width: float
) -> tuple[Narrower, ...]:
    middle = mean(reader.half_steps(one) for one in seen)
    nearest = min(seen, key=lambda one: abs(reader.half_steps(one) - middle))
    tried = [
        (reader.standard_shows, reader.with_standard().interval(seen, blanks)),
        ("one more measurement like these", reader.interval([*seen, nearest], blanks)),
    ]
    if any(influence.of == "eye" for influence in reader.influences):
        tried.append((STEADY_EYE, reader.with_scaled_source("eye", 0.5).interval(seen, blanks)))
    if blanks:
        twice = reader.interval(seen, [*blanks, blanks[0]])
        tried.append(("a second blank like the first", twice))
    if more_precise_option := reader.more_precise_option(seen, blanks):
        tried.append(more_precise_option)
    better = [Narrower(words, _width(new)) for words, new in tried if _width(new) < 0.97 * width]
    return tuple(sorted(better, key=lambda one: one.width))
