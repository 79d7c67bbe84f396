"""What methods found of standards: kept as it is measured, and what a failure says of tests."""

from datetime import datetime

from django.db import transaction
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
    found = checks_of(run, state, by)
    if not found:
        return
    kept = StandardCheck.objects.of(run.programme_id).filter(run=run).standing()
    before = {check.stage: check for check in kept}
    made = [one for one in found if not _is_kept(before.get(one.stage), one)]
    if made:
        rows = StandardCheck.objects.bulk_create(made)
        said = {"shown": rows[0].shown, "seals": [seal_of(rows)]}
        record(run.programme, by, "standard.measured", run, **said)


def checks_of(run: Run, state: RunState, by: Person | None) -> list[StandardCheck]:
    """What the standards of an ended run came to, not saved."""
    found = standards_of(run.method, state, run.core_lots)
    return [_of_run(run, stage, recovery, by) for stage, recovery in found]


def _is_kept(check: StandardCheck | None, found: StandardCheck) -> bool:
    return check is not None and check.shown == found.shown


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
    """A flag for the lot and for each instrument of which the last standard before this test
    failed; none for one that was measured in the test itself, which has its own flag."""
    lots = [lot.pk for lot in run.resting_on]
    instruments = [used.instrument_id for used in run.instruments.values()]
    if not lots and not instruments:
        return []
    checks = StandardCheck.objects.of(run.programme_id).standing()
    here = list(checks.filter(run=run))
    earlier = checks.filter(measured_at__lt=run.opened_at)
    flags = []
    for about, numbers in (("lot", lots), ("instrument", instruments)):
        measured = {getattr(check, f"{about}_id") for check in here}
        for check in earlier.last_of_each(about, set(numbers) - measured):
            if not check.passes:
                day = date_text(timezone.localdate(check.measured_at))
                said = f"The last standard with {getattr(check, about)} failed on {day}"
                flags.append(f"{said}: {check.shown}"[:240])
    return flags
