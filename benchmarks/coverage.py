"""How often the 95 % interval holds the truth: 20 000 runs a method, in strata.

Truths uniform on the method's own scale, readings from the forward model, blanks and thirds as
the method asks. Prints the table that stands in docs/science/interval.md.
"""

import sys
from collections import Counter

import numpy as np

from kessa_core.methods import shipped, shipped_ids
from kessa_core.readings.dropcount import drop_model
from kessa_core.simulation.hands import Habits, work

RUNS = int(sys.argv[1]) if len(sys.argv) > 1 else 20_000


def strata(method_id: str, habits: Habits, seed: int) -> None:
    """Count hits of one method and print a line a stratum."""
    method = shipped(method_id)
    model = drop_model(method)
    rng = np.random.default_rng(seed)
    top = (method.titration.max_drops - 2) * model.factor
    held: Counter[str] = Counter()
    total: Counter[str] = Counter()
    while total["all"] < RUNS:
        truth = rng.uniform(0, top)
        session = work(method, truth, rng, habits)
        readings = list(session.samples)
        if session.blank is None or readings[-1].kind == "beyond":
            continue
        hit = model.interval(readings, [session.blank]).holds(truth)
        third = min(int(truth / top * 3), 2)
        names = ["all", ("low third", "middle third", "high third")[third]]
        for name in (*names, f"{len(readings)} determinations", f"blank of {session.blank.drops}"):
            total[name] += 1
            held[name] += hit
    for name in sorted(total, key=lambda name: (name != "all", name)):
        share = 100 * held[name] / total[name]
        print(f"| {method_id} | {100 * habits.slip:g} % | {name} | {total[name]} | {share:.1f} % |")


def bounds(method_id: str, seed: int) -> None:
    """How often "no change" gives a bound above the truth, for truths near the end of the range."""
    method = shipped(method_id)
    model = drop_model(method)
    rng = np.random.default_rng(seed)
    for drops in (19, 20, 20.5, 21, 21.5, 22, 24):
        truth, wrong = drops * model.factor, 0
        for _ in range(RUNS // 10):
            session = work(method, truth, rng)
            last = session.samples[-1]
            if last.kind == "beyond" and session.blank:
                wrong += not model.interval([last], [session.blank]).holds(truth)
        print(f"| {method_id} | {drops} | {RUNS // 10} | {100 * wrong / (RUNS // 10):.1f} % |")


print("| method | slips | stratum | runs | interval holds the truth |")
print("| --- | --- | --- | --- | --- |")
for number, name in enumerate(shipped_ids()):
    for slip in (0.0, 0.01):
        strata(name, Habits(slip=slip), 100 + number)
print("\n| method | truth in drops | runs | bound above the truth |")
print("| --- | --- | --- | --- |")
for number, name in enumerate(shipped_ids()):
    bounds(name, 200 + number)
