"""What the page of a visit shows: what to do now, the clocks, the line, and each test."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from kessa.flows.visit_plan import Planned, TestUnderWay, VisitPlan
from kessa.results.models import Result
from kessa.runs.models import Run
from kessa.ui.marks import shape_of
from kessa.visits.models import Sample
from kessa_core.methods.steps import duration_words

AT_ONCE_S = 5
"""What is planned within so many seconds is to be done now."""
MOST_CLOCKS = 8
NAMED = ("blank", "standard", "reference", "spike")
"""Measurements that are said beside their test; those of the sample are not."""


@dataclass(frozen=True)
class Now:
    """What hands do now. until: when that begins, where nothing can be done before."""

    test: TestUnderWay
    title: str
    lead: str
    until: datetime | None

    @property
    def eyebrow(self) -> str:
        """Which test, and which measurement of it."""
        role = self.test.rest.role
        return f"{self.test.short}, {role}" if role in NAMED else self.test.short


@dataclass(frozen=True)
class RunningClock:
    """A wait that runs. due: when it ends; until: the last moment that counts, if there is one;
    look: what has to be seen, where no time ends it."""

    test: TestUnderWay
    title: str
    due: datetime
    until: datetime | None
    look: str

    @property
    def shape(self) -> str:
        """By which it is told apart from others."""
        return shape_of(self.test.number)


@dataclass(frozen=True)
class Row:
    """A test and where it stands, in words; results: of its stages, once it has ended."""

    test: TestUnderWay
    state: str
    results: Sequence[Result]


@dataclass(frozen=True)
class PointRows:
    """A sample of the visit with its tests. asked: how many, of a sample that was not taken yet;
    runs: those that have not ended, in the order that is planned, for a device to keep."""

    sample: Sample
    rows: Sequence[Row]
    asked: int
    runs: Sequence[Run]


def points_of(
    samples: Sequence[Sample], rows: Sequence[Row], runs: Sequence[Run]
) -> list[PointRows]:
    """The rows of each sample, in the order of the visit. samples: each with its tests read."""
    return [
        PointRows(
            sample,
            [row for row in rows if row.test.run.sample_id == sample.pk],
            sum(one.state == "asked" for one in sample.tests.all()),
            [run for run in runs if run.sample_id == sample.pk],
        )
        for sample in samples
    ]


def now_of(
    plan: VisitPlan, clocks: Sequence[RunningClock], at: datetime, person: int = 1
) -> Now | None:
    """What one person does at this moment; None where nothing is left for these hands."""
    following = plan.next_hands if plan.people == 1 else plan.next_of(person)
    if following is None:
        return None
    test = following.test
    title = test.rest.title if following.label == _first_label(test) else ""
    title = title or following.label
    begins = datetime.fromtimestamp(following.start, UTC)
    if (begins - at).total_seconds() > AT_ONCE_S:
        return Now(test, title, "Nothing to do until then.", begins)
    takes = f"About {duration_words(following.seconds)}."
    return Now(test, title, " ".join((takes, *_meanwhile(following, clocks, at))), None)


def _first_label(test: TestUnderWay) -> str:
    phases = test.rest.work.phases
    return phases[0].label if phases else ""


def _meanwhile(doing: Planned, clocks: Sequence[RunningClock], at: datetime) -> list[str]:
    """Whether the next clock ends before this is done."""
    others = [one for one in clocks if one.test is not doing.test and one.due > at]
    if not others:
        return []
    first = min(others, key=lambda one: one.due)
    ends = f"{first.test.short} is due in {_left(first.due, at)}"
    if doing.end <= first.due.timestamp():
        return [f"{ends}: you will be done."]
    if first.until is None:
        return [f"{ends} and may wait longer."]
    if doing.end <= first.until.timestamp():
        return [f"{ends} and may wait until {_left(first.until, at)} from now: you will be done."]
    return [f"{ends}: stop for it."]


def _left(moment: datetime, at: datetime) -> str:
    return duration_words(max(round((moment - at).total_seconds()), 0))


def clocks_of(plan: VisitPlan) -> list[RunningClock]:
    """Every wait that runs, the one that ends first first."""
    found = []
    for test in plan.under_way:
        if clock := test.rest.clock:
            until = None if clock.most_s is None else clock.since + clock.most_s
            found.append(
                RunningClock(
                    test,
                    clock.title,
                    datetime.fromtimestamp(clock.since + clock.least_s, UTC),
                    None if until is None else datetime.fromtimestamp(until, UTC),
                    clock.until,
                )
            )
    return sorted(found, key=lambda one: one.due)[:MOST_CLOCKS]


def rows_of(plan: VisitPlan, results: Sequence[Result]) -> list[Row]:
    """Each test with its state or its results."""
    by_run: dict[object, list[Result]] = {}
    for result in results:
        by_run.setdefault(result.run_id, []).append(result)
    return [Row(one, _state(one), by_run.get(one.run.pk, [])) for one in plan.tests]


def _state(test: TestUnderWay) -> str:
    if test.run.finish:
        return "done"
    if not test.rest.begun:
        return "not begun"
    waits = "waits" if test.rest.clock else "under way"
    return f"{waits}: {test.rest.role}" if test.rest.role in NAMED else waits


@dataclass(frozen=True)
class LateTest:
    """A test that will be late, by how much in words. delayed: somebody chose that; may_choose:
    whether it can still be delayed or left out; alone: no other test is left."""

    test: TestUnderWay
    words: str
    delayed: bool
    may_choose: bool
    alone: bool


def late_of(plan: VisitPlan) -> list[LateTest]:
    """Tests that will be late."""
    late: dict[str, int] = {}
    for phase in plan.phases:
        late[phase.test.id] = late.get(phase.test.id, 0) + phase.late_s
    return [
        LateTest(
            test, duration_words(late[test.id]), test.id in plan.delayed, not test.rest.begun,
            len(plan.under_way) == 1,
        )
        for test in plan.tests
        if late.get(test.id)
    ]  # fmt: skip
