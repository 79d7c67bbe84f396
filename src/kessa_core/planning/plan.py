"""A plan: when each phase starts and ends, who does it, and what will be late."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any, Literal

from kessa_core.planning.problem import Hands, PlanProblem, Standing

Status = Literal["optimal", "feasible", "late"]
Times = Mapping[tuple[str, int], tuple[int, int]]
"""Start and end of each phase, by test and its place in it."""


@dataclass(frozen=True)
class PlannedPhase:
    """person: who does it, counted from 1; none for a wait."""

    test: str
    phase: int
    start_s: int
    end_s: int
    person: int | None


@dataclass(frozen=True)
class Late:
    """What comes too late, by how much. phase: the wait that becomes too long; at a start, the
    first phase."""

    test: str
    phase: int
    what: Literal["start_within_s", "at_most_s", "then_at_once"]
    seconds: int


@dataclass(frozen=True)
class Plan:
    """bound_s: no plan ends sooner, as far as that is proven."""

    status: Status
    makespan_s: int
    bound_s: int
    lateness_s: int
    phases: tuple[PlannedPhase, ...]
    late: tuple[Late, ...]

    @property
    def gap(self) -> float:
        """How much sooner it might be over at best, as a share of how long it takes."""
        return (self.makespan_s - self.bound_s) / self.makespan_s if self.makespan_s > 0 else 0.0

    def as_plain(self) -> dict[str, Any]:
        """The form in which it is written and read."""
        return asdict(self) | {
            "phases": [asdict(one) for one in self.phases],
            "late": [asdict(one) for one in self.late],
        }


def late_of(problem: PlanProblem, times: Times) -> Iterator[Late]:
    """Every window that these times do not keep."""
    for test in problem.tests:
        latest = test.latest_start
        first = times[test.id, 0][0]
        if latest is not None and first > latest:
            yield Late(test.id, 0, "start_within_s", first - latest)
        for at, phase in enumerate(test.phases):
            start, end = times[test.id, at]
            if isinstance(phase, Standing):
                most = phase.at_most_s
                if most is not None and end - start > most:
                    yield Late(test.id, at, "at_most_s", end - start - most)
            elif phase.then_at_once and at + 1 < len(test.phases):
                gap = times[test.id, at + 1][0] - end
                if gap > 0:
                    yield Late(test.id, at, "then_at_once", gap)


def with_people(problem: PlanProblem, times: Times) -> tuple[PlannedPhase, ...]:
    """Every phase with who does it: who is free, and of these the one who did the phase before it.

    There is always somebody: no more phases run at once than there are people.
    """
    phases = {
        (test.id, at): phase for test in problem.tests for at, phase in enumerate(test.phases)
    }
    said = {(placed.test, placed.phase): placed.person for placed in problem.fixed}
    free_from = dict.fromkeys(range(1, problem.people + 1), -(10**9))
    last: dict[str, int] = {}
    made = {}
    for key in _in_order(times, said):
        start, end = times[key]
        person = None
        if isinstance(phases[key], Hands):
            given = said.get(key)
            person = given if given is not None else _somebody(free_from, start, last.get(key[0]))
            free_from[person] = max(free_from.get(person, end), end)
            last[key[0]] = person
        made[key] = PlannedPhase(*key, start, end, person)
    return tuple(made[key] for key in phases)


def _in_order(times: Times, said: Mapping[tuple[str, int], Any]) -> Sequence[tuple[str, int]]:
    """By start; what has begun comes first, then what takes no time."""
    return sorted(times, key=lambda key: (times[key][0], key not in said, times[key][1], key))


def _somebody(free_from: dict[int, int], start: int, before: int | None) -> int:
    free = [person for person, since in free_from.items() if since <= start]
    if before in free and before is not None:
        return before
    return min(free or free_from, key=lambda person: (free_from[person], person))
