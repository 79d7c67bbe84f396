"""Simulate a person who tests a virtual sample, using the forward models."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from math import ceil

import numpy as np

from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.quality import blank as blank_rule
from kessa_core.quality.repeats import agreeing, decide
from kessa_core.readings.dropcount import Counting
from kessa_core.readings.external_result import COVERAGE, ExternalResult
from kessa_core.readings.presence import Presence
from kessa_core.readings.reading import Count, Reading
from kessa_core.readings.reading_type import ReadingType
from kessa_core.simulation.bottle import SharedErrors, draw_bottle


@dataclass(frozen=True)
class AnalystProfile:
    """How a person works. slip: share of determinations with a wild reading. doubt: when the end
    is seen this close (in steps) to the step before, two counts seem defensible. keen: below
    this distance past the step before, the last one looks clearly too strong."""

    slip: float = 0.0
    doubt: float = 0.0
    keen: float = 0.0


@dataclass(frozen=True)
class StageSession:
    """Every determination of one stage; what is not asked for is empty."""

    failed_blanks: tuple[Reading, ...] = ()
    blank: Reading | None = None
    standard: Reading | None = None
    reference: Reading | None = None
    samples: tuple[Reading, ...] = ()
    spike: Reading | None = None


@dataclass(frozen=True)
class Session:
    """A whole run, stage by stage."""

    stages: tuple[StageSession, ...] = field(default=())

    @property
    def first(self) -> StageSession:
        """The first stage."""
        return self.stages[0]


def look(
    reader: ReadingType,
    truth: float,
    bottle: SharedErrors,
    rng: np.random.Generator,
    habits: AnalystProfile,
) -> Reading:
    """One determination of a sample whose value is *truth* (0 is a blank)."""
    if isinstance(reader, Counting):
        return _count(reader, truth, bottle, rng, habits)
    if isinstance(reader, ExternalResult):
        return _certified(reader, truth, rng)
    if isinstance(reader, Presence):
        return reader.drawn(truth, rng)
    model = reader.model
    low, high = model.ends
    if habits.slip and rng.random() < habits.slip:
        return reader.seen_at(float(rng.uniform(low, high)))
    u = model.scale_position(truth)
    here = np.array(float(u))
    shift = float(model.shared(here)) * bottle.z + bottle.need
    return reader.seen_at(float(u) + shift + float(rng.normal(0, float(model.scatter(here)))))


def _certified(reader: ExternalResult, truth: float, rng: np.random.Generator) -> Reading:
    """A certificate: its figure lies about the truth as it states itself, by k = 2."""
    at = float(reader.model.scale_position(truth))
    stated = max(2, round(rng.uniform(0.08, 0.2) * at))
    seen = reader.seen_at(at + float(rng.normal(0, stated / COVERAGE)))
    return replace(seen, beside=(("uncertainty", stated),))


def _count(
    reader: Counting,
    truth: float,
    bottle: SharedErrors,
    rng: np.random.Generator,
    habits: AnalystProfile,
) -> Reading:
    model, most = reader.counting, reader.part.most
    if habits.slip and rng.random() < habits.slip:
        return Count(int(rng.integers(reader.first, most + 1)))
    offset = model.spread.offset
    need = bottle.need if offset[0] <= bottle.need <= offset[1] else float(rng.uniform(*offset))
    scale = float(np.exp(bottle.z * model.spread.shared_relative()))
    drops = model.needed(truth, scale, 0.0)
    end = drops + need + rng.normal(0, float(model.scatter(np.array(drops), np.array(need))))
    if end > most:
        return Count(most, "beyond")
    seen = max(reader.first, ceil(end))
    if seen == 0:
        return Count(0)
    past = end - (seen - 1)
    if seen > 1 and past < habits.keen:
        return Count(seen, "backed-off")
    if seen > 1 and past < habits.doubt:
        return Count(seen, "doubt")
    return Count(seen)


def work(
    method: Method,
    truth: float | Mapping[str, float],
    rng: np.random.Generator,
    habits: AnalystProfile | None = None,
    bottle: SharedErrors | None = None,
    dirty: float = 0.0,
) -> Session:
    """A whole run as the method asks: what comes before, then determinations until the repeat
    rule is satisfied. truth: one value, or one by stage ("id", and "id:reference" for the water
    beside it). dirty: what the first blank picks up, in the unit of the stage."""
    truths = truth if isinstance(truth, Mapping) else {s.id: truth for s in method.stages}
    made: list[StageSession] = []
    habits = habits or AnalystProfile()
    shared: dict[int, SharedErrors] = {}
    for at, stage in enumerate(method.stages):
        reader = stage.reader()
        first = method.flask(at)[0]
        shared[at] = shared[first] if first != at else bottle or draw_bottle(reader, rng)
        done = _stage(stage, reader, truths, rng, habits, shared[at], dirty)
        if stage.continues:
            done = _going_on(done, made[-1])
        made.append(done)
    for at, stage in enumerate(method.stages):
        if stage.continues and stage.repeats.least > 1:
            _flask_by_flask(method, method.flask(at), truths, rng, habits, shared[at], made)
    return Session(tuple(made))


def _going_on(done: StageSession, before: StageSession) -> StageSession:
    """A titration that goes on in the flask of another ends no earlier than that one."""
    pairs = zip(done.samples, before.samples, strict=False)
    return replace(
        done, samples=tuple(replace(seen, n=max(seen.n, earlier.n)) for seen, earlier in pairs)
    )


def _flask_by_flask(
    method: Method,
    flask: tuple[int, ...],
    truths: Mapping[str, float],
    rng: np.random.Generator,
    habits: AnalystProfile,
    bottle: SharedErrors,
    made: list[StageSession],
) -> None:
    """Draw the determinations of several colours in one flask anew, until each has enough."""
    stages = [method.stages[at] for at in flask]
    samples: list[list[Reading]] = [[] for _ in flask]
    asked = True
    while asked:
        for stage, seen in zip(stages, samples, strict=True):
            truth = truths.get(stage.id, 0.0) / stage.base
            one = look(stage.reader(), truth, bottle, rng, habits)
            before = samples[stages.index(stage) - 1] if stage.continues else []
            seen.append(replace(one, n=max(one.n, before[-1].n)) if before else one)
            if one.kind == "beyond":
                break
        asked = not any(seen and seen[-1].kind == "beyond" for seen in samples) and any(
            _asks_more(stage, seen) for stage, seen in zip(stages, samples, strict=True)
        )
    for at, seen in zip(flask, samples, strict=True):
        made[at] = replace(made[at], samples=tuple(seen))


def _asks_more(stage: Stage, samples: list[Reading]) -> bool:
    reader = stage.reader()
    half_steps = [reader.half_steps(sample) for sample in samples]
    agree = agreeing(stage.repeats.agree, reader)
    return decide(half_steps, agree, stage.repeats.least).decision == "more"


def _stage(
    stage: Stage,
    reader: ReadingType,
    truths: Mapping[str, float],
    rng: np.random.Generator,
    habits: AnalystProfile,
    bottle: SharedErrors,
    dirty: float,
) -> StageSession:
    truth, made = truths.get(stage.id, 0.0), StageSession()
    careful = replace(habits, slip=0.0, doubt=0.0, keen=0.0)
    if stage.blank:
        failed: list[Reading] = []
        blank = look(reader, dirty, bottle, rng, careful)
        while not blank_rule.passes(blank, stage.blank, reader):
            failed.append(blank)
            if len(failed) > 5:
                return StageSession(tuple(failed))
            blank = look(reader, 0.0, bottle, rng, careful)
        made = replace(made, failed_blanks=tuple(failed), blank=blank)
    if stage.standard:
        standard = look(reader, float(stage.standard.value), bottle, rng, careful)
        made = replace(made, standard=standard)
    if stage.reference:
        beside = truths.get(f"{stage.id}:reference", 0.0)
        made = replace(made, reference=look(reader, beside, bottle, rng, careful))
    samples = _samples(stage, reader, truth / stage.base, rng, habits, bottle)
    if stage.spike and samples[-1].kind not in ("beyond", "below"):
        more = (truth + float(stage.spike.added)) / stage.base * _missed(stage, rng)
        made = replace(made, spike=look(reader, more, bottle, rng, careful))
    return replace(made, samples=samples)


def _missed(stage: Stage, rng: np.random.Generator) -> float:
    """By how much a dilution that every sample gets is missed."""
    return 1 + float(rng.normal(0, stage.predilution.sd)) if stage.predilution else 1.0


def _samples(
    stage: Stage,
    reader: ReadingType,
    truth: float,
    rng: np.random.Generator,
    habits: AnalystProfile,
    bottle: SharedErrors,
) -> tuple[Reading, ...]:
    agree = agreeing(stage.repeats.agree, reader)
    samples: list[Reading] = []
    while True:
        seen = look(reader, truth * _missed(stage, rng), bottle, rng, habits)
        samples.append(seen)
        if seen.kind in ("beyond", "below"):
            return tuple(samples)
        half_steps = [reader.half_steps(sample) for sample in samples]
        if decide(half_steps, agree, stage.repeats.least).decision != "more":
            return tuple(samples)
