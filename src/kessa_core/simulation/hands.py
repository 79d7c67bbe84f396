"""A person doing drop counts on a virtual sample, drawn from the forward model."""

from dataclasses import dataclass
from math import ceil

import numpy as np

from kessa_core.methods import Method
from kessa_core.quality import blank as blank_rule
from kessa_core.quality.repeats import decide
from kessa_core.readings.dropcount import DropModel, DropReading, drop_model
from kessa_core.simulation.bottle import Bottle, draw_bottle


@dataclass(frozen=True)
class Habits:
    """How a person works. slip: share of determinations with a wild count. doubt: when the end
    is seen this close (in drops) to the drop before, two counts seem defensible. keen: below
    this distance past the drop before, the last one looks clearly too strong."""

    slip: float = 0.0
    doubt: float = 0.0
    keen: float = 0.0


@dataclass(frozen=True)
class Session:
    """Every determination of one run: failed blanks, the passed one, the sample's."""

    failed_blanks: tuple[DropReading, ...]
    blank: DropReading | None
    samples: tuple[DropReading, ...]


def count(
    model: DropModel,
    concentration: float,
    bottle: Bottle,
    rng: np.random.Generator,
    habits: Habits | None = None,
) -> DropReading:
    """One determination of a sample with *concentration* mg/L (0 is a blank)."""
    habits = habits or Habits()
    if habits.slip and rng.random() < habits.slip:
        return DropReading(int(rng.integers(1, model.max_drops + 1)))
    drops = model.needed(concentration, bottle.scale, 0.0)
    sd = float(model.scatter(np.array(drops), np.array(bottle.need)))
    end = drops + bottle.need + rng.normal(0, sd)
    if end > model.max_drops:
        return DropReading(model.max_drops, "beyond")
    seen = max(1, ceil(end))
    past = end - (seen - 1)
    if seen > 1 and past < habits.keen:
        return DropReading(seen, "backed-off")
    if seen > 1 and past < habits.doubt:
        return DropReading(seen, "doubt")
    return DropReading(seen)


def work(
    method: Method,
    concentration: float,
    rng: np.random.Generator,
    habits: Habits | None = None,
    bottle: Bottle | None = None,
    dirty: float = 0.0,
) -> Session:
    """A whole run as the method asks: blank until it passes, then determinations until the
    repeat rule is satisfied. dirty: mg/L that the first blank picks up."""
    model = drop_model(method)
    bottle = bottle or draw_bottle(model, rng)
    failed: list[DropReading] = []
    blank = count(model, dirty, bottle, rng)
    while not blank_rule.passes(blank, method.blank):
        failed.append(blank)
        if len(failed) > 5:
            return Session(tuple(failed), None, ())
        blank = count(model, 0.0, bottle, rng)
    samples: list[DropReading] = []
    tolerance = 2 * method.repeats.agree_within_drops
    while True:
        reading = count(model, concentration, bottle, rng, habits)
        samples.append(reading)
        halves = [sample.halves for sample in samples]
        if reading.kind == "beyond" or decide(halves, tolerance).decision != "more":
            return Session(tuple(failed), blank, tuple(samples))
