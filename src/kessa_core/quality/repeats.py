"""Determinations until two agree; else a third, and the closest two if those agree."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

from kessa_core.errors import NotANumber
from kessa_core.methods.parts import Agree
from kessa_core.quality.agreement import rpd
from kessa_core.readings.reading_type import ReadingType

Decision = Literal["more", "single", "agree", "closest-two", "all-three", "not-repeatable"]


@dataclass(frozen=True)
class Repeat:
    """What the determinations lead to, and the positions of those that make the value."""

    decision: Decision
    used: tuple[int, ...] = ()


def agreeing(rule: Agree, reader: ReadingType) -> Callable[[int, int], bool]:
    """Whether two readings in half steps agree, by the method's rule."""
    floor = floor_steps(rule, reader)

    def agree(a: int, b: int) -> bool:
        if rule.steps is not None:
            return abs(a - b) <= 2 * rule.steps
        if abs(a - b) <= 2 * floor:
            return True
        x, y = reader.at(a), reader.at(b)
        return x + y != 0 and rpd(x, y) <= (rule.relative_percent or 0.0) + 1e-9

    return agree


def floor_steps(rule: Agree, reader: ReadingType) -> int:
    """Steps within which two readings always agree: the rule's own, else the repeatability limit
    2.8 s of the scatter at the foot of the scale (ISO 5725-6:1994, 4.1.4), at least one step."""
    if rule.floor_steps is not None:
        return rule.floor_steps
    return max(1, round(2.8 * reader.scatter_at_foot))


def decide(half_steps: Sequence[int], agree: Callable[[int, int], bool], least: int = 2) -> Repeat:
    """Apply the rule to readings in half steps, in the order they were made.

    agree: whether two of them do. Fewer than two: "more", or "single" where one is enough
    (*least*). Two that agree: both. Two that do not: "more". Three: the closest two if those
    agree; all three where two pairs are equally close and agree; else "not-repeatable". A third
    that the first two would not have asked for (one was corrected afterwards) counts like any
    other. Raises NotANumber for more than three.
    """
    if len(half_steps) > 3:
        raise NotANumber("The repeat rule knows at most three determinations.")
    if len(half_steps) < 2:
        return Repeat("single", (0,)) if half_steps and least == 1 else Repeat("more")
    pairs = list(combinations(range(len(half_steps)), 2))
    agreeing = [pair for pair in pairs if agree(half_steps[pair[0]], half_steps[pair[1]])]
    if not agreeing:
        return Repeat("more" if len(half_steps) == 2 else "not-repeatable")
    if len(half_steps) == 2:
        return Repeat("agree", (0, 1))
    gaps = {pair: abs(half_steps[pair[0]] - half_steps[pair[1]]) for pair in pairs}
    least_gap = min(gaps[pair] for pair in agreeing)
    closest = [pair for pair in agreeing if gaps[pair] == least_gap]
    return (
        Repeat("closest-two", closest[0]) if len(closest) == 1 else Repeat("all-three", (0, 1, 2))
    )
