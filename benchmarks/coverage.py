"""How often the interval holds the truth, for every stage of every shipped method.

Two simulators: the forward model itself, and one that shares nothing with it but the document's
sizes. By thirds of the scale, by number of determinations, for truths at both very ends; how often
the figure lies in the middle half of its interval; how often a truth at a limit is called within or
beyond. Prints the tables of docs/science/coverage.md.
./kessa bench coverage [RUNS] [--limits] [METHOD ...]
"""

import sys
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from multiprocessing import Pool
from typing import Any

import numpy as np

from kessa_core.judging import Limit, judge
from kessa_core.methods import Method, shipped, shipped_ids
from kessa_core.methods.stage import Stage
from kessa_core.quality.blank import passes
from kessa_core.quality.repeats import agreeing, decide
from kessa_core.quantities import Value
from kessa_core.readings.lots import NO_LOTS
from kessa_core.readings.reading import Reading
from kessa_core.runs.conclude import subtracted
from kessa_core.runs.joint import difference
from kessa_core.runs.stage_readers import reader_of_stage
from kessa_core.simulation.bottle import draw_bottle
from kessa_core.simulation.dropwise import Dropwise, Hand
from kessa_core.simulation.hands import AnalystProfile, look
from kessa_core.simulation.independent import IndependentSimulator

AT_LIMITS = "--limits" in sys.argv
"""Draw truths at limits too (slow)."""
RUNS = next((int(a) for a in sys.argv[1:] if a.isdecimal()), 5_000)
NAMED = [a for a in sys.argv[1:] if not a.isdecimal() and not a.startswith("-")]
"""Methods to run; all of them where none is named."""
Look = Callable[[float], Reading]
SIMULATORS = ("forward", "apart")
STRATA = ("all", "low", "middle", "high", "one", "two", "three", "very end", "top")
SENSIBLE = 0.6
"""A certificate's truths end here: a figure above the largest that makes sense is refused."""
LIMITS = 8
"""Limits along each scale for which truths at the limit are drawn."""


def forward(stage: Stage, rng: np.random.Generator) -> Callable[[], Look]:
    """A bench after another, from the forward model."""
    reader, habits = stage.reader(), AnalystProfile(slip=0.01)

    def bench() -> Look:
        bottle = draw_bottle(reader, rng)
        return lambda truth: look(reader, truth, bottle, rng, habits)

    return bench


def apart(stage: Stage, rng: np.random.Generator, method: Method) -> Callable[[], Look]:
    """A bench after another, from the second simulator."""
    if stage.reading.by == "drop-count":
        dropwise = Dropwise(method, rng, Hand(0.01))
        p, each = stage.reading, stage.reader().at(2)
        worth = 1.0
        if p.normality_eq_l and p.drop_ml:
            meq = float(p.normality_eq_l) * float(p.drop_ml)
            worth = meq * float(p.equivalent_weight_mg_meq) * 1000 / float(p.portion_ml) / each

        def drops() -> Look:
            table = dropwise.table()
            return lambda truth: dropwise.determination(truth * worth, table)

        return drops
    simulator = IndependentSimulator(stage, rng)

    def bench() -> Look:
        shared = simulator.bench()
        return lambda truth: simulator.determination(truth, shared)

    return bench


@dataclass(frozen=True)
class Span:
    """Where truths are drawn: places on the scale, and the value at each."""

    low: float
    high: float
    value: Callable[[float], float]


def span(stage: Stage) -> Span:
    """From the very end of the domain to the top of the scale."""
    reader = stage.reader()
    if reader.counts:
        return Span(0.0, float(stage.most), lambda u: u * reader.at(2))
    low, end = reader.model.ends
    scale = reader.scale(reader.reading_fields[-1])
    reach: Any = getattr(reader, "reach", None)
    top = float(reach[1]) if reach else float(reader.edges(Reading(scale.high))[1])
    if stage.reading.by == "elsewhere":
        top = scale.high * SENSIBLE
    return Span(low, min(top, end), lambda u: float(reader.model.value_at(u)))


def diluting(stage: Stage, look: Look, rng: np.random.Generator) -> Look:
    """Looks at a sample that is diluted first, where the method does that: missed evenly."""
    if not stage.predilution:
        return look
    sd = stage.predilution.sd
    return lambda truth: look(truth * (1 + sd * 3**0.5 * float(rng.uniform(-1, 1))))


def one(
    stage: Stage, look: Look, truth: float, reference: float
) -> tuple[list[Reading], list[Reading]]:
    """Blank or reference, then determinations until the rule is satisfied."""
    reader = stage.reader()
    beside = [look(reference)] if stage.reference else []
    if stage.blank and (
        stage.blank.subtract or any(i.distribution == "uniform" for i in stage.influences)
    ):
        blank = look(0.0)
        while not passes(blank, stage.blank, reader):
            blank = look(0.0)
        beside = [blank]
    agree = agreeing(stage.repeats.agree, reader)
    samples = [look(truth)]
    while len(samples) < 3 and samples[-1].kind not in ("beyond", "below", "absent"):
        half_steps = [reader.half_steps(seen) for seen in samples]
        if decide(half_steps, agree, stage.repeats.least).decision != "more":
            break
        samples.append(look(truth))
    return beside, samples


