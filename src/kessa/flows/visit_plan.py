"""The tests of a visit as they stand, and the plan for what is left of them."""

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from kessa.platform import clock
from kessa.runs.models import Run
from kessa.runs.services import events_of_each
from kessa.visits.models import BenchPlan, Visit
from kessa_core.planning import Hands, PlanProblem, Standing, find_plan
from kessa_core.planning.allowance import for_slow_hands
from kessa_core.planning.progress import Rest, rest_of
from kessa_core.runs import Event

SEARCH_S = 0.3
"""How long a plan is sought while somebody waits for the page."""
PLAN_HOLDS_S = 20
"""Seconds by which hands may be behind the plan before it is made anew."""
IN_HAND_S = 600
"""After so many seconds without an act nobody's hands are taken to be at a test any more."""


@dataclass(frozen=True)
class TestUnderWay:
    """A test of the visit: its run, its acts and what is left of it. number: its place in the
    visit, by which its clock is told apart."""

    number: int
    run: Run
    events: Sequence[Event]
    rest: Rest

    @property
    def id(self) -> str:
        return str(self.run.pk)

    @property
    def short(self) -> str:
        """The test in a few words."""
        return self.run.method.short


@dataclass(frozen=True)
class Planned:
    """A phase that is planned. start, end: in seconds since 1970, with an allowance for slow hands;
    seconds: what hands take as the method says; hands: not a wait; person: whose hands, from 1.
    late_s: by how much its window is broken."""

    test: TestUnderWay
    label: str
    start: float
    end: float
    seconds: int
    hands: bool
    late_s: int
    person: int = 1


@dataclass(frozen=True)
class VisitPlan:
    """tests: all, in the order they were opened; phases: what is left, by start; over_at: when all
    is done, in seconds since 1970; people: who share the work; delayed: the runs that somebody
    chose to be late."""

    tests: tuple[TestUnderWay, ...]
    phases: tuple[Planned, ...]
    status: str
    over_at: float
    people: int = 1
    delayed: tuple[str, ...] = ()

    @property
    def next_hands(self) -> Planned | None:
        """What hands do now or next."""
        return next((one for one in self.phases if one.hands), None)

    def next_of(self, person: int) -> Planned | None:
        """What the hands of one person do now or next."""
        return next((one for one in self.phases if one.hands and one.person == person), None)

    @property
    def under_way(self) -> list[TestUnderWay]:
        """Those that have not ended."""
        return [one for one in self.tests if not one.run.finish]


def tests_of(visit: Visit) -> tuple[TestUnderWay, ...]:
    """The tests of a visit whose sample was taken, and that were not cancelled; two queries."""
    opened = Run.objects.of(visit.programme_id).of_visit(visit.pk)
    runs = [run for run in opened if run.sample.taken_at and run.sample.outcome == "taken"]
    events = events_of_each(visit.programme_id, runs)
    return tuple(
        TestUnderWay(
            number, run, events[run.pk], rest_of(run.method, events[run.pk], run.core_lots)
        )
        for number, run in enumerate(runs)
    )


def plan_visit(visit: Visit) -> VisitPlan:
    """The plan for what is left: the last one where it still holds, else a new one near to it."""
    tests = tests_of(visit)
    left = [one for one in tests if not one.run.finish and not one.rest.is_over]
    now = clock.now()
    kept = BenchPlan.objects.of(visit.programme_id).filter(visit=visit).first()
    people, delayed = (kept.people, tuple(kept.delayed)) if kept else (1, ())
    if not left:
        return VisitPlan(tests, (), "optimal", now.timestamp(), people)
    zero = min(one.run.sample.sampled_at for one in tests)
    made_from = _code(left)
    if kept and kept.made_from == made_from and not _behind(kept, now, zero):
        return _said(tests, kept.plan, zero, people, delayed)
    problem = problem_of_visit(left, zero, now, kept.plan if kept else None, people, delayed)
    plan = find_plan(problem, SEARCH_S).as_plain()
    BenchPlan.objects.of(visit.programme_id).update_or_create(
        programme_id=visit.programme_id,
        visit=visit,
        defaults={"made_from": made_from, "made_at": now, "plan": plan},
    )
    return _said(tests, plan, zero, people, delayed)


