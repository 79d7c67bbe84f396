"""What the bench page gets: its runs in order, each with sheet, events and the server's answer."""

from typing import Any

from kessa.bench.digest import digest
from kessa.bench.models import Event, Run
from kessa.library.models import MethodVersion
from kessa.log.models import Evaluation, Result
from kessa.log.setting import setting_of
from kessa_core.judging import Verdict
from kessa_core.methods import Method
from kessa_core.runs import RunState, fold
from kessa_core.sheets import Setting, compile_sheet
from kessa_core.sheets.rows import row


def chain_of(run: Run) -> list[Run]:
    """The run, and the runs that went on from it, in order."""
    chain = [run]
    while following := Run.objects.of(run.programme_id).filter(continues=chain[-1]).first():
        chain.append(following)
    return chain


def payload(run: Run, setting: Setting) -> dict[str, Any]:
    """Runs with their events, and the sheets they need, by method id."""
    chain = chain_of(run)
    return {"runs": [_link(link) for link in chain], "sheets": _sheets(chain, setting)}


def _link(run: Run) -> dict[str, Any]:
    rows = list(Event.objects.of_run(run))
    events = [event.as_core() for event in rows]
    return {
        "id": str(run.pk),
        "method": run.version.method_id,
        "events": [event.as_json() for event in events],
        "arrival": max((event.arrival for event in rows), default=0),
        "answer": answer(run, fold(run.version.method, events)),
    }


def _sheets(chain: list[Run], setting: Setting) -> dict[str, Any]:
    """The sheets of the chain and of the method that may follow, compiled for this place."""
    newest = MethodVersion.objects.of(chain[0].programme_id).newest()
    methods: dict[str, Method] = {link.version.method_id: link.version.method for link in chain}
    following = chain[-1].version.method.out_of_range.method
    if (
        following
        and following not in methods
        and (found := newest.filter(method_id=following).first())
    ):
        methods[following] = found.method
    return {key: compile_sheet(method, setting) for key, method in methods.items()}


def answer(run: Run, state: RunState) -> dict[str, Any]:
    """The server's word on a run: its state in one line and, once finished, the result's row."""
    said: dict[str, Any] = {"digest": digest(state), "finish": state.finish, "result": None}
    if state.finish:
        found = Result.objects.select_related("current").filter(run=run).first()
        if found and found.current:
            said["result"] = _result(run, found, found.current)
    return said


def _result(run: Run, result: Result, evaluation: Evaluation) -> dict[str, Any]:
    said: dict[str, Any] = {
        "id": result.pk,
        "k": evaluation.working,
        "t": evaluation.sentences,
        "cause": evaluation.cause,
    }
    value = evaluation.value_of(result.parameter)
    if value is None:
        return said
    setting = setting_of(run.sample.point, value.quantity, leave_out=run.pk)
    limit = next((one for one in setting.limits if one.id == evaluation.limit_id), None)
    verdict = Verdict(limit, evaluation.sign, evaluation.reported_sign, "")  # type: ignore[arg-type]
    return said | row(value, verdict, setting)
