"""Deciding about a result: accept, return with a reason, reject; and the analyst's answer."""

from collections.abc import Iterable

from django.db import transaction

from kessa.flows.companions import judge_companions
from kessa.people.members import alone
from kessa.platform.audit import record
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.hashes import seal_of
from kessa.platform.models import Person
from kessa.results import services
from kessa.results.models import Result, Review
from kessa.results.projections import refresh_latest, series_of
from kessa.runs.models import Event, Run
from kessa.visits.models import VisitEvent
from kessa.visits.services import corrections_of

D, S, W = Review.Decision, Result.Status, Result.WaitsFor
CHOICES = (D.ACCEPT, D.RETURN, D.REJECT)


def analysts_of(run: Run) -> set[int]:
    """Everybody who tested or corrected something of a run."""
    senders = Event.objects.of_run(run).order_by().values_list("person_id", flat=True).distinct()
    return analysts(run, senders, corrections_of(run.sample))


def analysts(run: Run, senders: Iterable[int], corrections: Iterable[VisitEvent]) -> set[int]:
    """analysts_of() from the persons of the run's events and the corrections of its sample."""
    return {run.opened_by_id, *senders, *(one.by_id for one in corrections if one.by_id)}


def may_accept(result: Result, person: Person, own: set[int]) -> bool:
    """An analyst does not approve the own result, unless nobody else is there and that is set."""
    if person.pk not in own:
        return True
    return bool(result.programme.own_review) and alone(result.programme)


@transaction.atomic
def decide(
    result: Result,
    by: Person,
    decision: str,
    reason: str,
    evaluation: int,
    last: int | None = None,
) -> Review:
    """A reviewer's decision about the evaluation that the page showed. *last*: the number of the
    decision that it showed as the newest, 0 for none.

    Raises ActionNotAllowed when the result has changed since, may not be decided, or a reason is
    missing.
    """
    held = _locked(result)
    if held.current_id != evaluation:
        raise ActionNotAllowed(
            "This result has changed since the page was opened. Look at it again."
        )
    if last is not None and last != (_last_decision(held) or 0):
        raise ActionNotAllowed(
            "Another person has reviewed it since the page was opened. Look at it again."
        )
    if decision not in CHOICES:
        raise ActionNotAllowed("Choose accept, return or reject.")
    if held.status in (S.AWAITING, S.PRACTICE):
        words = f"This result is {held.get_status_display()}; it is not waiting for review."
        raise ActionNotAllowed(words)
    if decision == D.ACCEPT and not may_accept(result, by, analysts_of(result.run)):
        raise ActionNotAllowed(
            "You tested or corrected this result. Another person must accept it."
        )
    if decision != D.ACCEPT and not reason:
        raise ActionNotAllowed(
            "Enter a reason. The person who tested sees it, and it stays in the record."
        )
    return _enter(held, by, D(decision), reason)


@transaction.atomic
def answer(result: Result, by: Person, words: str) -> Review:
    """The analyst answers what was returned; it goes back to the reviewer.

    Raises ActionNotAllowed when nothing was asked, by somebody else, or without words.
    """
    held = _locked(result)
    if held.waits_for != W.ANALYST:
        raise ActionNotAllowed("This result is not waiting for an answer.")
    if by.pk not in analysts_of(result.run):
        raise ActionNotAllowed("Only the person who tested can answer.")
    if not words:
        raise ActionNotAllowed("Enter your answer to the reviewer.")
    return _enter(held, by, D.ANSWER, words)


def _last_decision(result: Result) -> int | None:
    """The number of the newest decision about a result."""
    decisions = Review.objects.of(result.programme_id).filter(result=result)
    return decisions.order_by("-pk").values_list("pk", flat=True).first()


def _locked(result: Result) -> Result:
    results = Result.objects.of(result.programme_id).select_related("current", "run__sample")
    found: Result = results.select_for_update(of=("self",)).get(pk=result.pk)
    return found


def _enter(result: Result, by: Person, decision: Review.Decision, reason: str) -> Review:
    """Keep the decision, bring the projections up to date, and seal it."""
    made = services.decide(result, by, decision, reason)
    touched = judge_companions(result.run.sample, [result.parameter], by)
    refresh_latest({series_of(result), *touched})
    said = {"evaluation": made.evaluation_id, "reason": made.reason, "seals": [seal_of([made])]}
    record(result.programme, by, f"result.{decision}", result, **said)
    return made
