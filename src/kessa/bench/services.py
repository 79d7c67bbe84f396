"""Opening a run: at the server for a sample, or on the device to go on from another."""

from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import Count
from django.utils import timezone

from kessa.accounts.models import Person, Programme
from kessa.bench.models import Run
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
    tracked = version.method.tracked
    lot = Lot.objects.of(sample.programme_id).of_reagent(tracked).first()
    chosen = {"id": run_id} if run_id else {}
    run = Run.objects.create(
        programme_id=sample.programme_id,
        sample=sample,
        version=version,
        lot=lot,
        continues=continues,
        opened_by=person,
        opened_at=timezone.now(),
        **chosen,
    )
    record(sample.programme, person, "run.opened", run, method=version.method_id)
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
