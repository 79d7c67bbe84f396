"""Two determinations until they agree; else a third, and the closest two if those agree."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

from kessa_core.errors import NotANumber

Decision = Literal["more", "agree", "closest-two", "all-three", "not-repeatable"]


@dataclass(frozen=True)
class Repeat:
    """What the determinations lead to, and the positions of those that make the value."""

    decision: Decision
    used: tuple[int, ...] = ()


def decide(halves: Sequence[int], agree_within_halves: int) -> Repeat:
    """Apply the rule to counts in half drops, in the order they were made.

    Fewer than two: "more". Two that agree: both. Two that do not: "more". Three: the closest
    two if those agree; all three where two pairs are equally close and agree; else
    "not-repeatable". A third that the first two would not have asked for (one was corrected
    afterwards) counts like any other. Raises NotANumber for more than three.
    """
    if len(halves) > 3:
        raise NotANumber("The repeat rule knows at most three determinations.")
    if len(halves) < 2:
        return Repeat("more")
    gaps = {
        pair: abs(halves[pair[0]] - halves[pair[1]]) for pair in combinations(range(len(halves)), 2)
    }
    closest = min(gaps.values())
    if closest > agree_within_halves:
        return Repeat("more" if len(halves) == 2 else "not-repeatable")
    if len(halves) == 2:
        return Repeat("agree", (0, 1))
    pairs = [pair for pair, gap in gaps.items() if gap == closest]
    return Repeat("closest-two", pairs[0]) if len(pairs) == 1 else Repeat("all-three", (0, 1, 2))
