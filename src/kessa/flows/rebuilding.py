"""Rebuilding projections from the facts, by the functions that keep them."""

from django.db import transaction
from django.db.models import Count

from kessa.library.models import MethodUse
from kessa.platform.models import Programme
from kessa.results.models import LatestResult, Result
from kessa.results.projections import every_series, project, refresh_latest
from kessa.results.services import set_outcome
from kessa.runs.lots import count_use
from kessa.runs.models import Run, RunDecision
from kessa.runs.photographs import project_photographs
from kessa.runs.services import state_of
from kessa.verdicts.services import current_verdicts
from kessa.visits.models import Sample
from kessa.visits.projection import rebuild as rebuild_sample


@transaction.atomic
def rebuild(programme: Programme) -> None:
    """Every projection of a programme, from its facts."""
    for sample in Sample.objects.of(programme).iterator(chunk_size=500):
        rebuild_sample(sample)
    for run in Run.objects.of(programme).iterator(chunk_size=500):
        rebuild_run(run)
    results = Result.objects.of(programme).select_related("run__sample", "programme")
    for result in results.iterator(chunk_size=500):
        rebuild_result(result)
    rebuild_latest(programme)
    rebuild_uses(programme)


def rebuild_run(run: Run) -> None:
    """Who continues a run, how it ended, and what it took of its lots."""
    decisions = list(run.decisions.all())
    cancelled = any(one.kind == RunDecision.Kind.CANCELLED for one in decisions)
    over = [one.to_id for one in decisions if one.kind == RunDecision.Kind.HANDED_OVER]
    run.kept_by_id = over[-1] if over else run.opened_by_id
    state = state_of(run)
    run.finish = "cancelled" if cancelled else state.finish
    run.save(update_fields=["kept_by", "finish"])
    count_use(run, state)
    project_photographs(run, state)


def rebuild_result(result: Result) -> None:
    """A result's state, from its run, evaluations, decisions and verdicts."""
    project(result)
    verdicts = current_verdicts(result)
    finish = result.current.finish if result.current else ""
    set_outcome(result, verdicts[0].code if verdicts else finish)


def rebuild_latest(programme: Programme) -> None:
    """The newest result of each quantity at each point."""
    LatestResult.objects.of(programme).delete()
    refresh_latest(every_series(programme))


def rebuild_uses(programme: Programme) -> None:
    """How often each method was used."""
    MethodUse.objects.of(programme).delete()
    uses = Run.objects.filter(programme=programme).order_by().values_list("version__method_id")
    MethodUse.objects.bulk_create(
        MethodUse(programme=programme, method_id=method_id, count=number)
        for method_id, number in uses.annotate(Count("pk"))
    )
