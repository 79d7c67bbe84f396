"""Counts of equal steps (drops, tablets): the forward model, and the interval read backwards.

One step stands for f mg/L. A truth c needs T = c / (f k) + b steps, where k is the bottle's own
scale (strength and mean size) and b the titrant that the colour takes, or the tablet that only sets
it. The eye sees the end at T + e; it lies above n - 1 and at or below n steps when the person stops
at n. e gathers the eye's step, the filling of the portion and the scatter of single steps.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
from scipy.special import ndtr

from kessa_core.errors import NotANumber
from kessa_core.influences import END, FAVOURABLE, SLIP, outside
from kessa_core.influences.intervals import (
    Floats,
    crossing,
    majority,
    middle_edge,
    normal_nodes,
    points,
    shared_scale,
    two_sided,
    uniform_nodes,
)
from kessa_core.influences.part import ScaledUncertainties
from kessa_core.quantities import Interval
from kessa_core.readings.reading import Reading, edges

POINTS_A_STEP = 20
ROOM_ABOVE = 6
"""Steps above the maximum count up to which a truth is considered."""


@dataclass(frozen=True)
class CountModel:
    """The forward model of one method with its spread; lengths in steps, results in mg/L. asked:
    how many determinations a run asks for; zero: whether a count of nought is a reading."""

    factor: float
    most: int
    spread: ScaledUncertainties
    slip: float = SLIP
    asked: int = 1
    zero: bool = False

    def edges(self, reading: Reading) -> tuple[float, float]:
        """Where the true end of a count lies, in steps."""
        return edges(reading, self.zero)

    @cached_property
    def grid(self) -> Floats:
        """Truths considered, in nominal steps."""
        top = self.most + ROOM_ABOVE
        return np.linspace(0, top, top * POINTS_A_STEP + 1)

    @cached_property
    def mixing(self) -> Any:
        """Integrates the bottle's own scale out of a density on the grid."""
        return shared_scale(len(self.grid), self.spread.shared_relative())

    def needed(self, concentration: float, scale: float, need: float) -> float:
        """Drops that *concentration* mg/L takes: scale is the bottle's k, need the colour's b."""
        return concentration / (self.factor * scale) + need

    def scatter(self, drops: Floats, need: Floats) -> Floats:
        """Sd in drops of where the end is seen: eye, filling, single drops."""
        s = self.spread
        total: Floats = np.sqrt(
            s.steps**2 + (s.relative * drops) ** 2 + s.per_step**2 * np.maximum(drops + need, 0)
        )
        return total

    def likelihood(self, reading: Reading, drops: Floats, need: Floats) -> Floats:
        """P(reading | sample takes *drops*, colour takes *need*), slips included.

        Shapes broadcast. Source: the interval-censored count described in the module.
        """
        sd = self.scatter(drops, need)
        end = drops + need
        low, high = self.edges(reading)
        chance: Floats = ndtr((high - end) / sd) - ndtr((low - end) / sd)
        return (1 - self.slip) * chance + self.slip / self.most

    def interval(
        self, determinations: Sequence[Reading], blanks: Sequence[Reading] = ()
    ) -> Interval:
        """The 95 % interval in mg/L from every determination not rejected and the passed blanks.

        The blanks inform about what the colour itself takes; they share it with the sample. One
        reading "beyond" leaves a lower bound only. Raises NotANumber without a determination.
        """
        if not determinations:
            raise NotANumber("A range needs at least one measurement.")
        return _interval(self, tuple(determinations), tuple(blanks))

    def one_sided(
        self, determinations: Sequence[Reading], blanks: Sequence[Reading] = ()
    ) -> Interval:
        """The truths in mg/L for which counts at least this high, and at least this low, are just
        rare enough for a verdict (kessa_core.influences.FAVOURABLE)."""
        return _one_sided(self, tuple(determinations), tuple(blanks))

    def tail(self, readings: Sequence[Reading], weights: Floats, above: bool) -> Floats:
        """P(counts at least this high (*above*), or this low | truth at each place of the grid).

        Determinations are compared by the order statistic of the middle one.
        """
        edge = middle_edge([self.edges(one)[0 if above else 1] for one in readings], above)
        ended = _ended(self, edge)
        wild = min(max((self.most - edge if above else edge) / self.most, 0.0), 1.0)
        chance = (1 - self.slip) * (1 - ended if above else ended) + self.slip * wild
        found: Floats = self.mixing @ (weights @ majority(chance, len(readings)))
        return found

    def given(
        self, readings: Sequence[Reading], z: float, common: float, count: int, slip: float
    ) -> Floats:
        """*count* values in mg/L that stand for the truth where a shared influence of relative sd
        *common* has the size *z* sd, with this probability of a slip."""
        rest = float(np.sqrt(max(self.spread.shared_relative() ** 2 - common**2, 0.0)))
        left = replace(self.spread, shared=(("rest", rest),))
        model = replace(self, spread=left, slip=slip)
        together = np.ones((1, 1))
        for reading in readings:
            together = together * _curve(model, reading)
        density = model.mixing @ (_need_weights(model, ()) @ together)
        factor = self.factor * float(np.exp(z * common))
        found: Floats = points(model.grid, density, count) * factor
        return found

    def bound(self, reading: Reading, weights: Floats) -> float:
        """Lower bound in steps of a reading without a change."""
        nodes, node_weights = normal_nodes()
        chance = np.zeros_like(self.grid)
        needs = _needs(self)[:, None]
        for node, weight in zip(nodes, node_weights, strict=True):
            drops = self.grid[None, :] * np.exp(-node * self.spread.shared_relative())
            sd = self.scatter(drops, needs)
            chance += weight * (weights @ ndtr((drops + needs - reading.n) / sd))
        return crossing(self.grid, chance, outside(self.asked), rising=True)


