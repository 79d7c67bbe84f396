"""The end of a visit: what is still out, waste, stock, what was not done and why."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction
from django.db.models import Sum

from kessa.flows.desk import end_unfinished
from kessa.platform.models import Person
from kessa.results.models import Result
from kessa.runs.models import LotUse, Run
from kessa.runs.services import events_of_each
from kessa.verdicts.models import Verdict
from kessa.verdicts.services import attach_verdicts
from kessa.visits import services as visits
from kessa.visits.models import Sample, Visit
from kessa.visits.wording import wording_of
from kessa_core.preparing.packing import WasteVessel, waste_of
from kessa_core.quality.stock import amount_words
from kessa_core.runs.visit_acts import VisitAct

NOT_DONE = ("no time", "out of reagent", "sample used up", "not needed today", "equipment broken")
"""Why a test is not done, in short."""


@dataclass(frozen=True)
class TestOfVisit:
    """A test of a visit: its run, its results with their verdicts, and whether it was begun."""

    run: Run
    results: Sequence[Result]
    begun: bool

    @property
    def name(self) -> str:
        return self.run.method.short

    @property
    def is_out(self) -> bool:
        """Not ended yet."""
        return not self.run.finish

    @property
    def has_figure(self) -> bool:
        """Whether anything came out of it."""
        return any(one.current and one.current.value for one in self.results)

    @property
    def awaits(self) -> bool:
        """Whether a photograph of it is still to be read."""
        return self.run.finish == "awaiting"

    @property
    def why_not(self) -> str:
        """Why it came to nothing."""
        said = [one.current.cause for one in self.results if one.current and one.current.cause]
        return said[0] if said else ""


@dataclass(frozen=True)
class PointOfVisit:
    """A sample of a visit with its tests."""

    sample: Sample
    tests: Sequence[TestOfVisit]


@dataclass(frozen=True)
class Thermometer:
    """The air thermometer at the end: what it shows, in °C, and whether it comes home."""

    air_c: Decimal | None
    home: bool


@dataclass(frozen=True)
class StockUsed:
    """What the visit took of a lot."""

    name: str
    words: str


@dataclass(frozen=True)
class VisitSummary:
    """Everything that is said when a visit ends."""

    points: Sequence[PointOfVisit]
    waste: Sequence[WasteVessel]
    used: Sequence[StockUsed]

    @property
    def tests(self) -> list[TestOfVisit]:
        return [test for point in self.points for test in point.tests]

    @property
    def out(self) -> list[TestOfVisit]:
        """Tests that have not ended."""
        return [test for test in self.tests if test.is_out]

    @property
    def not_sampled(self) -> list[Sample]:
        """Points at which nothing was taken yet, and nobody said why."""
        return [one.sample for one in self.points if one.sample.outcome == Sample.Outcome.OPEN]

    @property
    def is_outdoors(self) -> bool:
        """Whether an air thermometer hangs at any of its points."""
        return any(wording_of(one.sample.point.water.kind).outdoors for one in self.points)

    @property
    def last_outdoors(self) -> Sample | None:
        """The sample that was taken last outdoors, where the air thermometer hung."""
        outdoors = [
            one.sample
            for one in self.points
            if one.sample.taken_at
            and one.sample.outcome == Sample.Outcome.TAKEN
            and wording_of(one.sample.point.water.kind).outdoors
        ]
        return max(outdoors, key=lambda one: (one.sampled_at, one.pk), default=None)

    @property
    def glass(self) -> list[str]:
        """What to rinse and dry."""
        methods = [test.run.method for test in self.tests if test.begun]
        return list(dict.fromkeys(one.name for method in methods for one in method.glass))

    @property
    def sentences(self) -> list[str]:
        """The visit in words, the most important first."""
        return [*_beyond(self.tests), *_count(self), *_undone(self)]


def summary_of(visit: Visit) -> VisitSummary:
    """A visit as it stands; a fixed number of queries."""
    opened = Run.objects.of(visit.programme_id).of_visit(visit.pk)
    runs = [run for run in opened if run.sample.outcome == Sample.Outcome.TAKEN]
    events = events_of_each(visit.programme_id, runs)
    results = list(
        Result.objects.of(visit.programme_id)
        .select_related("current", "point__water")
        .filter(run__in=[run.pk for run in runs])
        .order_by("pk")
    )
    attach_verdicts([one for one in results if one.current], Verdict.objects.of(visit.programme_id))
    tests = [
        TestOfVisit(
            run,
            [one for one in results if one.run_id == run.pk],
            any(event.act not in ("begin", "note", "accept") for event in events[run.pk]),
        )
        for run in runs
    ]
    samples = Sample.objects.of(visit.programme_id).filter(visit=visit).order_by("pk")
    points = [
        PointOfVisit(sample, [test for test in tests if test.run.sample_id == sample.pk])
        for sample in samples.exclude(outcome=Sample.Outcome.CANCELLED).select_related("taken_by")
    ]
    waste = waste_of((test.run.method for test in tests if test.begun), spare_percent=0)
    return VisitSummary(points, waste, _used(visit, runs))


@transaction.atomic
def finish_visit(
    visit: Visit,
    person: Person,
    reasons: Mapping[str, str],
    note: str = "",
    made: VisitAct | None = None,
    thermometer: Thermometer | None = None,
) -> None:
    """End the visit. reasons: why not, by the test's run and the sample's number; what has none
    goes on later. made: by a device, to be sent later. thermometer: where one hung outdoors."""
    summary = summary_of(visit)
    if thermometer and thermometer.air_c is not None and (last := summary.last_outdoors):
        visits.read_air(last, person, thermometer.air_c)
    for test in summary.out:
        if why := reasons.get(str(test.run.pk)):
            end_unfinished(test.run, person, why)
    for sample in summary.not_sampled:
        if why := reasons.get(str(sample.pk)):
            visits.do_not_sample(sample, person, why)
    visits.end(visit, person, note, made, thermometer.home if thermometer else None)


def _used(visit: Visit, runs: Sequence[Run]) -> list[StockUsed]:
    uses = LotUse.objects.of(visit.programme_id).filter(run__in=[run.pk for run in runs])
    units = {one.name: one.unit for run in runs for one in run.method.reagents}
    rows = uses.values("lot__reagent", "lot__number").annotate(total=Sum("amount"))
    return [
        StockUsed(
            f"{row['lot__reagent']}, lot {row['lot__number']}",
            amount_words(row["total"], units.get(row["lot__reagent"], "")),
        )
        for row in rows.order_by("lot__reagent", "lot__number")
    ]


def _beyond(tests: Sequence[TestOfVisit]) -> list[str]:
    """What lies beyond a limit."""
    return [
        f"{one.name}, {one.point}: {one.current.value.text_after_name}, {one.verdicts[0].words}."
        for test in tests
        for one in test.results
        if one.current and one.current.value and one.verdicts and one.verdicts[0].code == "beyond"
    ]


def _count(summary: VisitSummary) -> list[str]:
    tests, points = summary.tests, summary.points
    taken = sum(one.sample.outcome == Sample.Outcome.TAKEN for one in points)
    with_figure = sum(test.has_figure for test in tests)
    sampled = f"Sampled at {taken} of {len(points)} points." if len(points) > 1 else ""
    done = f"{with_figure} of {len(tests)} tests have a result." if tests else ""
    return [said for said in (sampled, done) if said]


def _undone(summary: VisitSummary) -> list[str]:
    said = [
        f"Not sampled at {one.sample.point}: {one.sample.reason}."
        for one in summary.points
        if one.sample.outcome == Sample.Outcome.NOT_TAKEN
    ]
    several = len(summary.points) > 1
    said += [
        f"{_named(test, several)} was not done: {test.why_not or 'no reason given'}."
        for test in summary.tests
        if not test.is_out and not test.has_figure and not test.awaits
    ]
    said += [
        f"{_named(test, several)} waits for its photograph to be read."
        for test in summary.tests
        if test.awaits
    ]
    return said + [f"{_named(test, several)} is not finished yet." for test in summary.out]


def _named(test: TestOfVisit, several: bool) -> str:
    """The test, with its point where the visit has several."""
    return f"{test.name} ({test.run.sample.point.name})" if several else test.name
