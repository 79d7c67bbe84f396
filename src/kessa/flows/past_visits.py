"""Visits of the past, many at once: evaluated and judged by the functions that keep what a device
sends, written by COPY, each visit sealed by one entry of the audit."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from typing import Any
from uuid import UUID

from django.db import models, transaction

from kessa.flows.evaluating import judged, reported
from kessa.flows.rebuilding import rebuild_latest, rebuild_uses
from kessa.library.models import Instrument, Lot, MethodVersion
from kessa.places.models import Point
from kessa.places.services import set_at
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.copying import RowWriter
from kessa.platform.hashes import seal_of, seal_of_batch
from kessa.platform.models import Person, Programme
from kessa.results.evaluations import evaluation_fields
from kessa.results.models import Evaluation, Result, Review
from kessa.results.projections import standing
from kessa.runs.instruments import instrument_row
from kessa.runs.lots import uses_of
from kessa.runs.models import Run, RunLot, event_row
from kessa.runs.standards import checks_of
from kessa.verdicts.models import JudgedLimit
from kessa.verdicts.services import Judgement, judged_limits, new_round
from kessa.visits.models import Sample, TestAsked, Visit, VisitEvent
from kessa.visits.projection import apply, as_plain, states_after, words_of
from kessa.visits.services import NOTHING, Prepared
from kessa_core.judging import Limit, LimitSet
from kessa_core.judging.context import PointContext
from kessa_core.quantities import Quantity
from kessa_core.runs import Event as CoreEvent
from kessa_core.runs import Outcome, RunState, conclude, fold
from kessa_core.trends.series import Earlier
from kessa_core.trends.usual import Usual, usual

Kind, State = VisitEvent.Kind, TestAsked.State


@dataclass(frozen=True)
class PastTest:
    """One test: its method, its run, and what was done, act by act."""

    method_id: str
    run: UUID
    events: Sequence[CoreEvent]


@dataclass(frozen=True)
class PastSample:
    """One sample: where and when it was taken, what was noted, its tests in order. not_taken: why
    nothing was sampled."""

    point: Point
    at: datetime
    conditions: Mapping[str, Any]
    tests: Sequence[PastTest] = ()
    methods: Sequence[str] = ()
    not_taken: str = ""


@dataclass(frozen=True)
class PastVisit:
    """One visit: who made it, its samples. reviewed_by: who accepted its results three days
    afterwards; nobody where they still wait."""

    by: Person
    samples: Sequence[PastSample]
    prepared: Prepared = NOTHING
    reviewed_by: Person | None = None


REVIEWED_AFTER = timedelta(days=3)
UsualKey = tuple[int, str, str, str]


class StandardFailed(ValueError):
    """A standard of a past test failed, which flags the tests after it: not written here."""


class PastVisits:
    """Visits of one programme, added the oldest first."""

    def __init__(self, programme: Programme, instruments: Iterable[Instrument] = ()) -> None:
        self.programme = programme
        self.writer = RowWriter()
        versions = MethodVersion.objects.of(programme).newest()
        self.versions = {one.method_id: one for one in versions}
        self.instruments = list(instruments)
        self.lots = sorted(
            Lot.objects.of(programme), key=lambda lot: (lot.opened or date.min, lot.pk)
        )
        self.history: dict[UsualKey, list[Earlier]] = defaultdict(list)
        self.limits: dict[tuple[int, date], LimitSet | None] = {}
        self.kept_limits: dict[tuple[str, str, Limit], JudgedLimit] = {}

    @transaction.atomic
    def add(self, visit: PastVisit) -> None:
        """Evaluate, judge and seal a visit; it is written with the next write().

        Raises StandardFailed.
        """
        _Writing(self, visit).all()

    @transaction.atomic
    def write(self) -> None:
        """Everything that was added since."""
        self.writer.write()

    def finish(self) -> None:
        """Write what is left, and what pages read of it."""
        self.write()
        rebuild_latest(self.programme)
        rebuild_uses(self.programme)

    def lot_of(self, reagent: str, day: date) -> Lot | None:
        """The lot that was in use on a day: of those that were opened by then the last one."""
        opened = [
            lot for lot in self.lots
            if lot.reagent == reagent and lot.opened and lot.opened <= day
        ]  # fmt: skip
        return opened[-1] if opened else None

    def held_at(self, point: Point, at: datetime) -> LimitSet | None:
        """The limits that hold at a point on the day of *at*."""
        key = (point.pk, at.date())
        if key not in self.limits:
            self.limits[key] = set_at(point, at)
        return self.limits[key]

    def rows_of(self, held: LimitSet | None, judgement: Judgement) -> dict[Limit, JudgedLimit]:
        """The limits of a judgement as rows, each asked of the database once."""
        against = [one.limit for one in judgement.verdicts if one.limit]
        if held is None or not against:
            return {}
        keys = {one: (held.id, held.edition, one) for one in against}
        missing = [one for one in against if keys[one] not in self.kept_limits]
        for limit, row in judged_limits(self.programme.pk, held, missing).items():
            self.kept_limits[keys[limit]] = row
        return {limit: self.kept_limits[key] for limit, key in keys.items()}

    def usuals(
        self, point: Point, wanted: Iterable[Quantity], at: datetime
    ) -> dict[Quantity, Usual]:
        """What was usual at a point until now."""
        found = {q: usual(self.history[_key(point, q)], at) for q in wanted}
        return {quantity: one for quantity, one in found.items() if one}


def _key(point: Point, q: Quantity) -> UsualKey:
    return (point.pk, q.parameter, q.unit, q.basis)


@dataclass
class _Writing:
    """One visit as it is written: its seals so far."""

    past: PastVisits
    visit: PastVisit
    seals: list[dict[str, Any]] = field(default_factory=list)
    seen: dict[UsualKey, list[Earlier]] = field(default_factory=lambda: defaultdict(list))

    def all(self) -> None:
        begun = min(sample.at for sample in self.visit.samples) - timedelta(minutes=12)
        how = self.visit.prepared
        made = self.past.writer.add(
            Visit(
                programme_id=self.past.programme.pk,
                made_by=self.visit.by,
                begun_at=begun,
                set=how.of_set,
                due_on=how.due_on,
                lead=how.lead,
                companion=how.companion,
                case=how.case,
            )
        )
        self.seal([made])
        ended = begun
        for sample in self.visit.samples:
            ended = max(ended, self.sample(made, sample, begun))
        for key, earlier in self.seen.items():
            self.past.history[key] += earlier
        with clock.at(ended):
            record(
                self.past.programme, self.visit.by, "visit.written", made,
                samples=len(self.visit.samples), seals=self.seals,
            )  # fmt: skip

    def sample(self, made: Visit, past: PastSample, begun: datetime) -> datetime:
        """One sample with its tests; when its last act was."""
        sample = Sample(programme_id=made.programme_id, visit=made, point=past.point)
        self.past.writer.add(sample)
        methods = [test.method_id for test in past.tests] or list(past.methods)
        happened = _Happening(self, sample)
        happened(Kind.BEGUN, begun, point=past.point.pk, method=methods[0])
        for method_id in methods[1:]:
            happened(Kind.TEST_ADDED, begun, method=method_id)
        if past.not_taken:
            happened(Kind.NOT_TAKEN, past.at, reason=past.not_taken)
            happened.end()
            return past.at
        before = past.at - timedelta(minutes=4)
        happened(Kind.SAFE, before)
        noted = {name: as_plain(value) for name, value in past.conditions.items()}
        happened(Kind.CONDITIONS, before, **noted)
        zone = self.past.programme.timezone
        happened(Kind.TAKEN, past.at, taken_at=past.at.isoformat(), zone=zone, depth_cm=None)
        for method_id in methods:
            happened(Kind.TEST_STATE, past.at, method=method_id, state=str(State.RUNNING))
        ended = past.at
        for test in past.tests:
            with clock.at(test.events[-1].when):
                self.test(sample, test)
            ended = max(ended, test.events[-1].when)
            happened(Kind.TEST_STATE, ended, method=test.method_id, state=str(State.DONE))
        happened.end()
        return ended

    def test(self, sample: Sample, test: PastTest) -> None:
        """One test: its run, its acts, what they came to."""
        writer, person, version = (
            self.past.writer,
            self.visit.by,
            self.past.versions[test.method_id],
        )
        run = Run(
            id=test.run,
            programme_id=sample.programme_id,
            sample=sample,
            version=version,
            water_kind=sample.point.water.kind,
            opened_by=person,
            kept_by=person,
            opened_at=sample.sampled_at,
        )
        day = sample.sampled_at.date()
        found = [self.past.lot_of(name, day) for name in version.method.materials]
        lots = [lot for lot in found if lot]
        used = [
            instrument_row(run, kind, instrument, person)
            for kind in run.method.instruments
            for instrument in self.past.instruments
            if kind in instrument.kinds
        ]
        run.lots, run.instruments = lots, {one.kind: one for one in used}
        state = fold(run.method, test.events, run.core_lots)
        run.finish = state.finish
        self.seal([writer.add(run)])
        self.seal(
            writer.add_all(RunLot(programme_id=run.programme_id, run=run, lot=lot) for lot in lots)
        )
        self.seal(writer.add_all(used))
        batch = str(test.run)
        acts = [
            event_row(run, person, event, number, batch)
            for number, event in enumerate(test.events, 1)
        ]
        self.seals.append(seal_of_batch(writer.add_all(acts), batch))
        writer.add_all(uses_of(run, state))
        checks = checks_of(run, state, person)
        if not all(one.passes for one in checks):
            raise StandardFailed(f"A standard of {version.title} failed.")
        self.seal(writer.add_all(checks))
        self.results(run, state)

    def results(self, run: Run, state: RunState) -> None:
        """What a run came to, each result evaluated, judged and reviewed."""
        outcomes = conclude(run.method, state, run.core_lots)
        point, at = run.sample.point, run.sample.sampled_at
        quantities = run.method.quantities
        held = self.past.held_at(point, at)
        context = PointContext(
            held.of_all(quantities) if held else (),
            lots=run.core_lots,
            usuals=tuple(self.past.usuals(point, quantities, at).items()),
        )
        for outcome in reported(outcomes, state):
            self.result(run, state, outcome, held, context, several=len(outcomes) > 1)

    def result(
        self,
        run: Run,
        state: RunState,
        outcome: Outcome,
        held: LimitSet | None,
        context: PointContext,
        *,
        several: bool,
    ) -> None:
        writer, point, at = self.past.writer, run.sample.point, run.sample.sampled_at
        result = Result(
            programme_id=run.programme_id,
            run=run,
            stage=outcome.stage if several else "",
            parameter=outcome.quantity.parameter,
            point=point,
            sampled_at=at,
        )
        writer.add(result)
        evaluation = Evaluation(
            programme_id=run.programme_id,
            result=result,
            made_by=self.visit.by,
            **evaluation_fields(run, state, outcome),
        )
        self.seal([writer.add(evaluation)])
        result.current = evaluation
        result.outcome_code = evaluation.finish
        if outcome.value:
            judgement = judged(run, state, outcome, context)
            rows = self.past.rows_of(held, judgement)
            verdicts = new_round(evaluation, judgement, rows, [], at)
            for row in verdicts:
                row.judged_by = self.visit.by
            self.seal(writer.add_all(verdicts))
            result.outcome_code = judgement.code
        decision = self.review(result, evaluation) if self.visit.reviewed_by else ""
        result.status, result.waits_for = standing(run.finish, evaluation.finish, decision)
        if evaluation.value and evaluation.finish == "done":
            q, value = evaluation.quantity, evaluation.value
            ends = value.interval
            self.seen[_key(point, q)].append(
                Earlier(at, value.number, value.qualifier, ends.low, ends.high)
            )

    def review(self, result: Result, evaluation: Evaluation) -> str:
        """Accepted a few days afterwards."""
        made = Review(
            programme_id=result.programme_id,
            result=result,
            evaluation=evaluation,
            by=self.visit.reviewed_by,
            at=result.sampled_at + REVIEWED_AFTER,
            decision=Review.Decision.ACCEPT,
        )
        self.seal([self.past.writer.add(made)])
        return str(made.decision)

    def seal(self, rows: Sequence[models.Model]) -> None:
        """The rows are in the visit's seals."""
        if rows:
            self.seals.append(seal_of(rows))


class _Happening:
    """The events of one sample, of which it follows as it does from those that are sent."""

    def __init__(self, writing: _Writing, sample: Sample) -> None:
        self.writing, self.sample = writing, sample
        self.states: dict[str, str] = {}
        self.events: list[VisitEvent] = []

    def __call__(self, kind: VisitEvent.Kind, at: datetime, **data: Any) -> None:
        event = VisitEvent(
            programme_id=self.sample.programme_id,
            visit=self.sample.visit,
            sample=self.sample,
            kind=kind,
            by=self.writing.visit.by,
            at=at,
            data=data,
        )
        self.events.append(self.writing.past.writer.add(event))
        apply(self.sample, event)
        self.states |= states_after(event)

    def end(self) -> None:
        """Keep the tests as they stand, and seal the events."""
        self.sample.words = words_of(self.sample)
        self.writing.past.writer.add_all(
            TestAsked(
                programme_id=self.sample.programme_id,
                sample=self.sample,
                method_id=method_id,
                state=state,
            )
            for method_id, state in self.states.items()
        )
        self.writing.seal(self.events)
