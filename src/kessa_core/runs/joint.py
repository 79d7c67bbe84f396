"""A difference of two readings with what they share taken out once, not twice.

What scales both alike (one bottle, one lot, one instrument) moves them together: it is integrated
over the pair, never taken from two stored intervals. Source: kessa_core.influences.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from kessa_core.influences import LEVEL, SLIP
from kessa_core.influences.intervals import Floats, normal_nodes, quantiles
from kessa_core.quantities import Interval
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType

POINTS = 48
"""Values that stand for each side of a difference at each size of what is shared."""
HARDLY = 1e-6
"""The probability of a slip where none is reckoned with."""
SHIFTS = 5
"""Places along an even shift that both sides share."""


def common_sd(a: ReadingType, b: ReadingType) -> float:
    """Relative sd of what scales both: the shared influences with the same key and size."""
    both = set(a.spread.shared) & set(b.spread.shared)
    return float(np.hypot.reduce([sd for _, sd in both])) if both else 0.0


@dataclass(frozen=True)
class Difference:
    """Where a difference lies. interval: 95 %, never below nothing. impossible: the readings say,
    with more than 97.5 %, that what is subtracted is larger than what it is subtracted from."""

    interval: Interval
    impossible: bool


def difference(
    a: ReadingType,
    of: Sequence[Reading],
    b: ReadingType,
    less: Sequence[Reading],
    scales: tuple[float, float],
) -> Difference:
    """*scales*[0] × a − *scales*[1] × b, read from these determinations.

    A bound is found without slips: the one in a hundred would else reach over the whole scale as
    soon as little else is left above nothing.
    """
    sides = ((a, of), (b, less))
    values, weights = _drawn(sides, scales, SLIP)
    low, high = quantiles(values, weights, ((1 - LEVEL) / 2, (1 + LEVEL) / 2))
    if low > 0:
        return Difference(Interval(low, high), False)
    return _from_nothing(*_drawn(sides, scales, HARDLY))


Sides = tuple[tuple[ReadingType, Sequence[Reading]], tuple[ReadingType, Sequence[Reading]]]


def _drawn(sides: Sides, scales: tuple[float, float], slip: float) -> tuple[Floats, Floats]:
    """Values that stand for the difference, and their weights."""
    (a, of), (b, less) = sides
    common = common_sd(a, b)
    nodes, weights = normal_nodes() if common else (np.zeros(1), np.ones(1))
    values, shares = [], []
    for more, fewer in _alike_shifted(a, b):
        for node, weight in zip(nodes, weights, strict=True):
            first = scales[0] * more.given(of, float(node), common, POINTS, slip)
            second = scales[1] * fewer.given(less, float(node), common, POINTS, slip)
            found = np.subtract.outer(first, second).ravel()
            values.append(found)
            shares.append(np.full(found.size, weight / found.size))
    every = np.concatenate(shares)
    return np.concatenate(values), every / every.sum()


def _from_nothing(values: Floats, weights: Floats) -> Difference:
    """The 95 % of weighted *values* of which those below zero do not exist.

    It begins at zero where zero cannot be told from the readings; its end then is the 95 % point of
    what exists, and never nearer than a difference of nothing could still show.
    """
    middle, upper = quantiles(values, weights, (0.5, LEVEL))
    exists = values > 0
    least = upper - middle
    if float(weights[exists].sum()) < (1 - LEVEL) / 2:
        return Difference(Interval(0.0, least), True)
    (found,) = quantiles(values[exists], weights[exists], (LEVEL,))
    return Difference(Interval(0.0, max(found, least)), False)


def _alike_shifted(a: ReadingType, b: ReadingType) -> list[tuple[ReadingType, ReadingType]]:
    """Both with an even shift that they share (what the colour itself takes) at the same place,
    for places all along it; as they are where they share none."""
    shifts = [[i for i in one.influences if i.distribution == "uniform"] for one in (a, b)]
    if not shifts[0] or shifts[0] != shifts[1]:
        return [(a, b)]
    low, high = shifts[0][0].low or 0.0, shifts[0][0].high or 0.0
    at = [low + (high - low) * (i + 0.5) / SHIFTS for i in range(SHIFTS)]
    return [(a.shifted(place), b.shifted(place)) for place in at]
