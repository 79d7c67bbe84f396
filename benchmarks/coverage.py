"""How often the interval holds the truth, for every stage of every shipped method.

Two simulators: the forward model itself, and one that shares nothing with it but the document's
sizes. Prints the table of docs/science/coverage.md.
./kessa bench coverage [RUNS] [METHOD ...]
"""

import sys
from collections.abc import Callable
from functools import cache
from multiprocessing import Pool

import numpy as np

from kessa_core.methods import Method, shipped, shipped_ids
from kessa_core.methods.stage import Stage
from kessa_core.quality.blank import passes
from kessa_core.quality.repeats import agreeing, decide
from kessa_core.quantities import Interval
from kessa_core.readings.reader import NO_LOT
from kessa_core.readings.seen import Seen
from kessa_core.runs.conclude import prediluted
from kessa_core.runs.joint import difference
from kessa_core.simulation.apart import Apart
from kessa_core.simulation.bottle import draw_bottle
from kessa_core.simulation.dropwise import Dropwise, Hand
from kessa_core.simulation.hands import Habits, look

RUNS = next((int(a) for a in sys.argv[1:] if a.isdecimal()), 5_000)
NAMED = [a for a in sys.argv[1:] if not a.isdecimal()]
"""Methods to run; all of them where none is named."""
Look = Callable[[float], Seen]
SIMULATORS = ("forward", "apart")


def forward(stage: Stage, rng: np.random.Generator) -> Callable[[], Look]:
    """A bench after another, from the forward model."""
    reader, habits = stage.reader(), Habits(slip=0.01)

    def bench() -> Look:
        bottle = draw_bottle(reader, rng)
        return lambda truth: look(reader, truth, bottle, rng, habits)

    return bench


def apart(stage: Stage, rng: np.random.Generator, method: Method) -> Callable[[], Look]:
    """A bench after another, from the second simulator."""
    if stage.reading.by == "drop-count":
        dropwise = Dropwise(method, rng, Hand(0.01))
        p, each = stage.reading, stage.reader().at(2)
        meq = float(p.normality_eq_l) * float(p.drop_ml)
        worth = meq * float(p.equivalent_weight_mg_meq) * 1000 / float(p.portion_ml) / each

        def drops() -> Look:
            table = dropwise.table()
            return lambda truth: dropwise.determination(truth * worth, table)

        return drops
    simulator = Apart(stage, rng)

    def bench() -> Look:
        shared = simulator.bench()
        return lambda truth: simulator.determination(truth, shared)

    return bench


def truths(stage: Stage, rng: np.random.Generator) -> Callable[[], float]:
    """Truths that are even on the scale."""
    reader = stage.reader()
    if reader.counts:
        top = (stage.most - 2) * reader.at(2)
        return lambda: float(rng.uniform(0, top))
    low, high = reader.model.ends
    last = reader.scale(reader.slots_here[-1]).high
    high = min(high, float(reader.reach[1]) if hasattr(reader, "reach") else high, max(last, 1))
    low = max(low, 0.0) if low < 0 and stage.reading.by not in ("tube", "printed-scale") else low
    return lambda: float(reader.model.x_of(rng.uniform(low, high)))


def diluting(stage: Stage, look: Look, rng: np.random.Generator) -> Look:
    """Looks at a sample that is diluted first, where the method does that: missed evenly."""
    if not stage.predilution:
        return look
    sd = stage.predilution.sd
    return lambda truth: look(truth * (1 + sd * 3**0.5 * float(rng.uniform(-1, 1))))


def one(stage: Stage, look: Look, truth: float, reference: float) -> tuple[list[Seen], list[Seen]]:
    """Blank or reference, then determinations until the rule is satisfied."""
    reader = stage.reader()
    beside = [look(reference)] if stage.reference else []
    if stage.blank and any(i.distribution == "uniform" for i in stage.influences):
        blank = look(0.0)
        while not passes(blank, stage.blank, reader):
            blank = look(0.0)
        beside = [blank]
    agree = agreeing(stage.repeats.agree, reader)
    samples = [look(truth)]
    while len(samples) < 3 and samples[-1].kind not in ("beyond", "below", "absent"):
        halves = [reader.halves(seen) for seen in samples]
        if decide(halves, agree, stage.repeats.least).decision != "more":
            break
        samples.append(look(truth))
    return beside, samples


def holds(stage: Stage, beside: list[Seen], samples: list[Seen], truth: float) -> bool:
    """Whether the interval of this run holds *truth*."""
    return _interval(stage, tuple(beside), tuple(samples)).holds(truth)


@cache
def _interval(stage: Stage, beside: tuple[Seen, ...], samples: tuple[Seen, ...]) -> Interval:
    reader = prediluted(stage, NO_LOT)
    outside = [seen for seen in samples if seen.kind in ("beyond", "below")]
    if stage.reference:
        return difference(reader, samples, reader, beside, (1.0, 1.0))
    if outside:
        return reader.bound(outside[-1], beside).interval
    return reader.value(samples, samples, beside).interval


def share(task: tuple[str, int, str]) -> tuple[str, str, str, str, float]:
    """The share of runs whose interval holds the truth."""
    method_id, at, simulator = task
    method = shipped(method_id)
    stage = method.stages[at]
    rng = np.random.default_rng([20261125, at, SIMULATORS.index(simulator), len(method_id)])
    bench = forward(stage, rng) if simulator == "forward" else apart(stage, rng, method)
    truth_of = truths(stage, rng)
    hits = done = 0
    while done < RUNS:
        look, truth = diluting(stage, bench(), rng), truth_of()
        reference = 0.0
        if stage.reference:
            reference = float(rng.uniform(0, 0.3)) * stage.most * stage.reader().at(2)
            truth = min(truth, 0.6 * stage.most * stage.reader().at(2))
        beside, samples = one(stage, look, truth + reference, reference)
        if stage.reference and any(s.kind == "beyond" for s in (*beside, *samples)):
            continue
        done += 1
        hits += holds(stage, beside, samples, truth)
    return method_id, stage.id, stage.reading.by, simulator, 100 * hits / done


def main() -> None:
    """The table."""
    tasks = [
        (method_id, at, simulator)
        for method_id in NAMED or shipped_ids()
        for at in range(len(shipped(method_id).stages))
        for simulator in SIMULATORS
    ]
    with Pool() as pool:
        found = pool.map(share, tasks, chunksize=1)
    rows = {(m, s, by): {} for m, s, by, _, _ in found}
    for m, s, by, simulator, percent in found:
        rows[m, s, by][simulator] = percent
    print(f"| principle | method | stage | forward model | second simulator |\n|{' --- |' * 5}")
    for (m, s, by), told in sorted(rows.items(), key=lambda row: (row[0][2], row[0])):
        print(f"| {by} | {m} | {s} | {told['forward']:.1f} % | {told['apart']:.1f} % |")
    worst = [p for told in rows.values() for p in told.values() if not 93 <= p <= 97]
    print(f"\n{RUNS} runs each; outside 93 to 97 %: {len(worst)}")


if __name__ == "__main__":
    main()