@cache
def value_of(
    stage: Stage, beside: tuple[Reading, ...], samples: tuple[Reading, ...]
) -> Value | None:
    """What this run reports; its interval where it reports nothing."""
    reader = reader_of_stage(stage, NO_LOTS)
    outside = [seen for seen in samples if seen.kind in ("beyond", "below", "absent")]
    if outside:
        return reader.value([outside[-1]], [outside[-1]], beside)
    agree = agreeing(stage.repeats.agree, reader)
    repeat = decide([reader.half_steps(s) for s in samples], agree, stage.repeats.least)
    used = [samples[i] for i in repeat.used] or list(samples)
    value = reader.value(used, samples, beside)
    if stage.reference:
        found = difference(reader, samples, reader, beside, (1.0, 1.0))
        number = float(reader.mean(used)) - float(reader.mean(beside))
        return subtracted(stage.measures, number, found, "")
    return value


def strata(task: tuple[str, int, str]) -> tuple[str, str, str, str, Counter[str]]:
    """Hits and totals in every stratum."""
    method_id, at, simulator = task
    method = shipped(method_id)
    stage = method.stages[at]
    rng = np.random.default_rng([20261125, at, SIMULATORS.index(simulator), len(method_id)])
    bench = forward(stage, rng) if simulator == "forward" else apart(stage, rng, method)
    drawn, seen = span(stage), Counter[str]()
    while seen["all n"] < RUNS:
        end = ("very end", "top", "")[min(seen["all n"] % 10, 2)]
        u = {"very end": drawn.low, "top": drawn.high}.get(end, rng.uniform(drawn.low, drawn.high))
        look, truth, reference = diluting(stage, bench(), rng), drawn.value(u), 0.0
        if stage.reference:
            reference = float(rng.uniform(0, 0.3)) * drawn.value(drawn.high)
            truth *= 0.6
        beside, samples = one(stage, look, truth + reference, reference)
        if stage.reference and any(s.kind == "beyond" for s in (*beside, *samples)):
            continue
        value = value_of(stage, tuple(beside), tuple(samples))
        if value is None:
            continue
        third = min(int((u - drawn.low) / (drawn.high - drawn.low) * 3), 2)
        names = ["all", end or ("low", "middle", "high")[third]]
        names.append(("one", "two", "three")[len(samples) - 1])
        hit = value.interval.holds(truth)
        for name in names:
            seen[f"{name} n"] += 1
            seen[f"{name} hit"] += hit
        two_sided = not value.qualifier and (value.interval.low or 0.0) > 0
        if two_sided and not value.said and len(samples) < 3:
            seen["middle half n"] += 1
            seen["middle half hit"] += value.lies_in_the_middle
    if AT_LIMITS:
        called(stage, bench, drawn, rng, seen)
    return method_id, stage.id, stage.reading.by, simulator, seen


def called(
    stage: Stage,
    bench: Callable[[], Look],
    drawn: Span,
    rng: np.random.Generator,
    seen: Counter[str],
) -> None:
    """Truths at limits across the scale: the worst share called within, and beyond."""
    if stage.reference or stage.measures.unit == "degree":
        return
    for u in np.linspace(drawn.low, drawn.high, LIMITS + 2)[1:-1]:
        number = float(f"{drawn.value(float(u)):.4g}")
        m = stage.measures
        told = {
            "id": "proof", "parameter": m.parameter, "form": m.form, "basis": m.basis,
            "unit": m.unit, "name": "proof", "tier": "alert", "statistic": "each sample",
            "document": "made for the proof", "within": "within", "beyond": "beyond",
        }  # fmt: skip
        text = f"{max(number, 0):.6f}"
        limits = [Limit(**told, max=text), Limit(**told, min=text)]
        wrong = [0, 0]
        for _ in range(RUNS):
            beside, samples = one(stage, diluting(stage, bench(), rng), float(text), 0.0)
            value = value_of(stage, tuple(beside), tuple(samples))
            for side, limit in enumerate(limits):
                wrong[side] += value is not None and judge(value, limit).sign == "within"
        for name, share in zip(("within max", "within min"), wrong, strict=True):
            seen[name] = max(seen[name], round(1e4 * share / RUNS))


def main() -> None:
    """The tables."""
    tasks = [
        (method_id, at, simulator)
        for method_id in NAMED or shipped_ids()
        for at in range(len(shipped(method_id).stages))
        for simulator in SIMULATORS
    ]
    with Pool() as pool:
        found = pool.map(strata, tasks, chunksize=1)
    heads = (*STRATA, "middle half", "at a maximum", "at a minimum")
    print(f"| method | stage | simulator | {' | '.join(heads)} |\n|{' --- |' * (len(heads) + 3)}")
    outside = []
    for method_id, stage, _by, simulator, seen in sorted(found, key=lambda one: one[:4]):
        cells = []
        for name in (*STRATA, "middle half"):
            n = seen[f"{name} n"]
            share = 100 * seen[f"{name} hit"] / n if n else 0.0
            cells.append(f"{share:.1f}" if n >= 50 else "")
            if name in ("all", "low", "middle", "high") and n and not 93 <= share <= 97:
                outside.append(f"{method_id} {stage} {simulator} {name}: {share:.1f}")
            if name in ("very end", "top") and n and share < 93:
                outside.append(f"{method_id} {stage} {simulator} {name}: {share:.1f}")
        cells += [f"{seen[name] / 100:.1f}" for name in ("within max", "within min")]
        print(f"| {method_id} | {stage} | {simulator} | {' | '.join(cells)} |")
    print(f"\n{RUNS} runs each. Outside what is promised:")
    print("\n".join(f"- {line}" for line in outside) or "- none")


if __name__ == "__main__":
    main()
