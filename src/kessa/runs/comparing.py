"""Whether what pages read of a run follows from its events and decisions."""

from collections.abc import Iterator, Sequence
from itertools import islice

from kessa.library.models import MethodVersion
from kessa.platform.models import AuditEntry, Programme
from kessa.runs.models import CANCELLED, Run, RunDecision
from kessa.runs.services import events_of_each, state_of
from kessa_core.errors import CoreError
from kessa_core.records import Break

ENDINGS = ("run.ended", "run.resumed", "run.cancelled")
AT_ONCE = 500
"""Runs whose events and lots are read together."""


def differing(programme: Programme) -> Iterator[Break]:
    """Runs whose end or keeper is not what was entered. The end is that of the newest entry; a run
    without one is folded."""
    entered = _endings(programme)
    kept = _keepers(programme)
    versions = MethodVersion._base_manager.filter(programme=programme).in_bulk()
    runs = Run._base_manager.filter(programme=programme).prefetch_related("lots_used")
    every = runs.order_by("pk").iterator(chunk_size=AT_ONCE)
    while some := list(islice(every, AT_ONCE)):
        for run in some:
            run.version = versions[run.version_id]
            if run.kept_by_id not in (kept.get(run.pk, run.opened_by_id), None):
                yield Break(0, f"run:{run.pk} does not belong to whom it was handed over")
        yield from _wrongly_ended(programme, some, entered)


def _wrongly_ended(
    programme: Programme, runs: Sequence[Run], entered: dict[str, str]
) -> Iterator[Break]:
    """Those of these runs that are not said to be as they ended."""
    to_fold = [run for run in runs if f"run:{run.pk}" not in entered]
    events = events_of_each(programme.pk, to_fold)
    for run in runs:
        name = f"run:{run.pk}"
        try:
            finish = entered[name] if name in entered else state_of(run, events[run.pk]).finish
        except CoreError:
            yield Break(0, f"{name}: an act of it cannot be read")
            continue
        if run.finish != finish:
            yield Break(0, f"{name} is said to be {run.finish!r} and ended as {finish!r}")


def _endings(programme: Programme) -> dict[str, str]:
    """How each run ended by its newest entry, by its name in the audit."""
    entries = AuditEntry.objects.of(programme).filter(act__in=ENDINGS)
    newest = entries.order_by("about", "-number").distinct("about")
    return {
        about: CANCELLED if act == "run.cancelled" else data.get("finish", "")
        for about, act, data in newest.values_list("about", "act", "data")
    }


def _keepers(programme: Programme) -> dict[object, int | None]:
    """To whom a run was handed over last, by run."""
    over = RunDecision._base_manager.filter(programme=programme, kind=RunDecision.Kind.HANDED_OVER)
    return dict(over.order_by("pk").values_list("run_id", "to_id"))
