"""Whether what pages read of a run follows from its events and decisions."""

from collections.abc import Iterator

from kessa.platform.models import AuditEntry, Programme
from kessa.runs.models import CANCELLED, Run, RunDecision
from kessa.runs.services import state_of
from kessa_core.errors import CoreError
from kessa_core.records import Break

ENDINGS = ("run.ended", "run.resumed", "run.cancelled")


def differing(programme: Programme) -> Iterator[Break]:
    """Runs whose end or keeper is not what was entered. The end is that of the newest entry; a run
    without one is folded."""
    entered = _endings(programme)
    kept = _keepers(programme)
    for run in Run._base_manager.filter(programme=programme).iterator(chunk_size=2000):
        name = f"run:{run.pk}"
        try:
            finish = entered[name] if name in entered else state_of(run).finish
        except CoreError:
            yield Break(0, f"{name}: an act of it cannot be read")
            continue
        if run.finish != finish:
            yield Break(0, f"{name} is said to be {run.finish!r} and ended as {finish!r}")
        keeper = kept.get(run.pk, run.opened_by_id)
        if run.kept_by_id not in (keeper, None):
            yield Break(0, f"{name} does not belong to whom it was handed over")


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
