"""Where the width of a result's interval comes from."""

from kessa.pages.log.evidence import stage_of
from kessa.results.models import Result
from kessa.runs.services import state_of
from kessa_core.quality.budget import Budget, budget
from kessa_core.runs.stage_readers import reader_of_run


def budget_of(result: Result) -> Budget | None:
    """The parts of the interval's width; None where there is no two-sided one."""
    stage = stage_of(result)
    if result.evaluation.finish != "done" or stage is None or stage.reference:
        return None
    state = state_of(result.run)
    held = next(one for one in state.stages if one.id == stage.id)
    seen = [d.seen for d in held.samples if d.seen]
    blanks = [d.seen for d in held.blanks if d.seen]
    reader = reader_of_run(stage, held, result.run.core_lots)
    found = budget(reader, seen, blanks) if not held.extra else None
    return found.scaled(held.base) if found else None
