"""From a likelihood on a grid to the interval; found numerically, nothing assumed normal."""

from collections.abc import Sequence
from functools import cache
from math import comb
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array

from kessa_core.influences import LEVEL

Floats = NDArray[np.float64]


@cache
def normal_nodes(count: int = 9) -> tuple[Floats, Floats]:
    """Nodes (in sd) and weights (sum 1) for integrating over a normal influence (Gauss-Hermite)."""
    nodes, weights = np.polynomial.hermite_e.hermegauss(count)
    return nodes, weights / weights.sum()


@cache
def uniform_grid(count: int) -> tuple[Floats, Floats]:
    """As normal_nodes, evenly spaced from -4 to 4 sd: for a shared influence that is wide beside
    the scatter, where a few nodes would leave gaps."""
    nodes = np.linspace(-4, 4, count)
    weights = np.exp(-(nodes**2) / 2)
    return nodes, weights / weights.sum()


@cache
def uniform_nodes(low: float, high: float, count: int = 12) -> tuple[Floats, Floats]:
    """Nodes and weights (sum 1) for integrating over a uniform influence (Gauss-Legendre)."""
    nodes, weights = np.polynomial.legendre.leggauss(count)
    return low + (nodes + 1) / 2 * (high - low), weights / weights.sum()


@cache
def shared_scale(points: int, sd: float) -> Any:
    """The sparse matrix that takes a shared factor exp(N(0, sd)) on the scale out of a density.

    For densities on *points* evenly spaced values from 0 on. The factor only scales the
    value, so one dimension of quadrature is enough; between grid points the density is linear.
    """
    nodes, weights = normal_nodes()
    rows = np.arange(points)
    places, shares = [], []
    for node, weight in zip(nodes, weights, strict=True):
        at = np.minimum(rows * np.exp(-node * sd), points - 1)
        left = np.minimum(at.astype(int), points - 2)
        share = at - left
        places += [left, left + 1]
        shares += [weight * (1 - share), weight * share]
    where = np.tile(rows, len(places)), np.concatenate(places)
    return csr_array((np.concatenate(shares), where), shape=(points, points))


def two_sided(grid: Floats, density: Floats, from_low: bool, to_high: bool) -> tuple[float, float]:
    """The 95 % interval of a likelihood normalised on *grid* (ascending).

    The central 95 %. *from_low*: from the lower end of the grid to the 95 % point; *to_high*: from
    the 5 % point to the upper end; both: the whole grid.
    """
    cumulated = _cumulated(grid, density)
    tail = (1 - LEVEL) / 2
    shares = {
        (False, False): (tail, 1 - tail),
        (True, False): (0.0, LEVEL),
        (False, True): (1 - LEVEL, 1.0),
        (True, True): (0.0, 1.0),
    }[from_low, to_high]
    low, high = np.interp(shares, cumulated, grid)
    return float(grid[0] if from_low else low), float(grid[-1] if to_high else high)


def majority(chance: Floats, count: int) -> Floats:
    """P(more than half of *count* determinations fall on a side | one does with *chance*).

    Of two: both. The order statistics of independent determinations: one wild reading alone moves
    none of them.
    """
    total = np.zeros_like(chance)
    for k in range(count // 2 + 1, count + 1):
        total = total + comb(count, k) * chance**k * (1 - chance) ** (count - k)
    return total


def middle_edge(edges: Sequence[float], above: bool) -> float:
    """The edge that more than half of the readings reach: the lowest of the upper half where
    *above*, else the highest of the lower half."""
    ordered = sorted(edges, reverse=above)
    return ordered[len(ordered) // 2]


def crossing(grid: Floats, chance: Floats, level: float, rising: bool) -> float:
    """Where *chance*, made monotone, crosses *level*; an end of the grid where it never does."""
    if rising:
        return float(np.interp(level, np.maximum.accumulate(chance), grid))
    falling = np.maximum.accumulate(chance[::-1])
    return float(np.interp(level, falling, grid[::-1]))


def points(grid: Floats, density: Floats, count: int) -> Floats:
    """*count* values that stand for a density, each with the same probability."""
    shares = (np.arange(count) + 0.5) / count
    found: Floats = np.interp(shares, _cumulated(grid, density), grid)
    return found


def quantiles(values: Floats, weights: Floats, shares: Sequence[float]) -> list[float]:
    """The places below which these *shares* of weighted *values* lie."""
    order = np.argsort(values)
    sums = np.cumsum(weights[order])
    middle = (sums - weights[order] / 2) / sums[-1]
    return [float(found) for found in np.interp(shares, middle, values[order])]


def _cumulated(grid: Floats, density: Floats) -> Floats:
    steps = (density[1:] + density[:-1]) / 2 * np.diff(grid)
    cumulated = np.concatenate(([0.0], np.cumsum(steps)))
    found: Floats = cumulated / cumulated[-1]
    return found
