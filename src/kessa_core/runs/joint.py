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
    for node, weight in zip(nodes, weights, strict=True):
        first = scales[0] * a.given(of, float(node), common, POINTS)
        second = scales[1] * b.given(less, float(node), common, POINTS)
        found = np.subtract.outer(first, second).ravel()
        values.append(found)
        shares.append(np.full(found.size, weight / found.size))
    return Interval(*of_points(np.concatenate(values), np.concatenate(shares)))
