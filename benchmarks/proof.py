"""The proof of the interval: two simulators, strata, forced thirds, slips, twenty limits.

Prints the tables of docs/science/interval.md and, with --plots FOLDER, draws them.
./kessa bench proof [RUNS] [--plots FOLDER]
"""

import sys
from collections import Counter
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
from benchmarks.plots import coverage_plot, limits_plot

from kessa_core.judging import judge
from kessa_core.judging.limits import Limit
from kessa_core.methods import Method, shipped, shipped_ids
from kessa_core.quantities import Value
from kessa_core.readings.seen import Seen
from kessa_core.simulation.dropwise import Dropwise, Hand, run
from kessa_core.simulation.hands import Habits, work

Drawn = tuple[Sequence[Seen], Sequence[Seen]]
METHODS = [
    name
    for name in shipped_ids()
    if shipped(name).stages[0].blank and shipped(name).stages[0].reading.by == "drop-count"
]
RUNS = next((int(a) for a in sys.argv[1:] if a.isdecimal()), 20_000)
THIRDS = 2_000
LIMITS = 20
FACTORS = (1.00, 1.03, 1.10)


def forward(method: Method, rng: np.random.Generator, slip: float) -> Callable[[float], Drawn]:
    """Runs drawn by the forward model."""

    def draw(truth: float) -> Drawn:
        session = work(method, truth, rng, Habits(slip=slip)).first
        return ([session.blank] if session.blank else []), session.samples

    return draw


def dropwise(method: Method, rng: np.random.Generator, slip: float) -> Callable[[float], Drawn]:
    """Runs drawn by the second simulator."""
    simulator = Dropwise(method, rng, Hand(slip))
    return lambda truth: run(simulator, truth)


SIMULATORS = {"forward model": forward, "drop by drop": dropwise}


def coverage(method: Method, draw: Callable[[float], Drawn], rng: np.random.Generator) -> Counter:
    """Hits and totals in strata; goes on until there are enough forced thirds."""
    reader = method.stages[0].reader()
    top = (method.stages[0].most - 2) * reader.at(2)
    seen: Counter[tuple[str, str]] = Counter()
    while seen["all", "n"] < RUNS or seen["forced third", "n"] < THIRDS:
        truth = rng.uniform(0, top)
        blanks, samples = draw(truth)
        if not blanks or samples[-1].kind == "beyond":
            continue
        third = len(samples) == 3
        if seen["all", "n"] >= RUNS and not third:
            continue
        names = ["forced third"] if third else []
        if seen["all", "n"] < RUNS:
            where = ("low", "middle", "high")[min(int(truth / top * 3), 2)]
            names += ["all", where, f"blank of {blanks[0].n}"]
            names += [] if third else ["two"]
            seen["first alone", "n"] += 1
            seen["first alone", "hit"] += reader.interval(samples[:1], blanks).holds(truth)
        hit = reader.interval(list(samples), list(blanks)).holds(truth)
        for name in names:
            seen[name, "n"] += 1
            seen[name, "hit"] += hit
    return seen


def called_within(
    method: Method, draw: Callable[[float], Drawn], truth: float, limit: float
) -> float:
    """The share of runs of *truth* that are called within *limit*, in percent."""
    bound = Limit(
        id="proof", parameter=method.quantity.parameter, form=method.quantity.form,
        basis=method.quantity.basis, unit=method.quantity.unit, max=f"{limit:.4g}", name="proof",
        tier="alert", statistic="each sample", document="made for the proof",
        within="within", beyond="beyond",
    )  # fmt: skip
    reader, wrong = method.stages[0].reader(), 0
    for _ in range(RUNS):
        blanks, samples = draw(truth)
        if samples[-1].kind == "beyond":
            continue
        interval = reader.interval(list(samples), list(blanks))
        value = Value(method.quantity, 0.0, 0, interval, clear=reader.clear(0.0))
        wrong += judge(value, bound).sign == "within"
    return 100 * wrong / RUNS


def limits_of(method: Method) -> list[float]:
    """Twenty limits across the range, the published ones of chloride among them."""
    stage = method.stages[0]
    top = (stage.most - 2) * stage.reader().at(2)
    published = [limit for limit in (120.0, 230.0, 250.0) if 0.1 * top < limit < top]
    spaced = np.linspace(0.15 * top, top, LIMITS - len(published))
    return sorted([*published, *(float(f"{limit:.4g}") for limit in spaced)])


def bounds(method: Method, rng: np.random.Generator) -> None:
    """How often "no change" gives a bound above the truth, for truths near the end of the range."""
    reader = method.stages[0].reader()
    for drops in (19, 20, 20.5, 21, 21.5, 22, 24):
        truth, wrong = drops * reader.at(2), 0
        for _ in range(RUNS // 10):
            session = work(method, truth, rng).first
            last = session.samples[-1]
            if last.kind == "beyond" and session.blank:
                wrong += not reader.interval([last], [session.blank]).holds(truth)
        print(f"| {method.id} | {drops} | {RUNS // 10} | {100 * wrong / (RUNS // 10):.1f} % |")


def main() -> None:
    """Print every table."""
    bars, curves = [], []
    print(
        "| method | simulator | slips | stratum | runs | holds the truth |\n" + "| --- " * 6 + "|"
    )
    for number, name in enumerate(METHODS):
        method = shipped(name)
        for simulator, make in SIMULATORS.items():
            for slip in (0.0, 0.02):
                rng = np.random.default_rng([number, int(slip * 100), len(simulator)])
                seen = coverage(method, make(method, rng, slip), rng)
                for stratum in sorted({s for s, _ in seen}, key=lambda s: (s != "all", s)):
                    n = seen[stratum, "n"]
                    share = 100 * seen[stratum, "hit"] / n
                    bars.append((name, simulator, slip, stratum, n, share))
                    cells = f"{simulator} | {100 * slip:g} % | {stratum} | {n} | {share:.1f} %"
                    print(f"| {name} | {cells} |")
    print("\n| method | simulator | limit | 1.00 | 1.03 | 1.10 |\n" + "| --- " * 6 + "|")
    for number, name in enumerate(METHODS):
        method = shipped(name)
        for simulator, make in SIMULATORS.items():
            draw = make(method, np.random.default_rng([7, number, len(simulator)]), 0.02)
            for limit in limits_of(method):
                wrong = [called_within(method, draw, limit * factor, limit) for factor in FACTORS]
                curves.append((name, simulator, limit, wrong))
                cells = " | ".join(f"{share:.1f} %" for share in wrong)
                print(f"| {name} | {simulator} | {limit:g} | {cells} |", flush=True)
    print("\n| method | truth in drops | runs | bound above the truth |\n" + "| --- " * 4 + "|")
    for number, name in enumerate(METHODS):
        bounds(shipped(name), np.random.default_rng(200 + number))
    if "--plots" in sys.argv:
        folder = Path(sys.argv[sys.argv.index("--plots") + 1])
        (folder / "coverage.svg").write_text(coverage_plot(bars), "utf-8")
        (folder / "limits.svg").write_text(limits_plot(curves), "utf-8")


if __name__ == "__main__":
    main()
