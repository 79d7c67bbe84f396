"""The plan as a constraint model: OR-tools CP-SAT, an interval for each phase."""

from collections.abc import Iterator
from itertools import groupby
from math import lcm

from ortools.sat.python import cp_model
from ortools.sat.python.cp_model import IntervalVar, IntVar, LinearExpr

from kessa_core.planning.plan import Times
from kessa_core.planning.problem import Hands, Phase, Placed, PlannedTest, PlanProblem, Standing

Key = tuple[str, int]
When = LinearExpr | IntVar | int
"""A moment, or a number of seconds: known, or to be found."""


class PlanModel:
    """start, end: of each phase, a number where it is known. late: what each window is broken by,
    only in a model where windows may be broken."""

    def __init__(self, problem: PlanProblem, *, may_be_late: bool) -> None:
        self.problem = problem
        self.may_be_late = may_be_late
        self.model = cp_model.CpModel()
        self.begins = earliest(problem)
        self.horizon = latest_end(problem)
        self.start: dict[Key, When] = {}
        self.end: dict[Key, When] = {}
        self.late: list[When] = []
        for test in problem.tests:
            self._place(test)
        for test in problem.tests:
            self._relate(test)
        self._share_hands()
        self._share_equipment()
        self.makespan = self._moment("makespan")
        for test in problem.tests:
            self.model.add(self.makespan >= self.end[test.id, len(test.phases) - 1])

    def _moment(self, name: str, low: int | None = None) -> IntVar:
        low = self.begins if low is None else low
        return self.model.new_int_var(low, max(self.horizon, low), name)

    # Each phase in its time.

    def _place(self, test: PlannedTest) -> None:
        fixed = self.problem.fixed_of(test)
        earliest_start = max(self.problem.now_s, test.sampled_s)
        for at, phase in enumerate(test.phases):
            key = (test.id, at)
            placed = fixed.get(at)
            if placed:
                self.start[key] = placed.start_s
                self.end[key] = self._end_of_begun(test, at, phase, placed, at + 1 in fixed)
                continue
            begun = isinstance(phase, Standing) and at - 1 in fixed
            if begun and isinstance(self.end[test.id, at - 1], int):
                self.start[key] = self.end[test.id, at - 1]
            else:
                self.start[key] = self._moment(f"{test.id}.{at}", earliest_start)
            self.end[key] = self._end_of(test, at, phase)

    def _end_of_begun(
        self, test: PlannedTest, at: int, phase: Phase, placed: Placed, followed: bool
    ) -> When:
        if isinstance(phase, Hands):
            planned = placed.start_s + phase.seconds
            return planned if placed.end_s is None else placed.end_s
        if followed:
            following = self.problem.fixed_of(test)[at + 1].start_s
            return following if placed.end_s is None else placed.end_s
        if at == len(test.phases) - 1:
            ended = placed.end_s is not None and placed.end_s <= self.problem.now_s
            return placed.end_s or 0 if ended else placed.start_s + phase.at_least_s
        return self._moment(f"{test.id}.{at}.end", self.problem.now_s)

    def _end_of(self, test: PlannedTest, at: int, phase: Phase) -> When:
        start = self.start[test.id, at]
        if isinstance(phase, Hands):
            return start + phase.seconds
        if at == len(test.phases) - 1:
            return start + phase.at_least_s
        return self._moment(f"{test.id}.{at}.end")

    # What has to follow what, and when.

    def _relate(self, test: PlannedTest) -> None:
        fixed = self.problem.fixed_of(test)
        if 0 not in fixed:
            if test.latest_start is not None:
                self._not_after(self.start[test.id, 0], test.latest_start)
            for other in test.after:
                last = len(self._test(other).phases) - 1
                self.model.add(self.start[test.id, 0] >= self.end[other, last])
        for at, phase in enumerate(test.phases):
            if at + 1 < len(test.phases) and at + 1 not in fixed:
                self._follow(test, at, phase)
            if isinstance(phase, Standing) and at + 1 not in fixed:
                self._keep_window(test, at, phase)

    def _follow(self, test: PlannedTest, at: int, phase: Phase) -> None:
        end, following = self.end[test.id, at], self.start[test.id, at + 1]
        waits = isinstance(phase, Standing) or isinstance(test.phases[at + 1], Standing)
        if waits:
            if not isinstance(end, int) or not isinstance(following, int):
                self.model.add(following == end)
            return
        self.model.add(following >= end)
        if not isinstance(phase, Hands) or not phase.then_at_once:
            return
        if isinstance(end, int):
            self._not_after(following, max(end, self.problem.now_s))
        else:
            self.model.add(following == end)

    def _keep_window(self, test: PlannedTest, at: int, phase: Standing) -> None:
        start, end = self.start[test.id, at], self.end[test.id, at]
        if at == len(test.phases) - 1:
            return
        self.model.add(end - start >= phase.at_least_s)
        if phase.at_most_s is not None:
            self._not_after(end - start, phase.at_most_s)

    def _not_after(self, moment: When, latest: int) -> None:
        if not self.may_be_late:
            self.model.add(moment <= latest)
            return
        most = max(self.horizon - min(self.begins, latest), 0) + 1
        over = self.model.new_int_var(0, most, "late")
        self.model.add(moment - over <= latest)
        self.late.append(over)

    def _test(self, name: str) -> PlannedTest:
        return next(test for test in self.problem.tests if test.id == name)

    # What there is only so much of.

    def _share_hands(self) -> None:
        busy = sorted(self._busy_now(), reverse=True)[: self.problem.people]
        now = self.problem.now_s
        intervals = [self.model.new_fixed_size_interval_var(now, until - now, "") for until in busy]
        for test in self.problem.tests:
            fixed = self.problem.fixed_of(test)
            for at, phase in enumerate(test.phases):
                if isinstance(phase, Hands) and at not in fixed and phase.seconds:
                    start = self.start[test.id, at]
                    name = f"hands {test.id}.{at}"
                    made = self.model.new_fixed_size_interval_var(start, phase.seconds, name)
                    intervals.append(made)
        if self.problem.people == 1:
            self.model.add_no_overlap(intervals)
        else:
            self.model.add_cumulative(intervals, [1] * len(intervals), self.problem.people)

    def _busy_now(self) -> Iterator[int]:
        """Until when each person who has something in hand is busy with it."""
        for test in self.problem.tests:
            for at in self.problem.fixed_of(test):
                end = self.end[test.id, at]
                if not isinstance(test.phases[at], Hands) or not isinstance(end, int):
                    continue
                if end > self.problem.now_s:
                    yield end

    def _share_equipment(self) -> None:
        """Those who hold a piece already may, if it came so, be two; nobody else takes it then."""
        pieces = sorted({p for t in self.problem.tests for phase in t.phases for p in phase.holds})
        for piece in pieces:
            held: list[IntervalVar] = []
            to_come: list[IntervalVar] = []
            for test in self.problem.tests:
                for first, last in _held_through(test, piece):
                    begun = first in self.problem.fixed_of(test)
                    made = self._holding(test, piece, first, last, begun)
                    if made is not None:
                        (held if begun else to_come).append(made)
            for one in held:
                self.model.add_no_overlap([one, *to_come])
            if not held:
                self.model.add_no_overlap(to_come)

    def _holding(
        self, test: PlannedTest, piece: str, first: int, last: int, begun: bool
    ) -> IntervalVar | None:
        start = self.problem.now_s if begun else self.start[test.id, first]
        end = self.end[test.id, last]
        if begun and isinstance(end, int) and end <= self.problem.now_s:
            return None
        size = self.model.new_int_var(0, max(self.horizon - self.begins, 0), "")
        self.model.add(size == end - start)
        name = f"{piece} {test.id}.{first}"
        if begun or any(_takes_time(test.phases[at]) for at in range(first, last + 1)):
            return self.model.new_interval_var(start, size, end, name)
        taken = self.model.new_bool_var("")
        self.model.add(size == 0).only_enforce_if(~taken)
        return self.model.new_optional_interval_var(start, size, end, taken, name)

    # What is wanted.

    @property
    def starts(self) -> When:
        """The sum of start ÷ priority over the tests that have not begun, in whole numbers."""
        every = lcm(*(test.priority for test in self.problem.tests))
        return sum(
            self.start[test.id, 0] * (every // test.priority)
            for test in self.problem.tests
            if not self.problem.fixed_of(test)
        )

    def far_from(self, times: Times) -> When:
        """By how much the starts of what is still to begin differ from an earlier plan's."""
        apart: list[When] = []
        for key, (start, _) in times.items():
            mine = self.start.get(key)
            if mine is None or isinstance(mine, int):
                continue
            furthest = max(abs(self.horizon - start), abs(self.begins - start))
            differs = self.model.new_int_var(0, furthest, "")
            self.model.add(differs >= mine - start)
            self.model.add(differs >= start - mine)
            apart.append(differs)
        return sum(apart)

    def hint(self, times: Times) -> None:
        """Where to look first."""
        self.model.clear_hints()  # type: ignore[no-untyped-call]
        known: set[int] = set()
        for key, (start, end) in times.items():
            for expression, moment in ((self.start.get(key), start), (self.end.get(key), end)):
                if isinstance(expression, IntVar) and expression.index not in known:
                    known.add(expression.index)
                    self.model.add_hint(expression, moment)


def _held_through(test: PlannedTest, piece: str) -> Iterator[tuple[int, int]]:
    """First and last phase of each stretch in which the piece is held."""
    for holds, group in groupby(enumerate(test.phases), lambda one: piece in one[1].holds):
        if holds:
            at = [place for place, _ in group]
            yield at[0], at[-1]


def _takes_time(phase: Phase) -> bool:
    return bool(phase.seconds if isinstance(phase, Hands) else phase.at_least_s)


def earliest(problem: PlanProblem) -> int:
    """No phase starts before."""
    known = [placed.start_s for placed in problem.fixed]
    to_come = [max(problem.now_s, test.sampled_s) for test in problem.tests]
    return min([*known, *to_come, problem.now_s])


def latest_end(problem: PlanProblem) -> int:
    """Even one after the other, with every wait at its shortest, all is over by then."""
    ends = [placed.end_s or placed.start_s for placed in problem.fixed]
    starts = [problem.now_s, *(test.sampled_s for test in problem.tests), *ends]
    phases = [phase for test in problem.tests for phase in test.phases]
    return max(starts) + sum(
        phase.seconds if isinstance(phase, Hands) else phase.at_least_s for phase in phases
    )
