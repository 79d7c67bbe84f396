"""Likelihood and 95 % interval for readings on any scale.

A truth x stands at u(x) on the scale, in its own steps. Seen is u + s + e: s is shared by all
determinations (what scales the value, such as a lot or a calibration, and what shifts it), e is
new in each (the eye, filling, the noise of a display). A reading says that what was seen lies
between two edges. Truths are even on u. Source: interval-censored observation with one shared
dimension integrated out; nothing else is assumed normal.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from math import inf

import numpy as np
from scipy.special import ndtr

from kessa_core.influences import END, FAVOURABLE, SLIP, outside
from kessa_core.influences import intervals as c
from kessa_core.influences.intervals import Floats
from kessa_core.influences.part import ScaledUncertainties

Edges = tuple[float, float]
COARSE, FINE = 240, 260
WINDOW = 8
"""Half width in sd of the finely divided part of the grid around what was seen."""


@dataclass(frozen=True)
class ScaleModel:
    """The forward model of a scale. knots: (u, x), both ascending; straight lines between.

    steps: how many different readings there are (a slip may be any). fit: (u, sd in steps) of the
    doubt of an own calibration line, which all determinations share.
    """

    knots: tuple[tuple[float, float], ...]
    steps: int
    spread: ScaledUncertainties
    fit: tuple[tuple[float, float], ...] = ()
    slip: float = SLIP

    @cached_property
    def ends(self) -> Edges:
        """The ends of the scale, in steps."""
        return self.knots[0][0], self.knots[-1][0]

    @cached_property
    def _u(self) -> Floats:
        return np.array([u for u, _ in self.knots])

    @cached_property
    def _x(self) -> Floats:
        return np.array([x for _, x in self.knots])

    def value_at(self, u: Floats | float) -> Floats:
        """The value at a place on the scale."""
        found: Floats = np.asarray(np.interp(u, self._u, self._x))
        return found

    def scale_position(self, x: Floats | float) -> Floats:
        """The place on the scale where a value stands."""
        found: Floats = np.asarray(np.interp(x, self._x, self._u))
        return found

    def relative(self, u: Floats) -> Floats:
        """Steps by which a reading at *u* moves when the value grows by its own size."""
        found: Floats = np.interp(u, self._even, self._moves)
        return found

    @cached_property
    def _moves(self) -> Floats:
        x = self.value_at(self._even)
        slope = np.gradient(x, self._even)
        found: Floats = np.abs(x) / np.maximum(slope, 1e-12)
        return found

    @cached_property
    def _even(self) -> Floats:
        return np.linspace(*self.ends, 400)

    def scatter(self, u: Floats) -> Floats:
        """Sd in steps of one determination at *u*."""
        s = self.spread
        counted = s.per_step**2 * np.maximum(u, 0)
        found: Floats = np.sqrt(s.steps**2 + (s.relative * self.relative(u)) ** 2 + counted)
        return np.maximum(found, 1e-3)

    def shared(self, u: Floats) -> Floats:
        """Sd in steps of what all determinations share at *u*."""
        s = self.spread
        found: Floats = np.hypot(s.shared_steps, s.shared_relative() * self.relative(u))
        if self.fit:
            places, sizes = np.array(self.fit).T
            found = np.hypot(found, np.interp(u, places, sizes))
        return found

    def seen(self, edges: Edges, u: Floats, shift: Floats | float, sd: Floats) -> Floats:
        """P(what was seen lies between *edges* | truth at *u*), slips included."""
        low, high = edges
        chance: Floats = ndtr((high - u - shift) / sd) - ndtr((low - u - shift) / sd)
        return (1 - self.slip) * chance + self.slip / self.steps

    def interval(
        self, readings: Sequence[Edges], blanks: Sequence[Edges] = ()
    ) -> tuple[float, float]:
        """The 95 % interval of the value."""
        return _interval(self, tuple(readings), tuple(blanks))

    def one_sided(
        self, readings: Sequence[Edges], blanks: Sequence[Edges] = ()
    ) -> tuple[float, float]:
        """The truths for which readings at least this high, and at least this low, are just rare
        enough for a verdict (kessa_core.influences.FAVOURABLE)."""
        return _one_sided(self, tuple(readings), tuple(blanks))

    def tail(
        self, readings: Sequence[Edges], blanks: Sequence[Edges], grid: Floats, above: bool
    ) -> Floats:
        """P(readings at least this high (*above*), or this low | truth at each place of *grid*).

        Determinations are compared by the order statistic of the middle one.
        """
        edge = c.middle_edge([one[0 if above else 1] for one in readings], above)
        sd, wide = self.scatter(grid), self.shared(grid)
        offsets, weights = self._offsets(blanks)
        alone = len(readings) == 1
        nodes, shares = (np.zeros(1), np.ones(1)) if alone else self._nodes(grid, sd, wide)
        spread = np.hypot(sd, wide) if alone else sd
        low, high = self.ends
        wild = min(max((high - edge if above else edge - low) / (high - low), 0.0), 1.0)
        total = np.zeros_like(grid)
        for offset, weight in zip(offsets, weights, strict=True):
            at = grid[None, :] + nodes[:, None] * wide[None, :] + offset
            far = (at - edge) / spread[None, :]
            chance = (1 - self.slip) * ndtr(far if above else -far) + self.slip * wild
            total = total + weight * (shares @ c.majority(chance, len(readings)))
        return total

    def bound(
        self, edge: float, blanks: Sequence[Edges] = (), below: bool = False, asked: int = 1
    ) -> float:
        """The bound that a reading beyond (or *below*) *edge* leaves, in a run that asks for
        *asked* determinations."""
        return _bound(self, edge, tuple(blanks), below, asked)

    def density(self, readings: Sequence[Edges], blanks: Sequence[Edges] = ()) -> "Density":
        """Grid in steps and likelihood on it."""
        grid = self._grid(readings)
        sd, wide = self.scatter(grid), self.shared(grid)
        offsets, weights = self._offsets(blanks)
        together = np.zeros_like(grid)
        alone = len(readings) == 1
        nodes, shares = (np.zeros(1), np.ones(1)) if alone else self._nodes(grid, sd, wide)
        spread = np.hypot(sd, wide) if alone else sd
        for offset, weight in zip(offsets, weights, strict=True):
            shift = nodes[:, None] * wide[None, :] + offset
            chance = np.ones((len(nodes), len(grid)))
            for edges in readings:
                chance = chance * self.seen(edges, grid[None, :], shift, spread[None, :])
            together = together + weight * (shares @ chance)
        return Density(grid, together)

    def given(
        self, readings: Sequence[Edges], z: float, common: float, count: int, slip: float
    ) -> Floats:
        """*count* values that stand for the truth where a shared influence of relative sd
        *common* has the size *z* sd, with this probability of a slip."""
        left = replace(self.spread, shared=(("rest", _rest(self.spread, common)),))
        freed = replace(self, spread=left, slip=slip)
        found = freed.density(readings)
        moved = found.grid - z * common * self.relative(found.grid)
        return self.value_at(c.points(moved, found.chance, count))

    def _nodes(self, grid: Floats, sd: Floats, wide: Floats) -> tuple[Floats, Floats]:
        ratio = float(np.max(wide / sd))
        return c.normal_nodes() if ratio < 1.5 else c.uniform_grid(min(81, 9 + 6 * int(ratio + 1)))

    def _offsets(self, blanks: Sequence[Edges]) -> tuple[Floats, Floats]:
        low, high = self.spread.offset
        if low == high:
            return np.array([low]), np.ones(1)
        nodes, weights = c.uniform_nodes(low, high)
        zero = self.scale_position(0.0) + np.zeros_like(nodes)
        sd = self.scatter(zero)
        for blank in blanks:
            weights = weights * self.seen(blank, zero, nodes, sd)
        found: Floats = weights / weights.sum()
        return nodes, found

    def _grid(self, readings: Sequence[Edges]) -> Floats:
        low, high = self.ends
        finite = [edge for edges in readings for edge in edges if abs(edge) < inf]
        first, last = min(finite, default=low), max(finite, default=high)
        around = np.array([first, last])
        reach = float(np.max(np.hypot(self.scatter(around), self.shared(around))))
        reach = WINDOW * reach + abs(self.spread.offset[1]) + abs(self.spread.offset[0])
        window = np.linspace(max(low, first - reach), min(high, last + reach), FINE)
        return np.unique(np.concatenate((np.linspace(low, high, COARSE), window)))


@dataclass(frozen=True)
class Density:
    """A likelihood on a grid of places on the scale."""

    grid: Floats
    chance: Floats


def _rest(spread: ScaledUncertainties, common: float) -> float:
    """Relative sd that is left when *common* is taken out of what is shared."""
    return float(np.sqrt(max(spread.shared_relative() ** 2 - common**2, 0.0)))


@lru_cache(maxsize=8192)
def _interval(
    model: ScaleModel, readings: tuple[Edges, ...], blanks: tuple[Edges, ...]
) -> tuple[float, float]:
    """ScaleModel.interval(), kept: every place with this method asks for the same ones."""
    found = model.density(readings, blanks)
    low_end, high_end = (np.array([end]) for end in model.ends)
    from_low = bool(model.tail(readings, blanks, low_end, True)[0] >= END)
    to_high = bool(model.tail(readings, blanks, high_end, False)[0] >= END)
    low, high = c.two_sided(found.grid, found.chance, from_low, to_high)
    return float(model.value_at(low)), float(model.value_at(high))


@lru_cache(maxsize=8192)
def _one_sided(
    model: ScaleModel, readings: tuple[Edges, ...], blanks: tuple[Edges, ...]
) -> tuple[float, float]:
    """ScaleModel.one_sided(), kept."""
    grid = model._grid(readings)
    low = c.crossing(grid, model.tail(readings, blanks, grid, True), FAVOURABLE, rising=True)
    high = c.crossing(grid, model.tail(readings, blanks, grid, False), FAVOURABLE, rising=False)
    return float(model.value_at(low)), float(model.value_at(high))


@lru_cache(maxsize=1024)
def _bound(
    model: ScaleModel, edge: float, blanks: tuple[Edges, ...], below: bool, asked: int
) -> float:
    """The smallest value (*below*: the largest) at which a run still reads so with 5 %."""
    grid = model._even
    sd = np.hypot(model.scatter(grid), model.shared(grid))
    offsets, weights = model._offsets(blanks)
    chance = np.zeros_like(grid)
    for offset, weight in zip(offsets, weights, strict=True):
        chance = chance + weight * ndtr((grid + offset - edge) / sd)
    rare = outside(asked)
    found = c.crossing(grid, 1 - chance if below else chance, rare, rising=not below)
    return float(model.value_at(found))
