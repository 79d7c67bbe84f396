"""A second simulator of a drop count: drop by drop, in milliequivalents, with shapes of its own.

It shares nothing with the forward model but the method document's sizes, so that a mistake in one
shows against the other. It differs on purpose where the world may: drop volumes are gamma
distributed and add up one by one, the fill line is missed evenly to both sides, the eye has the
heavier tails of a logistic curve, the colour's need is an amount of titrant (so it too grows or
shrinks with the bottle), and slips are the ones that people make.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import pi, sqrt
from typing import Any

import numpy as np

from kessa_core.methods import Method
from kessa_core.quality.repeats import agreeing, decide
from kessa_core.readings.reading import Count, Reading

SLIPS = ("one too many", "one too few", "five skipped", "short fill", "unstirred", "any count")


@dataclass(frozen=True)
class Table:
    """One bench: its bottle and portion as they are. Amounts in milliequivalents, volumes in mL."""

    strength: float
    mean_drop: float
    need: float


@dataclass(frozen=True)
class Hand:
    """How somebody works. slip: the share of determinations that are spoiled in one of SLIPS."""

    slip: float = 0.02


class Dropwise:
    """Draws determinations of a method, one drop at a time."""

    def __init__(self, method: Method, rng: np.random.Generator, hand: Hand | None = None) -> None:
        self.method, self.rng, self.hand = method, rng, hand or Hand()
        self.stage = method.stages[0]
        self.sizes = {i.of: i for i in self.stage.influences}

    def sd(self, name: str) -> float:
        """Sd of an influence as the document states it; 0 where it names none."""
        found = self.sizes.get(name)
        return (found.sd or 0.0) if found else 0.0

    def table(self) -> Table:
        """A bottle and lot as they might stand on the bench."""
        need = self.sizes.get("colour-need")
        drops = self.rng.uniform(need.low or 0.0, need.high or 0.0) if need else 0.0
        strength, drop, _ = self._kit()
        return Table(
            strength * self._about_one(self.sd("strength")),
            drop * self._about_one(self.sd("drop-size")),
            drops * strength * drop,
        )

    def _kit(self) -> tuple[float, float, float]:
        """Titrant in eq/L, drop in mL, mg/meq; where the leaflet says the factor only, a titrant of
        1 eq/L in drops of 1 mL that makes the same factor."""
        t: Any = self.stage.reading
        if t.normality_eq_l and t.drop_ml and t.equivalent_weight_mg_meq:
            return t.normality_eq_l, t.drop_ml, t.equivalent_weight_mg_meq
        return 1.0, 1.0, float(t.factor) * t.portion_ml / 1000

    def determination(self, concentration: float, table: Table) -> Reading:
        """One determination of a sample with *concentration* mg/L; 0 is the blank."""
        slip = self.rng.choice(SLIPS) if self.rng.random() < self.hand.slip else ""
        if slip == "any count":
            return Count(int(self.rng.integers(self.first, self.stage.most + 1)))
        wanted = self._wanted(concentration, table, slip)
        return self._counted(self._drops_until(wanted, table), slip)

    def _wanted(self, concentration: float, table: Table, slip: str) -> float:
        """Titrant in meq after which this person sees the end."""
        t: Any = self.stage.reading
        half_width = self.sd("portion") * sqrt(3)
        filled = float(t.portion_ml) * (1 + self.rng.uniform(-half_width, half_width))
        if slip == "short fill":
            filled *= self.rng.uniform(0.5, 0.8)
        if slip == "unstirred":
            concentration *= self.rng.uniform(0.6, 1.5)
        strength, drop, weight = self._kit()
        in_the_flask = concentration * filled / 1000 / weight
        eye = self.rng.logistic(0.0, self.sd("eye") * sqrt(3) / pi)
        return in_the_flask + table.need + eye * strength * drop

    @property
    def first(self) -> int:
        """The lowest count that the kit knows."""
        part: Any = self.stage.reading
        return 0 if part.zero else 1

    def _drops_until(self, wanted: float, table: Table) -> int | None:
        """The drop at which the titrant reaches *wanted*; None when the maximum does not."""
        scatter = self.sd("each-drop")
        shape = 1 / scatter**2 if scatter else None
        added = 0.0
        if wanted <= 0 and self.first == 0:
            return 0
        for number in range(1, self.stage.most + 1):
            size = self.rng.gamma(shape, table.mean_drop / shape) if shape else table.mean_drop
            added += size * table.strength
            if added >= wanted:
                return number
        return None

    def _counted(self, drops: int | None, slip: str) -> Reading:
        most = self.stage.most
        if drops is None:
            return Count(most, "beyond")
        off = {"one too many": 1, "one too few": -1, "five skipped": 5}.get(slip, 0)
        return Count(min(max(drops + off, self.first), most))

    def _about_one(self, sd: float) -> float:
        return max(0.2, 1 + self.rng.normal(0, sd))


def run(
    simulator: Dropwise, concentration: float, at_most: int = 3
) -> tuple[Sequence[Reading], Sequence[Reading]]:
    """Blanks that passed and determinations of one run, as the method asks for them."""
    stage, table = simulator.stage, simulator.table()
    reader, blanks = stage.reader(), []
    if stage.blank:
        blank = simulator.determination(0.0, table)
        while blank.kind == "beyond" or blank.n > stage.blank.passes_at_most:
            blank = simulator.determination(0.0, table)
        blanks = [blank]
    agree = agreeing(stage.repeats.agree, reader)
    samples = [simulator.determination(concentration, table)]
    while len(samples) < at_most and samples[-1].kind != "beyond":
        half_steps = [reader.half_steps(sample) for sample in samples]
        if decide(half_steps, agree, stage.repeats.least).decision != "more":
            break
        samples.append(simulator.determination(concentration, table))
    return blanks, samples
