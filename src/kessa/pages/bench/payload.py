"""What the bench page gets: its runs in order, each with sheet, events and the server's answer."""

from dataclasses import replace
from typing import Any

from kessa.library.models import Lot, MethodVersion
from kessa.pages.bench.digest import digest
from kessa.results.models import Evaluation, Result
from kessa.runs.models import Event, Run
from kessa.verdicts.models import Verdict
from kessa.verdicts.point_context import context_of
from kessa.verdicts.services import attach_verdicts, sentences_of
from kessa_core.judging.context import PointContext
from kessa_core.judging.outcomes import sentences
from kessa_core.judging.sentences import verdict_of
from kessa_core.methods import Method
from kessa_core.runs import RunState, conclude, fold
from kessa_core.sheets import compile_sheet
from kessa_core.sheets.rows import row


def chain_of(run: Run) -> list[Run]:
    """The run, and the runs that continued from it, in order."""
    chain = [run]
    while following := Run.objects.of(run.programme_id).filter(continues=chain[-1]).first():
        chain.append(following)
    return chain


def methods_of(chain: list[Run]) -> dict[str, Method]:
    """The methods of the chain, and those that may follow its last run."""
    methods = {link.version.method_id: link.method for link in chain}
    following = [key for key in chain[-1].method.followers if key not in methods]
    if following:
        newest = MethodVersion.objects.of(chain[0].programme_id).newest()
        found = newest.filter(method_id__in=following)
        kind = chain[-1].water_kind
        methods |= {version.method_id: version.method.in_water(kind) for version in found}
    return methods


def payload(chain: list[Run], methods: dict[str, Method], setting: PointContext) -> dict[str, Any]:
    """Runs with their events, and the sheets they need, by method id."""
    begun = {link.version.method_id: link.core_lots for link in chain}
    to_come = {key: method for key, method in methods.items() if key not in begun}
    names = {name for method in to_come.values() for name in method.materials}
    in_use = Lot.objects.of(chain[0].programme_id).newest_of(names).values()
    lots = begun | {
        key: Lot.all_as_core(
            lot for lot in Lot.resting_on(method, in_use) if lot.reagent in method.materials
        )
        for key, method in to_come.items()
    }
    return {
        "runs": [_link(link) for link in chain],
        "sheets": {
            key: compile_sheet(method, replace(setting, lots=lots[key]))
            for key, method in methods.items()
        },
    }


def _link(run: Run) -> dict[str, Any]:
    rows = list(Event.objects.of_run(run))
    events = [event.as_core() for event in rows]
    return {
        "id": str(run.pk),
        "method": run.version.method_id,
        "events": [event.as_json() for event in events],
        "arrival": max((event.arrival for event in rows), default=0),
        "answer": answer(run, fold(run.method, events, run.core_lots)),
    }


def answer(run: Run, state: RunState) -> dict[str, Any]:
    """The server's word on a run: its state in one line, and a row for each stage that ended."""
    said: dict[str, Any] = {"digest": digest(state), "finish": state.finish, "results": {}}
    if not any(stage.finish for stage in state.stages):
        return said
    method = run.method
    everywhere = context_of(run.sample, method.quantities, run.pk, run.core_lots)
    if not state.finish:
        return said | {"results": _so_far(run, state, everywhere)}
    results = Result.objects.of(run.programme_id).select_related("current").filter(run=run)
    recorded = [result for result in results if result.current]
    attach_verdicts(recorded, Verdict.objects.of(run.programme_id))
    for found in recorded:
        said["results"][found.stage_of(run)] = _recorded(found, found.current, everywhere)
    return said


def _so_far(run: Run, state: RunState, everywhere: PointContext) -> dict[str, Any]:
    """The rows of the stages that ended in a run that has not."""
    method, rows = run.method, {}
    for outcome in conclude(method, state, everywhere.lots):
        if outcome.value:
            setting = everywhere.of(outcome.quantity)
            verdict = verdict_of(outcome.value, setting)
            told = sentences(method, state, outcome, verdict, setting)
            said = {"k": outcome.working, "t": told, "flags": list(outcome.flags)}
            rows[outcome.stage] = row(outcome.value, verdict, setting) | said
    return rows


def _recorded(result: Result, evaluation: Evaluation, everywhere: PointContext) -> dict[str, Any]:
    said: dict[str, Any] = {
        "id": result.pk,
        "k": evaluation.working,
        "t": [],
        "flags": evaluation.flags,
        "cause": evaluation.cause,
    }
    value = evaluation.value
    if value is None:
        return said
    leads = result.verdicts[0]
    setting = everywhere.of(value.quantity)
    verdict = leads.as_core
    return said | {"t": sentences_of(result)} | row(value, verdict, setting)