def share_work(visit: Visit, people: int) -> None:
    """So many people share the hands' work of a visit; it is planned again."""
    _plan_again(visit, people=people)


def delay(visit: Visit, run: Run, *, wanted: bool = True) -> None:
    """A test that has not begun may be late, so that the others keep their times; not *wanted*: it
    is to be in time again. The visit is planned again."""
    kept = BenchPlan.objects.of(visit.programme_id).filter(visit=visit).first()
    others = [one for one in (kept.delayed if kept else []) if one != str(run.pk)]
    _plan_again(visit, delayed=[*others, str(run.pk)] if wanted else others)


def _plan_again(visit: Visit, **chosen: Any) -> None:
    first = {"made_at": clock.now(), "plan": {"phases": []}}
    BenchPlan.objects.of(visit.programme_id).update_or_create(
        programme_id=visit.programme_id,
        visit=visit,
        defaults=chosen | {"made_from": ""},
        create_defaults=chosen | {"made_from": ""} | first,
    )


def plan_ahead(visit: Visit, of_points: Sequence[Sequence[Run]]) -> None:
    """Keep a plan for tests that are made ready, point by point: their order is known without a
    network, and what is planned later stays near to it. of_points: the runs of each sample."""
    phases: list[dict[str, Any]] = []
    for runs in of_points:
        tests = [
            work.as_test(str(run.pk), run.method)
            for run in runs
            if (work := rest_of(run.method, (), run.core_lots).work).phases
        ]
        plan = find_plan(for_slow_hands(PlanProblem(tests=tuple(tests))), SEARCH_S).as_plain()
        phases += plan["phases"]
    BenchPlan.objects.of(visit.programme_id).update_or_create(
        programme_id=visit.programme_id,
        visit=visit,
        defaults={"made_from": "", "made_at": clock.now(), "plan": {"phases": phases}},
    )


def planned_order(visit: Visit, runs: Sequence[Run]) -> list[Run]:
    """These runs in the order in which the last plan begins them; those it does not know last."""
    kept = BenchPlan.objects.of(visit.programme_id).filter(visit=visit).first()
    starts: dict[str, int] = {}
    for phase in kept.plan["phases"] if kept else ():
        starts.setdefault(phase["test"], phase["start_s"])
        starts[phase["test"]] = min(starts[phase["test"]], phase["start_s"])
    latest = max(starts.values(), default=0) + 1
    return sorted(runs, key=lambda run: starts.get(str(run.pk), latest))


def problem_of_visit(
    left: Sequence[TestUnderWay],
    zero: datetime,
    now: datetime,
    previous: Any = None,
    people: int = 1,
    delayed: Sequence[str] = (),
) -> PlanProblem:
    """What is left of these tests as a problem to plan: waits that run keep their beginning, and
    the hands that are in the middle of something go on with it; those *delayed* may begin late."""
    now_s = _seconds(now, zero)
    in_hand = _in_hand(left, now)
    tests, fixed = [], []
    for one in left:
        phases = list(one.rest.work.phases)
        clock_ = one.rest.clock
        if clock_ and isinstance(phases[0], Standing):
            most = clock_.most_s
            if not clock_.until:
                window = {"at_least_s": clock_.least_s, "at_most_s": most}
                phases[0] = phases[0].model_copy(update=window)
            began = min(int(clock_.since - zero.timestamp()), now_s)
            fixed.append({"test": one.id, "phase": 0, "start_s": began})
        elif one is in_hand and isinstance(phases[0], Hands):
            end = now_s + phases[0].seconds
            fixed.append({"test": one.id, "phase": 0, "start_s": now_s, "end_s": end})
        sampled_s = _seconds(one.run.sample.sampled_at, zero)
        test = one.rest.work.as_test(one.id, one.run.method, sampled_s)
        begun = {"start_within_s": None} if one.rest.begun or one.id in delayed else {}
        tests.append(test.model_copy(update={"phases": tuple(phases), **begun}))
    given = {"people": people, "tests": tests, "now_s": now_s, "fixed": fixed}
    problem = PlanProblem.model_validate(given | {"previous": _still_to_come(left, previous)})
    return for_slow_hands(problem)


