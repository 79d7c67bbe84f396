"""Drop count titration: the forward model, and the interval read backwards from it.

One drop stands for f = N d E 1000 / V mg/L. A truth c needs T = c / (f k) + b drops, where k is
the bottle's own scale (strength and mean drop volume) and b the titrant that the colour takes.
The eye sees the end at T + e; it lies above n - 1 and at or below n drops when the person stops
at n. e gathers the eye's step, the filling of the portion and the scatter of single drops.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Literal

import numpy as np
from scipy.special import ndtr

from kessa_core.errors import NotANumber
from kessa_core.influences import SLIP
from kessa_core.influences.credible import (
    Floats,
    interval,
    lower_bound,
    normal_nodes,
    shared_scale,
    uniform_nodes,
)
from kessa_core.influences.spread import DropSpread, drop_spread
from kessa_core.methods import Method
from kessa_core.methods.document import drop_factor
from kessa_core.quantities import Interval

Kind = Literal["plain", "backed-off", "doubt", "beyond"]
POINTS_A_DROP = 20
CLEAR = 0.2
"""Drops that an interval stays clear of a limit before a verdict: see docs/science/interval.md."""
ROOM_ABOVE = 6
"""Drops above the maximum count up to which a truth is considered."""


@dataclass(frozen=True)
class DropReading:
    """What was seen: stopped at *drops*, plainly; one too strong; in doubt; or no change yet.

    backed-off: the last drop came out clearly too strong, one fewer is reported.
    doubt: this count and the one before are both defensible.
    beyond: no change at *drops*.
    """

    drops: int
    kind: Kind = "plain"

    def __post_init__(self) -> None:
        if self.drops < 1:
            raise NotANumber("A count begins at one drop.", field="drops")

    @property
    def halves(self) -> int:
        """The reported count in half drops, so that doubt stays a whole number."""
        return 2 * self.drops - {"plain": 0, "backed-off": 2, "doubt": 1, "beyond": 0}[self.kind]

    @property
    def reported(self) -> float:
        """The reported count in drops."""
        return self.halves / 2

    @property
    def end_above(self) -> float:
        """The true end lies above this many drops (minus infinity at the first drop)."""
        if self.kind == "beyond":
            return self.drops
        low = self.drops - (1 if self.kind == "plain" else 2)
        return low if low > 0 else -np.inf

    @property
    def end_at_most(self) -> float:
        """The true end lies at or below this many drops."""
        return np.inf if self.kind == "beyond" else self.drops

    @property
    def words(self) -> str:
        """The reading as people say it."""
        return {
            "plain": f"{self.drops}",
            "backed-off": f"{self.drops - 1}, one taken back",
            "doubt": f"{self.drops - 1} or {self.drops}",
            "beyond": f"no change at {self.drops}",
        }[self.kind]


@dataclass(frozen=True)
class DropModel:
    """The forward model of one method with its spread; lengths in drops, results in mg/L."""

    factor: float
    max_drops: int
    spread: DropSpread

    @cached_property
    def grid(self) -> Floats:
        """Truths considered, in nominal drops."""
        top = self.max_drops + ROOM_ABOVE
        return np.linspace(0, top, top * POINTS_A_DROP + 1)

    @cached_property
    def mixing(self) -> Floats:
        """Integrates the bottle's own scale out of a density on the grid."""
        return shared_scale(float(self.grid[-1]), len(self.grid), self.spread.shared)

    @property
    def clear(self) -> float:
        """How far an interval stays from a limit before a verdict, in mg/L."""
        return CLEAR * self.factor

    def needed(self, concentration: float, scale: float, need: float) -> float:
        """Drops that *concentration* mg/L takes: scale is the bottle's k, need the colour's b."""
        return concentration / (self.factor * scale) + need

    def scatter(self, drops: Floats, need: Floats) -> Floats:
        """Sd in drops of where the end is seen: eye, filling, single drops."""
        s = self.spread
        total: Floats = np.sqrt(
            s.eye**2 + (s.portion * drops) ** 2 + s.each_drop**2 * np.maximum(drops + need, 0)
        )
        return total

    def likelihood(self, reading: DropReading, drops: Floats, need: Floats) -> Floats:
        """P(reading | sample takes *drops*, colour takes *need*), slips included.

        Shapes broadcast. Source: the interval-censored count described in the module.
        """
        sd = self.scatter(drops, need)
        end = drops + need
        seen: Floats = ndtr((reading.end_at_most - end) / sd) - ndtr((reading.end_above - end) / sd)
        return (1 - SLIP) * seen + SLIP / self.max_drops

    def interval(
        self, determinations: Sequence[DropReading], blanks: Sequence[DropReading] = ()
    ) -> Interval:
        """The 95 % interval in mg/L from every determination not rejected and the passed blanks.

        The blanks inform about what the colour itself takes; they share it with the sample. One
        reading "beyond" leaves a lower bound only. Raises NotANumber without a determination.
        """
        if not determinations:
            raise NotANumber("An interval needs at least one determination.")
        return _interval(self, tuple(determinations), tuple(blanks))

    def bound(self, reading: DropReading, weights: Floats) -> float:
        """Lower bound in drops of a reading without a change."""
        nodes, node_weights = normal_nodes()
        chance = np.zeros_like(self.grid)
        needs = _needs(self)[:, None]
        for node, weight in zip(nodes, node_weights, strict=True):
            drops = self.grid[None, :] * np.exp(-node * self.spread.shared)
            sd = self.scatter(drops, needs)
            chance += weight * (weights @ ndtr((drops + needs - reading.drops) / sd))
        return lower_bound(self.grid, chance)


@lru_cache(maxsize=64)
def drop_model(method: Method) -> DropModel:
    """The forward model of a drop count method."""
    return DropModel(drop_factor(method.titration), method.titration.max_drops, drop_spread(method))


@lru_cache(maxsize=4096)
def _interval(
    model: DropModel, determinations: tuple[DropReading, ...], blanks: tuple[DropReading, ...]
) -> Interval:
    """DropModel.interval(), kept: every place with this method asks for the same table."""
    weights = _need_weights(model, blanks)
    beyond = [reading for reading in determinations if reading.kind == "beyond"]
    if beyond:
        return Interval(model.bound(beyond[0], weights) * model.factor, None)
    together = np.ones((1, 1))
    for reading in determinations:
        together = together * _curve(model, reading)
    density = model.mixing @ (weights @ together)
    low, high = interval(model.grid, density)
    return Interval(low * model.factor, high * model.factor)


def _needs(model: DropModel) -> Floats:
    return uniform_nodes(model.spread.need_low, model.spread.need_high)[0]


@lru_cache(maxsize=256)
def _need_weights(model: DropModel, blanks: tuple[DropReading, ...]) -> Floats:
    """Weights of the nodes of the colour's need after the blanks that passed."""
    nodes, weights = uniform_nodes(model.spread.need_low, model.spread.need_high)
    for blank in blanks:
        weights = weights * model.likelihood(blank, np.zeros_like(nodes), nodes)
    total: Floats = weights / weights.sum()
    return total


@lru_cache(maxsize=2048)
def _curve(model: DropModel, reading: DropReading) -> Floats:
    """likelihood() on needs x grid, kept: a sheet asks for the same curves again and again."""
    return model.likelihood(reading, model.grid[None, :], _needs(model)[:, None])