@lru_cache(maxsize=4096)
def _interval(
    model: CountModel, determinations: tuple[Reading, ...], blanks: tuple[Reading, ...]
) -> Interval:
    """CountModel.interval(), kept: every place with this method asks for the same table."""
    weights = _need_weights(model, blanks)
    beyond = [reading for reading in determinations if reading.kind == "beyond"]
    if beyond:
        return Interval(model.bound(beyond[0], weights) * model.factor, None)
    together = np.ones((1, 1))
    for reading in determinations:
        together = together * _curve(model, reading)
    density = model.mixing @ (weights @ together)
    from_low = bool(model.tail(determinations, weights, True)[0] >= END)
    to_high = bool(model.tail(determinations, weights, False)[-1] >= END)
    low, high = two_sided(model.grid, density, from_low, to_high)
    return Interval(low * model.factor, high * model.factor)


@lru_cache(maxsize=4096)
def _one_sided(
    model: CountModel, determinations: tuple[Reading, ...], blanks: tuple[Reading, ...]
) -> Interval:
    """CountModel.one_sided(), kept."""
    weights = _need_weights(model, blanks)
    low = crossing(model.grid, model.tail(determinations, weights, True), FAVOURABLE, rising=True)
    high = crossing(model.grid, model.tail(determinations, weights, False), FAVOURABLE, False)
    return Interval(low * model.factor, high * model.factor)


def _needs(model: CountModel) -> Floats:
    return uniform_nodes(*model.spread.offset)[0]


@lru_cache(maxsize=256)
def _need_weights(model: CountModel, blanks: tuple[Reading, ...]) -> Floats:
    """Weights of the nodes of the colour's need after the blanks that passed."""
    nodes, weights = uniform_nodes(*model.spread.offset)
    for blank in blanks:
        weights = weights * model.likelihood(blank, np.zeros_like(nodes), nodes)
    total: Floats = weights / weights.sum()
    return total


@lru_cache(maxsize=2048)
def _curve(model: CountModel, reading: Reading) -> Floats:
    """likelihood() on needs x grid, kept: a sheet asks for the same curves again and again."""
    low, high = model.edges(reading)
    chance: Floats = _ended(model, high) - _ended(model, low)
    return (1 - model.slip) * chance + model.slip / model.most


@lru_cache(maxsize=1024)
def _ended(model: CountModel, drops: float) -> Floats:
    """P(the end is seen by *drops*) on needs x grid: where one count stops the next begins."""
    end = model.grid[None, :] + _needs(model)[:, None]
    found: Floats = ndtr((drops - end) / _scatter(model))
    return found


@lru_cache(maxsize=64)
def _scatter(model: CountModel) -> Floats:
    return model.scatter(model.grid[None, :], _needs(model)[:, None])
