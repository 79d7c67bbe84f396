"""Finding the plan: first whether every window can be kept, else the least lateness; then the
shortest time; of equally short plans the one that starts the perishable first, of those the one
nearest to the plan before."""

import time
from dataclasses import dataclass

from ortools.sat.python import cp_model

from kessa_core.planning.building import PlanModel, When
from kessa_core.planning.dispatching import most_urgent_first, one_after_the_other
from kessa_core.planning.plan import Plan, Status, Times, late_of, with_people
from kessa_core.planning.problem import PlanProblem

FOR_THE_TIME = 0.85
"""Share of the time in which the makespan is sought; the order of equally good plans has the rest,
and what the makespan left over."""
WORKERS = 4
SEED = 7


@dataclass
class _Search:
    """What is left of the time, and what is known so far."""

    ends: float
    solver: cp_model.CpSolver

    @property
    def left(self) -> float:
        return self.ends - time.monotonic()

    def least(self, built: PlanModel, wanted: When, seconds: float) -> "_Found | None":
        """The least of *wanted*; None where none was found in time. Raises NoPlan."""
        built.model.minimize(wanted)
        self.solver.parameters.max_time_in_seconds = max(seconds, 0.01)
        status = self.solver.solve(built.model)
        if status == cp_model.INFEASIBLE:
            raise NoPlan
        if status == cp_model.MODEL_INVALID:
            raise RuntimeError(built.model.validate())
        if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return None
        times = {
            key: (self.solver.value(built.start[key]), self.solver.value(built.end[key]))
            for key in built.start
        }
        value = round(self.solver.objective_value)
        bound = -int(-self.solver.best_objective_bound // 1)
        return _Found(times, value, min(bound, value), status == cp_model.OPTIMAL)


class NoPlan(Exception):
    """Not every window can be kept."""


@dataclass(frozen=True)
class _Found:
    times: Times
    value: int
    bound: int
    is_proven: bool


def find_plan(problem: PlanProblem, seconds: float = 1.0) -> Plan:
    """The best plan found in about *seconds*.

    Source: the statement of the problem in docs/science/planning.md.
    """
    if not problem.tests:
        return Plan("optimal", 0, 0, 0, (), ())
    search = _Search(time.monotonic() + seconds, _solver())
    first_guess = _guess(problem)
    try:
        found = _in_time(problem, search, first_guess, seconds)
        if found:
            return _plan(problem, found)
    except NoPlan:
        pass
    return _plan(problem, _late(problem, search, first_guess, seconds))


def _solver() -> cp_model.CpSolver:
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = WORKERS
    solver.parameters.random_seed = SEED
    return solver


def _in_time(problem: PlanProblem, search: _Search, guess: Times, seconds: float) -> _Found | None:
    """The shortest plan that keeps every window. Raises NoPlan where there is none."""
    built = PlanModel(problem, may_be_late=False)
    built.hint(guess)
    found = search.least(built, built.makespan, seconds * FOR_THE_TIME)
    return _in_order(built, search, found) if found else None


def _late(problem: PlanProblem, search: _Search, guess: Times, seconds: float) -> _Found:
    """The plan of least lateness, and of these the shortest."""
    built = PlanModel(problem, may_be_late=True)
    built.hint(guess)
    lateness = sum(built.late)
    least = search.least(built, lateness, max(search.left, seconds / 2) * FOR_THE_TIME)
    if least is None:
        times = one_after_the_other(problem)
        return _Found(times, max(end for _, end in times.values()), 0, False)
    built.model.add(lateness <= least.value)
    built.hint(least.times)
    found = search.least(built, built.makespan, search.left * FOR_THE_TIME)
    if found is None:
        last = max(end for _, end in least.times.values())
        return _Found(least.times, last, built.begins, False)
    proven = found.is_proven and least.is_proven
    found = _Found(found.times, found.value, found.bound, proven)
    return _in_order(built, search, found)


def _in_order(built: PlanModel, search: _Search, found: _Found) -> _Found:
    """Of equally short plans the one that starts the perishable first, then the nearest to the plan
    before; as far as the time goes."""
    times = found.times
    built.model.add(built.makespan <= found.value)
    earlier = built.problem.previous
    wanted = [built.starts]
    if earlier:
        before = {(one.test, one.phase): (one.start_s, one.end_s or 0) for one in earlier.phases}
        wanted.append(built.far_from(before))
    for one in wanted:
        if search.left <= 0 or isinstance(one, int):
            continue
        built.hint(times)
        better = search.least(built, one, search.left)
        if better is None:
            break
        times = better.times
        built.model.add(one <= better.value)
    return _Found(times, found.value, found.bound, found.is_proven)


def _guess(problem: PlanProblem) -> Times:
    """Where to look first: the plan before, completed by the order in which people would work."""
    urgent = dict(most_urgent_first(problem))
    if problem.previous is None:
        return urgent
    fixed = {(placed.test, placed.phase) for placed in problem.fixed}
    for one in problem.previous.phases:
        key = (one.test, one.phase)
        if key in urgent and key not in fixed and one.end_s is not None:
            urgent[key] = (one.start_s, one.end_s)
    return urgent


def _plan(problem: PlanProblem, found: _Found) -> Plan:
    late = tuple(late_of(problem, found.times))
    status: Status = "late" if late else "optimal" if found.is_proven else "feasible"
    return Plan(
        status,
        found.value,
        found.value if found.is_proven else found.bound,
        sum(one.seconds for one in late),
        with_people(problem, found.times),
        late,
    )
