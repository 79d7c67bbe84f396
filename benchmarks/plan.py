"""./kessa bench plan [SETS] [VISITS]: the bench plan on drawn tests of the shipped methods.

First drawn sets of 4 to 16 tests: is the makespan proven within a second, and how large is the gap
where it is not. Then visits of eight tests, done by hands whose durations are drawn, and planned
again after every act: how long they take against the same hands one test after the other and taking
the most urgent first, and which windows break.
"""

import random
import statistics
import sys
import time
from collections.abc import Callable, Sequence

from kessa_core.methods import shipped
from kessa_core.methods.catalogue import shipped_ids
from kessa_core.planning import Hands, PlannedTest, PlanProblem, Standing, find_plan
from kessa_core.planning.allowance import for_slow_hands
from kessa_core.planning.dispatching import most_urgent_first, one_after_the_other
from kessa_core.planning.from_method import work_of
from kessa_core.planning.plan import Times, late_of

SETS, VISITS, SEED = 40, 200, 15
SIZES = (4, 6, 8, 10, 12, 16)
A_SECOND, AGAIN_S = 1.0, 0.3
TESTS_OF_A_VISIT = 8
SPREAD = 0.25
"""Hands take so much longer or shorter than planned: the standard deviation of the logarithm."""
AT_THE_BENCH = [
    key for key in shipped_ids() if work_of(shipped(key)).phases and key != "thermometer-air"
]
Order = Callable[[PlanProblem], Times]


def tests_of(keys: Sequence[str]) -> tuple[PlannedTest, ...]:
    """These methods as tests of one sample."""
    return tuple(work_of(shipped(key)).as_test(key, shipped(key)) for key in keys)


def drawn_sets(count: int, rng: random.Random) -> None:
    """The table of sizes."""
    print("tests  sets  proven  longest s  gap of the others  late")
    for place, size in enumerate(SIZES):
        share = count // len(SIZES) + (place < count % len(SIZES))
        proven, took, gaps, late = 0, [], [], 0
        for _ in range(share):
            problem = PlanProblem(tests=tests_of(rng.sample(AT_THE_BENCH, size)))
            begun = time.perf_counter()
            plan = find_plan(problem, A_SECOND)
            took.append(time.perf_counter() - begun)
            late += plan.status == "late"
            if plan.bound_s == plan.makespan_s:
                proven += 1
            else:
                gaps.append(plan.gap)
        gap = f"{100 * max(gaps):.1f} % at most" if gaps else "-"
        print(f"{size:5} {share:5} {proven:7} {max(took):10.2f}  {gap:17} {late:5}")


class Doing:
    """A visit as it is done: each phase takes what it was drawn to take, whoever says when."""

    def __init__(self, problem: PlanProblem, rng: random.Random) -> None:
        self.problem = problem
        self.real = {
            (test.id, at): max(1, round(phase.seconds * rng.lognormvariate(0, SPREAD)))
            for test in problem.tests
            for at, phase in enumerate(test.phases)
            if isinstance(phase, Hands)
        }
        self.times: dict[tuple[str, int], tuple[int, int]] = {}
        self.now = 0
        self.plans = 0
        self.slowest = 0.0

    def next_of(self, order: Order) -> tuple[str, int, int] | None:
        """The hands that this order wants next, and when."""
        times = order(self.again())
        left = [
            (start, key)
            for key, (start, _) in times.items()
            if key in self.real and key not in self.times
        ]
        if not left:
            return None
        start, (test, phase) = min(left)
        return test, phase, start

    def again(self, previous: dict[str, object] | None = None) -> PlanProblem:
        """What is left, from where the hands are."""
        fixed = [
            {"test": test, "phase": at, "start_s": start, "end_s": end}
            for (test, at), (start, end) in self.times.items()
        ]
        given = self.problem.model_dump() | {"now_s": self.now, "fixed": fixed}
        return PlanProblem.model_validate(given | {"previous": previous})

    def do(self, test: str, phase: int, start: int) -> None:
        """These hands, and the wait that ends with them."""
        begin = max(start, self.now)
        if (test, phase - 1) in self.times and (test, phase - 1) not in self.real:
            since = self.times[test, phase - 1][0]
            self.times[test, phase - 1] = (since, begin)
        end = begin + self.real[test, phase]
        self.times[test, phase] = (begin, end)
        phases = next(one.phases for one in self.problem.tests if one.id == test)
        if phase + 1 < len(phases) and isinstance(following := phases[phase + 1], Standing):
            self.times[test, phase + 1] = (end, end + following.at_least_s)
        self.now = end

    def by_plan(self) -> None:
        """Planned again after every act."""
        previous: dict[str, object] | None = None
        while True:
            begun = time.perf_counter()
            plan = find_plan(for_slow_hands(self.again(previous)), AGAIN_S)
            self.slowest = max(self.slowest, time.perf_counter() - begun)
            previous = plan.as_plain()
            left = [
                (one.start_s, one.test, one.phase)
                for one in plan.phases
                if (one.test, one.phase) in self.real and (one.test, one.phase) not in self.times
            ]
            if not left:
                return
            start, test, phase = min(left)
            self.plans += 1
            self.do(test, phase, start)

    def by_order(self, order: Order) -> None:
        """By a rule that looks no further ahead."""
        while following := self.next_of(order):
            self.do(*following)

    @property
    def took(self) -> int:
        """Seconds until the last phase has ended."""
        return max(end for _, end in self.times.values())

    @property
    def broken(self) -> list[int]:
        """By how much each broken window was broken."""
        return [one.seconds for one in late_of(self.problem, self.times)]


def visits(count: int, rng: random.Random) -> None:
    """The same hands three times."""
    shares: dict[str, list[float]] = {"one after the other": [], "most urgent first": []}
    broken: dict[str, list[int]] = {"planned": [], **{name: [] for name in shares}}
    with_broken = dict.fromkeys(broken, 0)
    slowest, plans = 0.0, 0
    for _ in range(count):
        problem = PlanProblem(tests=tests_of(rng.sample(AT_THE_BENCH, TESTS_OF_A_VISIT)))
        seed = rng.random()
        planned = Doing(problem, random.Random(seed))
        planned.by_plan()
        slowest, plans = max(slowest, planned.slowest), plans + planned.plans
        done = {"planned": planned}
        orders = zip(shares, (one_after_the_other, most_urgent_first), strict=True)
        for name, order in orders:
            done[name] = Doing(problem, random.Random(seed))
            done[name].by_order(order)
            shares[name].append(planned.took / done[name].took)
        for name, one in done.items():
            broken[name] += one.broken
            with_broken[name] += bool(one.broken)
    for name, found in shares.items():
        cuts = statistics.quantiles(found, n=20)
        print(
            f"time against {name}: median {100 * statistics.median(found):.0f} %, "
            f"5 to 95 %: {100 * cuts[0]:.0f} to {100 * cuts[-1]:.0f} %"
        )
    for name, found in broken.items():
        most = f", by {max(found)} s at most" if found else ""
        print(f"windows broken, {name}: {len(found)} in {with_broken[name]} visits{most}")
    print(f"planned again {plans} times, at most {slowest:.2f} s")


def main() -> None:
    """Both tables."""
    counts = [int(one) for one in sys.argv[1:]]
    rng = random.Random(SEED)
    drawn_sets(counts[0] if counts else SETS, rng)
    visits(counts[1] if len(counts) > 1 else VISITS, rng)


if __name__ == "__main__":
    main()