def _still_to_come(left: Sequence[TestUnderWay], previous: Any) -> Any:
    """The last plan in the numbers of what is left: phases are numbered from the first that is not
    done."""
    if previous is None:
        return None
    now_left = {one.id: len(one.rest.work.phases) for one in left}
    then_left: dict[str, int] = {}
    for phase in previous["phases"]:
        then_left[phase["test"]] = max(then_left.get(phase["test"], 0), phase["phase"] + 1)
    phases = []
    for phase in previous["phases"]:
        at = phase["phase"] - then_left[phase["test"]] + now_left.get(phase["test"], 0)
        if phase["test"] in now_left and at >= 0:
            phases.append(phase | {"phase": at})
    return {"phases": phases}


def _in_hand(left: Sequence[TestUnderWay], now: datetime) -> TestUnderWay | None:
    """The test that hands are at: the last one in which something was done, in the middle of it."""
    begun = [one for one in left if one.rest.last]
    last = max(begun, key=lambda one: one.rest.last or now, default=None)
    if last is None or not last.rest.in_hand or last.rest.last is None:
        return None
    return last if (now - last.rest.last).total_seconds() < IN_HAND_S else None


def _code(left: Sequence[TestUnderWay]) -> str:
    """Another one whenever something was done, begun, added or ended."""
    said = [(one.id, len(one.events), one.rest.title, one.run.finish) for one in left]
    return hashlib.sha256(repr(said).encode()).hexdigest()


def _behind(kept: BenchPlan, now: datetime, zero: datetime) -> bool:
    """Whether something was to begin by now that has not; what has begun changes the code."""
    made_s, now_s = _seconds(kept.made_at, zero), _seconds(now, zero)
    starts = [one["start_s"] for one in kept.plan["phases"] if one["person"] is not None]
    return any(made_s < start < now_s - PLAN_HOLDS_S for start in starts) or (
        any(start <= made_s for start in starts) and now_s - made_s > 3 * PLAN_HOLDS_S
    )


def _said(
    tests: tuple[TestUnderWay, ...],
    plan: dict[str, Any],
    zero: datetime,
    people: int,
    delayed: tuple[str, ...],
) -> VisitPlan:
    known = {one.id: one for one in tests}
    late = {(one["test"], one["phase"]): one["seconds"] for one in plan["late"]}
    since = zero.timestamp()
    phases = []
    for one in plan["phases"]:
        test = known.get(one["test"])
        if test is None or one["phase"] >= len(test.rest.work.phases):
            continue
        phase = test.rest.work.phases[one["phase"]]
        start, end = since + one["start_s"], since + one["end_s"]
        late_s = late.get((one["test"], one["phase"]), 0)
        if test.id in delayed and one["phase"] == 0:
            late_s = _late_start(test, one["start_s"], zero)
        hands = isinstance(phase, Hands)
        takes = phase.seconds if isinstance(phase, Hands) else round(end - start)
        person = one["person"] or 1
        phases.append(Planned(test, phase.label, start, end, takes, hands, late_s, person))
    phases.sort(key=lambda one: (one.start, one.end))
    over = max((one.end for one in phases), default=since)
    return VisitPlan(tests, tuple(phases), plan["status"], over, people, delayed)


def _late_start(test: TestUnderWay, start_s: int, zero: datetime) -> int:
    """By how much a test begins after the time its method allows the sample."""
    sampled_s = _seconds(test.run.sample.sampled_at, zero)
    latest = test.rest.work.as_test(test.id, test.run.method, sampled_s).latest_start
    return 0 if latest is None else max(0, start_s - latest)


def _seconds(moment: datetime, zero: datetime) -> int:
    return int((moment.astimezone(UTC) - zero.astimezone(UTC)).total_seconds())
