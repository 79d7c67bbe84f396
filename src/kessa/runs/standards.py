"""What methods found of standards: kept as it is measured, and what a failure says of tests."""

from collections.abc import Iterable, Sequence
from datetime import datetime

from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from kessa.library.models import Instrument, Lot
from kessa.platform.audit import record
from kessa.platform.days import date_text
from kessa.platform.hashes import seal_of
from kessa.platform.models import Person
from kessa.runs.models import Run, StandardCheck
from kessa_core.methods.stage import Stage
from kessa_core.runs import RunState
from kessa_core.runs.conclude import standards_of
from kessa_core.runs.standards import Recovery


def note_standards(run: Run, state: RunState, by: Person | None) -> None:
    """Keep what the standards of an ended run came to, where that is new or has changed."""
    found = standards_of(run.method, state, run.core_lots)
    if not found:
        return
    kept = StandardCheck.objects.of(run.programme_id).filter(run=run).standing()
    before = {check.stage: check for check in kept}
    made = [
        _of_run(run, stage, recovery, by)
        for stage, recovery in found
        if not _is_kept(before.get(stage.id), recovery)
    ]
    if made:
        rows = StandardCheck.objects.bulk_create(made)
        said = {"shown": rows[0].shown, "seals": [seal_of(rows)]}
        record(run.programme, by, "standard.measured", run, **said)


def _is_kept(check: StandardCheck | None, recovery: Recovery) -> bool:
    return check is not None and check.shown == recovery.line


def _of_run(run: Run, stage: Stage, recovery: Recovery, by: Person | None) -> StandardCheck:
    reader = stage.reader(run.core_lots)
    lots = {lot.reagent: lot for lot in run.lots}
    kind = reader.instrument.removeprefix("a ").removeprefix("an ")
    used = run.instruments.get(kind)
    return StandardCheck(
        programme_id=run.programme_id,
        method_id=run.version.method_id,
        stage=stage.id,
        run=run,
        lot=lots.get(reader.lot.reagent),
        instrument=used.instrument if used else None,
        standard=lots.get(stage.standard.name) if stage.standard else None,
        percent=recovery.percent,
        low=recovery.low,
        high=recovery.high,
        passes=recovery.passes,
        shown=recovery.line,
        measured_at=run.opened_at,
        by=by,
    )


@transaction.atomic
def note_check(
    lot: Lot,
    by: Person,
    method_id: str,
    recovery: Recovery,
    measured_at: datetime,
    standard: Lot | None = None,
    instrument: Instrument | None = None,
) -> StandardCheck:
    """A standard that was measured with a lot outside of a test."""
    made = StandardCheck.objects.create(
        programme_id=lot.programme_id,
        method_id=method_id,
        lot=lot,
        instrument=instrument,
        standard=standard,
        percent=recovery.percent,
        low=recovery.low,
        high=recovery.high,
        passes=recovery.passes,
        shown=recovery.line,
        measured_at=measured_at,
        by=by,
    )
    said = {"shown": made.shown, "seals": [seal_of([made])]}
    record(lot.programme, by, "standard.measured", lot, **said)
    return made


def failed_standards(run: Run) -> list[str]:
    """A flag for the lot and for each instrument of which the last standard before this test, or in
    it, failed. What fails in the test itself is flagged there already."""
    own = StandardCheck.objects.of(run.programme_id).filter(run=run)
    lots = [lot.pk for lot in run.resting_on]
    instruments = [used.instrument_id for used in run.instruments.values()]
    if not lots and not instruments:
        return []
    about = Q(lot__in=lots) | Q(instrument__in=instruments)
    earlier = StandardCheck.objects.of(run.programme_id).filter(
        about, measured_at__lt=run.opened_at
    )
    checks = list(earlier.standing().select_related("lot", "instrument")[:100])
    passed_here = list(own.standing())
    flags = []
    for subject in _subjects(checks, lots, instruments):
        if any(_speaks_of(check, subject) for check in passed_here):
            continue
        last = next(check for check in checks if _speaks_of(check, subject))
        if not last.passes:
            day = date_text(timezone.localdate(last.measured_at))
            flags.append(f"The last standard with {subject} failed on {day}: {last.shown}"[:240])
    return flags


def _subjects(
    checks: Iterable[StandardCheck], lots: Sequence[int], instruments: Sequence[int]
) -> list[Lot | Instrument]:
    """The lots and instruments of a test that some check speaks of, each once."""
    found: list[Lot | Instrument] = []
    for check in checks:
        subjects = ((check.lot, lots), (check.instrument, instruments))
        for one, wanted in subjects:
            if one is not None and one.pk in wanted and one not in found:
                found.append(one)
    return found


def _speaks_of(check: StandardCheck, subject: Lot | Instrument) -> bool:
    return subject in (check.lot, check.instrument)
