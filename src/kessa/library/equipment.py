"""Noting and correcting lots and instruments; each change is a revision."""

from typing import Any

from django.db import transaction

from kessa.library.models import Instrument, InstrumentCheck, Lot
from kessa.platform.audit import record
from kessa.platform.clock import now
from kessa.platform.hashes import plain, seal_of
from kessa.platform.models import Person, Programme
from kessa.platform.revisions import revise

LOT = (
    "reagent", "number", "expires", "opened", "table", "drop_ml", "drop_sd", "contains", "unit",
    "keeps_days", "storage", "recovery", "recovery_sd", "content", "content_unit", "content_sd",
    "prepared", "in_use",
)  # fmt: skip
INSTRUMENT = ("name", "number", "kinds", "checked_on", "check_due", "check_failed", "in_use")


@transaction.atomic
def note_lot(programme: Programme, by: Person | None, **described: Any) -> Lot:
    """A lot that is in use from now on."""
    lot = Lot.objects.create(programme=programme, **described)
    seals = [revise(lot, by, said_of(lot), None)]
    record(programme, by, "lot.noted", lot, name=str(lot), seals=seals)
    return lot


@transaction.atomic
def note_instrument(programme: Programme, by: Person | None, **described: Any) -> Instrument:
    """An instrument that is in use from now on."""
    made = Instrument.objects.create(programme=programme, **described)
    seals = [revise(made, by, said_of(made), None)]
    record(programme, by, "instrument.noted", made, name=str(made), seals=seals)
    return made


def correct_lot(lot: Lot, by: Person, why: str, **described: Any) -> bool:
    """What was noted of a lot was wrong; False where nothing differs. Its results are the caller's
    to evaluate again (kessa.flows.lots)."""
    return _change(lot, by, "lot.corrected", described, why)


def change_instrument(instrument: Instrument, by: Person, **described: Any) -> bool:
    """Another check, another name, or out of use; False where nothing differs. Tests that were
    opened before keep what was noted of it then."""
    return _change(instrument, by, "instrument.changed", described, "")


@transaction.atomic
def note_check(instrument: Instrument, by: Person, **described: Any) -> InstrumentCheck:
    """A verification, calibration or service, kept on file. Where none is later, tests from now on
    go by it: when it was, when the next one is due, whether it failed."""
    made = InstrumentCheck.objects.create(
        programme_id=instrument.programme_id, instrument=instrument, by=by, **described
    )
    seals = [seal_of([made])]
    said = {"name": str(instrument), "kind": made.kind, "passed": made.passed, "seals": seals}
    record(instrument.programme, by, "instrument.checked", instrument, **said)
    newest = InstrumentCheck.objects.of(instrument.programme_id).filter(instrument=instrument)
    if newest.first() == made:
        checked = {"checked_on": made.on, "check_due": made.due, "check_failed": not made.passed}
        change_instrument(instrument, by, **checked)
    return made


@transaction.atomic
def _change(
    thing: Lot | Instrument, by: Person, act: str, described: dict[str, Any], why: str
) -> bool:
    held = type(thing)._base_manager.select_for_update().get(pk=thing.pk)
    was = {name: plain(getattr(held, name)) for name in described}
    changed = {name: value for name, value in described.items() if plain(value) != was[name]}
    if not changed:
        return False
    for name, value in changed.items():
        setattr(thing, name, value)
    thing.revision = held.revision + 1
    thing.save(update_fields=[*changed, "revision"])
    seals = [revise(thing, by, said_of(thing), now())]
    told = {name: [was[name], plain(value)] for name, value in changed.items()}
    record(thing.programme, by, act, thing, name=str(thing), changed=told, why=why, seals=seals)
    return True


def said_of(thing: Lot | Instrument) -> dict[str, Any]:
    """What is noted of it now, as a revision keeps it."""
    names = LOT if isinstance(thing, Lot) else INSTRUMENT
    return {name: plain(getattr(thing, name)) for name in names}
