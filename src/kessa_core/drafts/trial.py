"""Simulated samples tested by a method before it is published: how often its ranges hold the true
value, what makes them wide, and what a chosen sample would come to."""

from dataclasses import dataclass
from datetime import datetime

import numpy as np

from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.quality.budget import budget
from kessa_core.quantities import Value
from kessa_core.readings.reading import Reading
from kessa_core.runs.conclude import conclude
from kessa_core.runs.fold import fold
from kessa_core.simulation import hands, script
from kessa_core.simulation.bottle import draw_bottle

SAMPLES = 200
LOW = 182
"""Of 200 samples at least so many ranges hold where 95 % do, in all but one trial of a hundred."""
START = "2026-01-01T09:00:00+00:00"


@dataclass(frozen=True)
class StageTrial:
    """What 200 samples came to. held: how many of the ranges held the true value."""

    stage: str
    title: str
    tried: int
    held: int
    widest: str
    example: str
    example_range: str

    @property
    def sentence(self) -> str:
        """In one line."""
        per_cent = round(100 * self.held / self.tried) if self.tried else 0
        return f"{self.title}: {per_cent} of 100 ranges held the true value."

    @property
    def fits(self) -> bool:
        """Whether that is what 95 % ranges do."""
        return self.held >= LOW * self.tried / SAMPLES


@dataclass(frozen=True)
class Trial:
    """Every stage's trial, and whether a whole simulated run came to its end."""

    stages: tuple[StageTrial, ...]
    ended: bool

    @property
    def fits(self) -> bool:
        """Whether the method can be published as it is."""
        return self.ended and all(stage.fits for stage in self.stages)


def try_out(method: Method, seed: int = 1) -> Trial:
    """Try the method on simulated samples, evenly along each stage's own scale."""
    rng = np.random.default_rng(seed)
    return Trial(tuple(_stage(stage, rng) for stage in method.stages), _one_run(method, rng))


def _stage(stage: Stage, rng: np.random.Generator) -> StageTrial:
    reader, held, tried = stage.reader(), 0, 0
    habits = hands.AnalystProfile()
    for place in np.linspace(0.02, 0.98, SAMPLES):
        truth = truth_at(stage, float(place))
        seen = hands.look(reader, truth, draw_bottle(reader, rng), rng, habits)
        if seen.kind in ("beyond", "below"):
            continue
        tried += 1
        held += reader.value([seen], [seen]).interval.holds(truth)
    middle = example_of(stage)
    value = reader.value([middle], [middle])
    return StageTrial(
        stage.id, stage.title, tried, held, _widest(stage, middle), value.text, value.range_text
    )


def truth_at(stage: Stage, share: float) -> float:
    """The true value at a share of the stage's scale, in its unit."""
    reader = stage.reader()
    first, last = reader.reach
    if reader.by == "presence":
        return float(round(share))
    return max(float(reader.at(round(2 * (first + share * (last - first))))), 0.0)


def example_of(stage: Stage, share: float = 0.3) -> Reading:
    """A reading at a share of the scale."""
    reader = stage.reader()
    first, last = reader.reach
    return reader.example(max(first, round(first + share * (last - first))))


def example_value(stage: Stage) -> Value:
    """What such a reading comes to."""
    seen = example_of(stage)
    return stage.reader().value([seen], [seen])


def _widest(stage: Stage, seen: Reading) -> str:
    found = budget(stage.reader(), [seen])
    return found.parts[0].words if found and found.parts else ""


def _one_run(method: Method, rng: np.random.Generator) -> bool:
    """A whole run through every step, in the middle of every scale."""
    truths = {stage.id: truth_at(stage, 0.3) * stage.base for stage in method.stages}
    truths |= {f"{stage.id}:reference": truth_at(stage, 0.1) for stage in method.stages}
    session = hands.work(method, truths, rng)
    events = script.events(method, session, datetime.fromisoformat(START), rng)
    state = fold(method, events)
    return bool(state.finish and not state.ignored and conclude(method, state))
