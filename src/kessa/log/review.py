"""Deciding about a result: accept, return with a reason, reject; and the analyst's answer."""

from django.db import transaction
from django.utils import timezone

from kessa.accounts.members import alone
from kessa.accounts.models import Person
from kessa.bench.models import Event
from kessa.log.models import Result, Review
from kessa.log.refusal import Refusal
from kessa.records.services import record

D, S, W = Review.Decision, Result.Status, Result.WaitsFor
OUTCOMES = {
    D.ACCEPT: (S.REVIEWED, W.NOBODY),
    D.RETURN: (S.PROVISIONAL, W.ANALYST),
    D.REJECT: (S.REJECTED, W.NOBODY),
}


def analysts(result: Result) -> set[int]:
    """Everybody whose hands or corrections are in a result."""
    run = result.run
    acts = Event.objects.filter(run_id=run.pk).values_list("person_id", flat=True)
    corrected = run.sample.corrections.values_list("by_id", flat=True)
    return {run.opened_by_id, *acts, *corrected}


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
) -> Review:
    """A reviewer's decision about the evaluation that the page showed.

    Raises Refusal when the result has changed since, may not be decided, or a reason is missing.
    """
    held = Result.objects.select_for_update().get(pk=result.pk)
    if held.current_id != evaluation:
        raise Refusal("This result has changed since the page was opened. Look at it again.")
    if decision not in OUTCOMES:
        raise Refusal("Choose: accept, return or reject.")
    if held.status in (S.AWAITING, S.PRACTICE):
        raise Refusal(f"This result is {held.get_status_display()}; there is nothing to decide.")
    if decision == D.ACCEPT and not may_accept(result, by, analysts(result)):
        raise Refusal("You tested or corrected this yourself; somebody else accepts it.")
    if decision != D.ACCEPT and not reason:
        raise Refusal("Say why; the analyst and the record need the reason.")
    held.status, held.waits_for = OUTCOMES[D(decision)]
    return _enter(held, by, D(decision), reason)


@transaction.atomic
def answer(result: Result, by: Person, words: str) -> Review:
    """The analyst answers what was returned; it goes back to the reviewer.

    Raises Refusal when nothing was asked, by somebody else, or without words.
    """
    held = Result.objects.select_for_update().get(pk=result.pk)
    if held.waits_for != W.ANALYST:
        raise Refusal("This result does not wait for an answer.")
    if by.pk not in analysts(result):
        raise Refusal("The answer comes from the person who tested.")
    if not words:
        raise Refusal("Write the answer; it goes to the reviewer.")
    held.waits_for = W.REVIEWER
    return _enter(held, by, D.ANSWER, words)


def _enter(
    result: Result,
    by: Person,
    decision: Review.Decision,
    reason: str,
) -> Review:
    result.save(update_fields=["status", "waits_for"])
    review = Review.objects.create(
        programme_id=result.programme_id,
        result=result,
        evaluation_id=result.current_id,
        by=by,
        at=timezone.now(),
        decision=decision,
        reason=reason[:500],
    )
    words = {"evaluation": result.current_id, "reason": review.reason}
    record(result.programme, by, f"result.{decision}", result, **words)
    return review
