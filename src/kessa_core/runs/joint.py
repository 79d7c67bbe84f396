"""A difference of two readings with what they share taken out once, not twice.

What scales both alike (one bottle, one lot, one instrument) moves them together: it is integrated
over the pair, never taken from two stored intervals. Source: kessa_core.influences.
"""

from collections.abc import Sequence

import numpy as np

from kessa_core.influences.credible import normal_nodes, of_points
from kessa_core.quantities import Interval
from kessa_core.readings.reader import Reader
from kessa_core.readings.seen import Seen

POINTS = 48
"""Values that stand for each side of a difference at each size of what is shared."""
SHIFTS = 5
"""Places along an even shift that both sides share."""


def common_sd(a: Reader, b: Reader) -> float:
    """Relative sd of what scales both: the shared influences with the same key and size."""
    both = set(a.spread.shared) & set(b.spread.shared)
    return float(np.hypot.reduce([sd for _, sd in both])) if both else 0.0


def difference(
    a: Reader, of: Sequence[Seen], b: Reader, less: Sequence[Seen], scales: tuple[float, float]
) -> Interval:
    """The 95 % interval of *scales*[0] × a − *scales*[1] × b, read from these determinations."""
    common = common_sd(a, b)
    nodes, weights = normal_nodes() if common else (np.zeros(1), np.ones(1))
    values, shares = [], []
    for more, fewer in _alike_shifted(a, b):
        for node, weight in zip(nodes, weights, strict=True):
            first = scales[0] * more.given(of, float(node), common, POINTS)
            second = scales[1] * fewer.given(less, float(node), common, POINTS)
            found = np.subtract.outer(first, second).ravel()
            values.append(found)
            shares.append(np.full(found.size, weight / found.size))
    every = np.concatenate(shares)
    return Interval(*of_points(np.concatenate(values), every / every.sum()))


def _alike_shifted(a: Reader, b: Reader) -> list[tuple[Reader, Reader]]:
    """Both with an even shift that they share (what the colour itself takes) at the same place,
    for places all along it; as they are where they share none."""
    shifts = [[i for i in one.influences if i.distribution == "uniform"] for one in (a, b)]
    if not shifts[0] or shifts[0] != shifts[1]:
        return [(a, b)]
    low, high = shifts[0][0].low or 0.0, shifts[0][0].high or 0.0
    at = [low + (high - low) * (i + 0.5) / SHIFTS for i in range(SHIFTS)]
    return [(a.shifted(place), b.shifted(place)) for place in at]
