"""Methods without a figure: how often a look at a portion errs, and how often two people agree.

Present or absent: portions with none, one, two and five of what is looked for, seen by the second
simulator without slips; the shares that err beside those that the document states. Grades and the
kit's own verdicts: two people, drawn one after the other by both simulators, look at one thing;
truths are even on the scale. Prints the tables of docs/science/coverage.md.
./kessa bench looks [RUNS]
"""

import sys
from collections.abc import Callable, Iterator

import numpy as np

from kessa_core.methods import shipped, shipped_ids
from kessa_core.methods.stage import Stage
from kessa_core.readings.reading import Reading
from kessa_core.simulation.bottle import draw_bottle
from kessa_core.simulation.hands import AnalystProfile, look
from kessa_core.simulation.independent import IndependentSimulator

RUNS = next((int(a) for a in sys.argv[1:] if a.isdecimal()), 20_000)
COUNTS = (0, 1, 2, 5)
Look = Callable[[float], Reading]


def stages(by: str) -> Iterator[tuple[str, Stage]]:
    """The stages of shipped methods that are read so."""
    for key in shipped_ids():
        for stage in shipped(key).stages:
            if stage.reading.by == by:
                yield key, stage


def presence() -> None:
    """Shares that err, in simulation and as stated."""
    heads = "absent shown present | one missed | two missed | five missed"
    print(f"| method | stage | | {heads} |\n|{' --- |' * 7}")
    for key, stage in stages("presence"):
        rates = stage.reading.rates
        stated = (
            rates.false_alarm,
            *((1 - rates.false_alarm) * rates.missed**n for n in COUNTS[1:]),
        )
        simulator = IndependentSimulator(stage, np.random.default_rng(len(key)), slip=0.0)
        found = []
        for count in COUNTS:
            bench = simulator.bench()
            seen = [simulator.determination(count, bench).n for _ in range(RUNS)]
            shown = sum(seen) / RUNS
            found.append(shown if not count else 1 - shown)
        for name, shares in (("stated", stated), ("simulated", found)):
            cells = " | ".join(f"{100 * share:.2f} %" for share in shares)
            print(f"| {key} | {stage.id} | {name} | {cells} |")


def observers(stage: Stage) -> Iterator[tuple[str, Callable[[], Look]]]:
    """One person after another, by both simulators."""
    rng, reader = np.random.default_rng([7, len(stage.id)]), stage.reader()

    def forward() -> Look:
        bottle, habits = draw_bottle(reader, rng), AnalystProfile(slip=0.01)
        return lambda truth: look(reader, truth, bottle, rng, habits)

    simulator = IndependentSimulator(stage, rng)

    def apart() -> Look:
        bench = simulator.bench()
        return lambda truth: simulator.determination(truth, bench)

    yield "forward", forward
    yield "apart", apart


def agreement() -> None:
    """How often two people choose the same degree, or neighbours; and the kit's verdicts."""
    heads = "same degree | neighbours at most | kappa | verdicts that contradict"
    print(f"\n| method | stage | simulator | {heads} |\n|{' --- |' * 7}")
    rng = np.random.default_rng(28)
    for key, stage in stages("graded"):
        degrees = stage.reading.degrees
        for name, person in observers(stage):
            pairs = []
            for _ in range(RUNS):
                truth = float(rng.uniform(-0.5, len(degrees) - 0.5))
                truth = min(max(truth, 0.0), len(degrees) - 1.0)
                pairs.append((int(person()(truth).n), int(person()(truth).n)))
            same = sum(a == b for a, b in pairs) / RUNS
            near = sum(abs(a - b) <= 1 for a, b in pairs) / RUNS
            against = _contradicting(stage, pairs)
            cells = (
                f"{100 * same:.1f} % | {100 * near:.1f} % | {_kappa(pairs, same):.2f} | {against}"
            )
            print(f"| {key} | {stage.id} | {name} | {cells} |")


def _contradicting(stage: Stage, pairs: list[tuple[int, int]]) -> str:
    """The share of pairs of which one reads within and the other beyond, by what Kessa says of the
    degree: too close where its range holds both."""
    reader = stage.reader()
    said = [
        reader.value([Reading(n)], [Reading(n)]).kit_verdict
        for n in range(len(stage.reading.degrees))
    ]
    if not any(said):
        return "no verdict"
    beyond = {"above", "below"}
    wrong = sum(
        (said[a] == "within" and said[b] in beyond) or (said[b] == "within" and said[a] in beyond)
        for a, b in pairs
    )
    return f"{100 * wrong / len(pairs):.2f} %"


def _kappa(pairs: list[tuple[int, int]], same: float) -> float:
    """Cohen's kappa: agreement beyond chance (J. Cohen, Educ. Psychol. Meas. 20, 1960)."""
    firsts, seconds = (np.bincount([p[i] for p in pairs], minlength=12) for i in (0, 1))
    chance = float((firsts * seconds).sum()) / len(pairs) ** 2
    return (same - chance) / (1 - chance)


if __name__ == "__main__":
    presence()
    agreement()
