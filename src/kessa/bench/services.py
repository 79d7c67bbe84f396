"""Opening a run: at the server for a sample, or on the device to go on from another."""

from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import Count
from django.utils import timezone

from kessa.accounts.models import Person, Programme
from kessa.bench.models import CANCELLED, Run, RunLot
from kessa.library.models import Lot, MethodVersion
from kessa.records.services import record
from kessa.visits.models import Sample, Visit
from kessa_core.runs import Event as CoreEvent


def methods_at_hand(programme: Programme) -> list[MethodVersion]:
    """The newest version of every method in use, the most used here first."""
    uses = Run.objects.filter(programme=programme).values_list("version__method_id")
    used = dict(uses.annotate(Count("pk")))
    versions = MethodVersion.objects.of(programme).newest()
    return sorted(versions, key=lambda one: (-used.get(one.method_id, 0), one.title))


def changed_since(run: Run, person: Person) -> list[str]:
    """What changed in the method since *person* last did it, a line each; none once begun."""
    mine = Run.objects.of(run.programme).filter(
        opened_by=person, version__method_id=run.version.method_id
    )
    last = mine.exclude(pk=run.pk).order_by("-opened_at").first()
    if last is None or last.version_id == run.version_id or run.events.exists():
        return []
    return run.version.method.changed_since(last.version.method)


BEFORE_ANY_READING = ("begin", "accept", "note", "take-over", "undo")
"""Acts after which a test can still be cancelled: nothing was done with the sample."""


def untouched(run: Run) -> bool:
    """Whether nothing has been done in this run but looking at it."""
    return not run.events.exclude(act__in=BEFORE_ANY_READING).exists()


@transaction.atomic
def cancel(run: Run, person: Person) -> bool:
    """The wrong test was opened: it ends without a result. False when something was done in it."""
    held = Run.objects.select_for_update().get(pk=run.pk)
    if held.finish or not untouched(held):
        return False
    held.finish = CANCELLED
    held.save(update_fields=["finish"])
    record(run.programme, person, "run.cancelled", run, method=run.version.method_id)
    return True


@transaction.atomic
def change(run: Run, person: Person, version: MethodVersion) -> Run | None:
    """Another test of the same sample in place of one that was not begun; None when it was."""
    return _create(run.sample, version, person) if cancel(run, person) else None


@transaction.atomic
def hand_over(run: Run, person: Person, to: Person) -> None:
    """Somebody else goes on with an unfinished test."""
    run.kept_by = to
    run.save(update_fields=["kept_by"])
    record(run.programme, person, "run.handed-over", run, to=to.pk)


@transaction.atomic
def open_run(sample: Sample, person: Person) -> Run:
    """A run of the method the sample was taken for, with the lot in use."""
    newest = MethodVersion.objects.of(sample.programme).newest()
    return _create(sample, newest.get(method_id=sample.method_id), person)


def _create(
    sample: Sample,
    version: MethodVersion,
    person: Person,
    run_id: UUID | None = None,
    continues: Run | None = None,
) -> Run:
    lots = Lot.objects.of(sample.programme_id).newest_of(version.method.tracked)
    chosen = {"id": run_id} if run_id else {}
    run = Run.objects.create(
        programme_id=sample.programme_id,
        sample=sample,
        version=version,
        continues=continues,
        opened_by=person,
        kept_by=person,
        opened_at=timezone.now(),
        **chosen,
    )
    RunLot.objects.bulk_create(
        RunLot(programme_id=run.programme_id, run=run, lot=lot) for lot in lots.values()
    )
    named = [str(lot) for lot in lots.values()]
    record(sample.programme, person, "run.opened", run, method=version.method_id, lots=named)
    return run


def find_or_begin(
    programme: Programme,
    person: Person,
    run_id: str,
    events: list[CoreEvent],
    visit: Visit | None = None,
) -> Run | None:
    """The run with this id, locked; or one that the device began to continue another.

    *visit* leaves only that visit's runs.
    """
    try:
        wanted = UUID(run_id)
    except ValueError:
        return None
    runs = Run.objects.of(programme).select_for_update(of=("self",))
    if visit:
        runs = runs.filter(sample__visit=visit)
    found: Run | None = runs.filter(pk=wanted).first()
    if found or Run.objects.filter(pk=wanted).exists():
        return found
    begun = next((event for event in events if event.act == "begin"), None)
    before = _uuid(begun.data.get("continues")) if begun else None
    previous = runs.filter(pk=before).exclude(finish="").first() if before else None
    if not previous or not begun:
        return None
    followers = previous.version.method.followers
    following = begun.data.get("method") or next(iter(followers), "")
    if following not in followers:
        return None
    newest = MethodVersion.objects.of(programme).newest()
    version = newest.filter(method_id=following).first()
    return _create(previous.sample, version, person, wanted, previous) if version else None


def _uuid(text: Any) -> UUID | None:
    try:
        return UUID(str(text))
    except ValueError:
        return None
