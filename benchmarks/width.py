"""How wide the interval is beside the exact posterior with the sizes known.

The exact one by keeping, of many runs drawn by the forward model for truths even on the scale,
those that read just the same. For a run each at a fifth, half and four fifths of the scale. Prints
the table of docs/science/coverage.md. ./kessa bench width [DRAWS] [METHOD ...]
"""

import sys
from collections.abc import Sequence
from multiprocessing import Pool

import numpy as np
from benchmarks.coverage import Look, diluting, forward, span, value_of

from kessa_core.influences.intervals import quantiles
from kessa_core.methods import shipped
from kessa_core.methods.stage import Stage
from kessa_core.readings.reading import Reading

DRAWS = next((int(a) for a in sys.argv[1:] if a.isdecimal()), 400_000)
STAGES = (
    ("chloride-burette", 0), ("hardness-burette", 0), ("hardness-burette", 1),
    ("chloride-drops-15ml", 0), ("alkalinity-tablets", 0), ("phosphate-photometer", 0),
    ("iron-photometer", 0), ("nitrate-comparator", 0), ("oxygen-syringe", 0),
)  # fmt: skip
NAMED = [a for a in sys.argv[1:] if not a.isdecimal()]
"""Methods to run; all of STAGES where none is named."""
PLACES = (0.2, 0.5, 0.8)
WINDOW = 2.0
"""Nine truths of ten are drawn over so many times the interval, about its middle, and weighted for
it; the tenth over the whole scale, where slips come from."""
NEAR = 0.9
FEWEST = 150


def run(stage: Stage, look: Look, truth: float) -> tuple[list[Reading], list[Reading]]:
    """The blank where it is taken off, and as many determinations as the rule begins with."""
    beside = [look(0.0)] if stage.blank and stage.blank.subtract else []
    return beside, [look(truth) for _ in range(stage.repeats.least)]


def same(stage: Stage, seen: Sequence[Reading]) -> tuple[object, ...]:
    """What has to be alike: places and kinds, in any order."""
    reader = stage.reader()
    return tuple(sorted((reader.half_steps(one), one.kind) for one in seen))


def width(task: tuple[str, int, float]) -> str:
    """A line of the table."""
    method_id, at, place = task
    stage = shipped(method_id).stages[at]
    rng = np.random.default_rng([7, at, len(method_id), int(10 * place)])
    bench, drawn = forward(stage, rng), span(stage)
    middle = drawn.low + (drawn.high - drawn.low) * place
    beside, samples = run(stage, diluting(stage, bench(), rng), drawn.value(middle))
    value = value_of(stage, tuple(beside), tuple(samples))
    assert value is not None
    low, high = value.interval.low or 0.0, value.interval.high or 0.0
    grid = np.linspace(drawn.low, drawn.high, 4000)
    worth = np.array([drawn.value(float(u)) for u in grid])
    ends = np.interp([low, high], worth, grid)
    about, half = ends.mean(), (ends[1] - ends[0]) / 2 * WINDOW
    first, last = max(about - half, drawn.low), min(about + half, drawn.high)
    wanted = same(stage, beside), same(stage, samples)
    whole, part = drawn.high - drawn.low, last - first
    kept, weights = [], []
    for _ in range(DRAWS):
        ends_here = (first, last) if rng.random() < NEAR else (drawn.low, drawn.high)
        u = float(rng.uniform(*ends_here))
        truth = drawn.value(u)
        look = diluting(stage, bench(), rng)
        found = [look(truth)]
        if found[0].kind != samples[0].kind:
            continue
        if (stage.reader().half_steps(found[0]), found[0].kind) not in wanted[1]:
            continue
        found += [look(truth) for _ in samples[1:]]
        if (
            same(stage, found) == wanted[1]
            and same(stage, [look(0.0) for _ in beside]) == wanted[0]
        ):
            kept.append(truth)
            weights.append(1 / ((1 - NEAR) / whole + NEAR * (first <= u <= last) / part))
    exact = 0.0
    if len(kept) > FEWEST:
        below, above = quantiles(np.array(kept), np.array(weights), (0.025, 0.975))
        exact = above - below
    ratio = f"{(high - low) / exact:.3f}" if exact else ""
    return (
        f"| {method_id} | {stage.id} | {place} | {value.text} | {low:.4g} to {high:.4g} "
        f"| {exact:.4g} | {ratio} | {len(kept)} |"
    )


def main() -> None:
    """The table."""
    print("| method | stage | place | value | interval | exact width | ratio | kept |")
    print("| --- | --- | --- | --- | --- | --- | --- | --- |")
    stages = [one for one in STAGES if not NAMED or one[0] in NAMED]
    tasks = [(*one, place) for one in stages for place in PLACES]
    with Pool() as pool:
        for line in pool.imap(width, tasks):
            print(line, flush=True)


if __name__ == "__main__":
    main()
