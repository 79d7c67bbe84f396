"""Which instrument a run is read with."""

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from django.db import transaction
from django.utils import timezone

from kessa.library.cases import AtHand
from kessa.library.models import Instrument
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.hashes import seal_of
from kessa.platform.models import Person
from kessa.runs.models import Run, RunInstrument

ENDED = "This test has ended. You cannot change its instrument."


def take_instruments(run: Run, person: Person, at_hand: AtHand) -> list[RunInstrument]:
    """For each kind of instrument that the method reads: of those in the visit's case, else of
    those in none, the one that *person* used last, else the newest one whose check is not overdue;
    none of a kind of which none is noted."""
    kinds = run.method.instruments
    if not kinds:
        return []
    noted = Instrument.objects.of(run.programme_id).of_kinds(kinds)
    fitting: dict[str, list[Instrument]] = {kind: [] for kind in kinds}
    near = at_hand.nearness
    for instrument in noted:
        for kind in set(instrument.kinds) & set(kinds):
            fitting[kind].append(instrument)
    for kind, found in fitting.items():
        nearest = max((near(one.pk) for one in found), default=0)
        fitting[kind] = [one for one in found if near(one.pk) == nearest]
    taken = [
        instrument_row(run, kind, _used_last(run, person, kind, found), person)
        for kind, found in fitting.items()
        if found
    ]
    return RunInstrument.objects.bulk_create(taken)


@transaction.atomic
def choose_instrument(run: Run, person: Person, kind: str, instrument: Instrument) -> None:
    """This run is read with *instrument*.

    Raises ActionNotAllowed where the run has ended, or the instrument is not of that kind.
    """
    held = Run.objects.of(run.programme_id).select_for_update(of=("self",)).get(pk=run.pk)
    if held.finish:
        raise ActionNotAllowed(ENDED)
    if kind not in run.method.instruments or kind not in instrument.kinds:
        raise ActionNotAllowed(f"{instrument} is not a {kind}.")
    before = run.instruments.get(kind)
    if before and before.instrument_id == instrument.pk:
        return
    made = RunInstrument.objects.bulk_create([instrument_row(run, kind, instrument, person)])
    said: dict[str, Any] = {"name": str(instrument), "seals": [seal_of(made)]}
    record(run.programme, person, "run.instrument", run, **said)


def is_overdue(check_due: str, at: datetime) -> bool:
    """Whether a check that is due on a day (ISO, empty for none) is overdue at *at*."""
    return bool(check_due) and date.fromisoformat(check_due) < timezone.localdate(at)


def _used_last(run: Run, person: Person, kind: str, found: list[Instrument]) -> Instrument:
    """Of these, the newest first, the one that *person* used last; else the newest whose check is
    not overdue; else the newest."""
    used = RunInstrument.objects.of(run.programme_id).filter(kind=kind, by=person)
    last = used.filter(instrument__in=found).order_by("-pk").values_list("instrument_id", flat=True)
    before = last.first()
    if before is not None:
        return next(one for one in found if one.pk == before)
    at = clock.now()
    fit = (one for one in found if not is_overdue(one.as_noted["check_due"], at))
    return next(fit, found[0])


def instrument_row(run: Run, kind: str, instrument: Instrument, person: Person) -> RunInstrument:
    """That the run is read with this instrument, as it is noted now; not saved."""
    return RunInstrument(
        programme_id=run.programme_id,
        run=run,
        kind=kind,
        instrument=instrument,
        noted=instrument.as_noted,
        by=person,
    )


@dataclass(frozen=True)
class Choice:
    """The instrument of one kind that a run is read with, and those that it could be."""

    kind: str
    used: RunInstrument | None
    options: list[Instrument]

    @property
    def overdue(self) -> bool:
        """Whether the check of the one it is read with was due when it was chosen."""
        return self.used is not None and is_overdue(self.used.noted["check_due"], self.used.at)


def instrument_choices(run: Run) -> list[Choice]:
    """What can be chosen for a run, by kind; nothing where its method reads no instrument."""
    kinds = run.method.instruments
    if not kinds:
        return []
    noted = list(Instrument.objects.of(run.programme_id).of_kinds(kinds))
    return [
        Choice(kind, run.instruments.get(kind), [one for one in noted if kind in one.kinds])
        for kind in kinds
    ]
