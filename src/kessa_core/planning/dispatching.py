"""Plans without a search: as people work who take the most urgent next, and one test after the
other. Windows may be broken. They are what a search begins with, and what it is compared with."""

from dataclasses import dataclass, field

from kessa_core.planning.plan import Times
from kessa_core.planning.problem import Hands, PlannedTest, PlanProblem, Standing

FAR = 10**9


def one_after_the_other(problem: PlanProblem) -> Times:
    """Each test to its end before the next begins: by priority, then as listed. People do not
    share."""
    return _Work(problem, alone=True).done()


def most_urgent_first(problem: PlanProblem) -> Times:
    """Whoever is free takes what is due soonest, of new tests the most perishable."""
    return _Work(problem).done()


@dataclass
class _Under:
    """A test under way. next: its next phase; since: when the phase before it ended."""

    test: PlannedTest
    next: int = 0
    since: int = 0
    holding: set[str] = field(default_factory=set)

    @property
    def is_done(self) -> bool:
        return self.next == len(self.test.phases)


class _Work:
    """A clock, hands, and what each is at."""

    def __init__(self, problem: PlanProblem, alone: bool = False) -> None:
        self.problem = problem
        self.alone = alone
        self.times: dict[tuple[str, int], tuple[int, int]] = {}
        self.under = [self._begun(test) for test in problem.tests]
        free = sorted(self._busy(), reverse=True)[: problem.people]
        self.free = [*free, *[problem.now_s] * (problem.people - len(free))]
        order = sorted(range(len(self.under)), key=lambda n: (problem.tests[n].priority, n))
        self.rank = {problem.tests[n].id: place for place, n in enumerate(order)}

    def _begun(self, test: PlannedTest) -> _Under:
        fixed = self.problem.fixed_of(test)
        one = _Under(test, 0, max(self.problem.now_s, test.sampled_s))
        for at, placed in sorted(fixed.items()):
            phase = test.phases[at]
            end = placed.end_s
            if isinstance(phase, Hands):
                end = placed.start_s + phase.seconds if end is None else end
            elif at + 1 not in fixed:
                last = at + 1 == len(test.phases)
                if not last or end is None or end > self.problem.now_s:
                    end = placed.start_s + phase.at_least_s
            elif end is None:
                end = fixed[at + 1].start_s
            self.times[test.id, at] = (placed.start_s, end)
            one.next, one.since = at + 1, end
            one.holding = _still_held(test, at)
        return one

    def _busy(self) -> list[int]:
        ends = [
            self.times[one.test.id, at][1]
            for one in self.under
            for at in range(one.next)
            if isinstance(one.test.phases[at], Hands)
        ]
        return [end for end in ends if end > self.problem.now_s]

    def done(self) -> Times:
        """Every phase in its time."""
        while left := [one for one in self.under if not one.is_done]:
            one = min(left, key=self._turn)
            self._do(one)
        return self.times

    def _turn(self, one: _Under) -> tuple[float, ...]:
        """What is done first has the least: possible soonest, then due soonest."""
        blocked = not self._is_free(one)
        rank = self.rank[one.test.id]
        if self.alone:
            return (blocked, one.next == 0, rank)
        ready = max(one.since, min(self.free))
        return (blocked, ready, self._due(one), one.next == 0, rank)

    def _is_free(self, one: _Under) -> bool:
        """Whether nobody else holds what is needed, and what has to be over is over."""
        if one.next == 0:
            ended = {u.test.id for u in self.under if u.is_done}
            if not ended.issuperset(one.test.after):
                return False
        needed = set(one.test.phases[one.next].holds) - one.holding
        return not any(needed & u.holding for u in self.under if u is not one)

    def _due(self, one: _Under) -> int:
        """When its next hands have to begin."""
        if one.next == 0:
            latest = one.test.latest_start
            return FAR + self.rank[one.test.id] if latest is None else latest
        before = one.test.phases[one.next - 1]
        began, ended = self.times[one.test.id, one.next - 1]
        if isinstance(before, Hands):
            return ended if before.then_at_once else FAR
        return FAR if before.at_most_s is None else began + before.at_most_s

    def _do(self, one: _Under) -> None:
        """The next phases up to the end of hands that are followed by others at once."""
        test, last = one.test, len(one.test.phases) - 1
        if self.alone and one.next == 0:
            one.since = max([one.since, *(end for _, end in self.times.values())])
        at_once = True
        while at_once and not one.is_done:
            phase = test.phases[one.next]
            if isinstance(phase, Standing):
                at_once = self._stand(one, phase)
                continue
            person = min(range(len(self.free)), key=lambda n: self.free[n])
            start = max(one.since, self.free[person], self._since_freed(one))
            if one.next and isinstance(test.phases[one.next - 1], Standing):
                began = self.times[test.id, one.next - 1][0]
                self.times[test.id, one.next - 1] = (began, start)
            self._keep(one, start, start + phase.seconds)
            self.free[person] = start + phase.seconds
            at_once = phase.then_at_once or (
                one.next <= last and isinstance(test.phases[one.next], Standing)
            )

    def _stand(self, one: _Under, phase: Standing) -> bool:
        """A wait begins; nobody stands beside it. Whether what follows belongs to this turn."""
        self._keep(one, one.since, one.since + phase.at_least_s)
        if self.alone:
            return True
        return not one.is_done and isinstance(one.test.phases[one.next], Standing)

    def _since_freed(self, one: _Under) -> int:
        """When the equipment it needs was put down by others, and what it comes after was over."""
        needed = set(one.test.phases[one.next].holds) - one.holding
        after = one.test.after if one.next == 0 else ()
        since = self.problem.now_s
        for other in self.under:
            for at in range(other.next):
                if other is not one and needed & set(other.test.phases[at].holds):
                    since = max(since, self.times[other.test.id, at][1])
            if other.test.id in after:
                since = max(since, self.times[other.test.id, other.next - 1][1])
        return since

    def _keep(self, one: _Under, start: int, end: int) -> None:
        self.times[one.test.id, one.next] = (start, end)
        one.holding = _still_held(one.test, one.next)
        one.next += 1
        one.since = end


def _still_held(test: PlannedTest, at: int) -> set[str]:
    """What is held after this phase: all through a wait, after hands what the next phase needs."""
    if at + 1 == len(test.phases):
        return set()
    phase = test.phases[at]
    held = set(phase.holds)
    return held if isinstance(phase, Standing) else held & set(test.phases[at + 1].holds)
