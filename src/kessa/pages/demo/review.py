"""What the demo's reviewer made of the history: accepted, one corrected, one sent back."""

from datetime import timedelta

from kessa.flows.correcting import correct_reading
from kessa.flows.reviewing import decide
from kessa.platform import clock
from kessa.platform.models import Person
from kessa.results.models import Result

CORRECTED_VISIT = 33
UNDECIDED_FROM = 36
RETURNED = (37, 1)


def review(staff: dict[str, Person], result: Result, number: int, order: int) -> None:
    """Decide about one result of visit *number* at the point *order*, a few days afterwards."""
    if number == CORRECTED_VISIT and order == 0:
        with clock.at(result.sampled_at + timedelta(hours=5)):
            _correct(result, staff["monitor"])
    with clock.at(result.sampled_at + timedelta(days=3)):
        if (number, order) == RETURNED:
            asked = "More than twice last year. Which bottle of silver nitrate was it?"
            decide(result, staff["reviewer"], "return", asked, result.evaluation.pk)
        elif number < UNDECIDED_FROM and result.status == Result.Status.PROVISIONAL:
            decide(result, staff["reviewer"], "accept", "", result.evaluation.pk)


def _correct(result: Result, person: Person) -> None:
    first = next(d for d in result.evaluation.determinations if d["role"] == "first")
    why = "a swirl was counted as a drop; the tally sheet says one fewer"
    correct_reading(result, person, first["id"], max(1, first["drops"] - 1), "plain", why)
    result.refresh_from_db()
