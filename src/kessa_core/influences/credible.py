"""From a likelihood on a grid to the interval; found numerically, nothing assumed normal."""

from functools import cache
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
def even_nodes(count: int) -> tuple[Floats, Floats]:
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
def shared_scale(top: float, points: int, sd: float) -> Any:
    """The sparse matrix that takes a shared factor exp(N(0, sd)) on the scale out of a density.

    For densities on *points* evenly spaced values from 0 to *top*. The factor only scales the
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


def interval(grid: Floats, density: Floats, open_below: bool = True) -> tuple[float, float]:
    """The 95 % interval of a likelihood normalised on *grid* (ascending).

    Two-sided: the central 95 %. Where the density is still above half its peak at the lower end,
    and that is an end of the scale (*open_below*): from that end to the 95 % point.
    """
    cumulated = _cumulated(grid, density)
    if open_below and density[0] > density.max() / 2:
        return float(grid[0]), float(np.interp(LEVEL, cumulated, grid))
    tail = (1 - LEVEL) / 2
    low, high = np.interp([tail, 1 - tail], cumulated, grid)
    return float(low), float(high)


def points(grid: Floats, density: Floats, count: int) -> Floats:
    """*count* values that stand for a density, each with the same probability."""
    shares = (np.arange(count) + 0.5) / count
    found: Floats = np.interp(shares, _cumulated(grid, density), grid)
    return found


def of_points(values: Floats, weights: Floats) -> tuple[float, float]:
    """The central 95 % of weighted *values*."""
    order = np.argsort(values)
    sums = np.cumsum(weights[order])
    middle = (sums - weights[order] / 2) / sums[-1]
    tail = (1 - LEVEL) / 2
    low, high = np.interp([tail, 1 - tail], middle, values[order])
    return float(low), float(high)


def lower_bound(grid: Floats, chance: Floats) -> float:
    """The smallest value at which a reading still has probability 5 % (for a ">" reading)."""
    return float(np.interp(1 - LEVEL, np.maximum.accumulate(chance), grid))


def upper_bound(grid: Floats, chance: Floats) -> float:
    """The largest value at which a reading still has probability 5 % (for a "<" reading)."""
    falling = np.maximum.accumulate(chance[::-1])
    return float(np.interp(1 - LEVEL, falling, grid[::-1]))


def _cumulated(grid: Floats, density: Floats) -> Floats:
    steps = (density[1:] + density[:-1]) / 2 * np.diff(grid)
    cumulated = np.concatenate(([0.0], np.cumsum(steps)))
    found: Floats = cumulated / cumulated[-1]
    return found
