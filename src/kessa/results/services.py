"""What changes a result: decisions, and what reopens one."""

from typing import Any

from kessa.platform.audit import record
from kessa.platform.hashes import seal_of
from kessa.platform.models import Person
from kessa.results.models import Result, Review
from kessa.results.projections import project
from kessa.runs.models import Run

Seals = list[dict[str, Any]]


def decide(result: Result, by: Person | None, decision: Review.Decision, reason: str) -> Review:
    """Keep a decision about the current evaluation; the result follows from it."""
    made = Review.objects.create(
        programme_id=result.programme_id,
        result=result,
        evaluation=result.evaluation,
        by=by,
        decision=decision,
        reason=reason[:500],
    )
    project(result)
    return made


def is_reviewed(run: Run) -> bool:
    """Whether a result of this run was accepted or rejected, and nothing has reopened it."""
    decided = (Result.Status.REVIEWED, Result.Status.REJECTED)
    return Result.objects.of(run.programme_id).filter(run=run, status__in=decided).exists()


def reopen(result: Result, by: Person | None, why: str) -> None:
    """A result that was decided goes back to review."""
    if result.status not in (Result.Status.REVIEWED, Result.Status.REJECTED):
        return
    seals = [seal_of([decide(result, by, Review.Decision.REOPENED, why)])]
    record(result.programme, by, "result.reopened", result, why=why, seals=seals)


def set_outcome(result: Result, code: str) -> None:
    """The verdict that leads now, or why there is no figure."""
    if result.outcome_code != code:
        result.outcome_code = code
        result.save(update_fields=["outcome_code"])
