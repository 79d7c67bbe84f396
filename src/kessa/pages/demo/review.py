"""What the demo's reviewer has not accepted yet: one result corrected, one sent back."""

from collections.abc import Mapping
from datetime import timedelta

from kessa.flows.correcting import correct_reading
from kessa.flows.reviewing import decide
from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.results.models import Result, Review

ASKED = "More than twice last year. Which bottle of silver nitrate was it?"


def make(programme: Programme, staff: Mapping[str, Person]) -> None:
    """Correct the newest chloride of the upper point, send back that of the lower one; nothing
    where a result was sent back before."""
    if Review.objects.of(programme).filter(decision=Review.Decision.RETURN).exists():
        return
    found = Result.objects.of(programme).of_parameter("chloride").for_review().newest_first()
    for name, act in (("above the pond", _correct), ("below the pond", _send_back)):
        if result := found.filter(point__name=name).first():
            act(result, staff)


def _correct(result: Result, staff: Mapping[str, Person]) -> None:
    first = next(d for d in result.evaluation.determinations if d["role"] == "first")
    why = "a swirl was counted as a drop; the tally sheet says one fewer"
    with clock.at(result.sampled_at + timedelta(hours=5)):
        person = staff["monitor"]
        correct_reading(result, person, first["id"], max(1, first["drops"] - 1), "plain", why)


def _send_back(result: Result, staff: Mapping[str, Person]) -> None:
    with clock.at(result.sampled_at + timedelta(days=3)):
        decide(result, staff["reviewer"], "return", ASKED, result.evaluation.pk)
