"""Before and after something happened at a point, in a sentence."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

from django.utils import timezone

from kessa.pages.points.events import ChartEvent, key_of
from kessa.pages.points.latest import Line
from kessa.platform.days import day_text
from kessa.results.history import results_between
from kessa_core.trends.change import DAYS, Change, TooFew, change_at, differences
from kessa_core.trends.words import change_words, day_words

SPANS = (30, DAYS, 120)
"""Days before and after that can be compared."""
MOST_CHOICES = 60
FIRST_YEAR = 1900
"""What happened before has no time before it that a calendar could name."""
NAMES = {
    "rain": "the rain",
    "heavy rain": "the heavy rain",
    "snow": "the snow",
    "thaw": "the thaw",
    "new lot": "the new lot",
    "salt": "the salting",
    "dose": "the product",
    "repair": "the repair",
    "cleaning": "the cleaning",
    "spill": "the spill",
    "other": "what happened",
}
"""How a sentence calls an event of each kind; of the others there is no before and after."""


@dataclass(frozen=True)
class Choice:
    """An event that can be chosen: its key, and what it was."""

    key: str
    words: str


@dataclass(frozen=True)
class BeforeAndAfter:
    """What can be chosen, what was chosen, and what came of it. sentences: of the point itself,
    and of its difference to the comparison point."""

    choices: list[Choice]
    chosen: str = ""
    days: int = DAYS
    sentences: tuple[str, ...] = ()

    @property
    def spans(self) -> tuple[int, ...]:
        return SPANS


def before_and_after(
    line: Line, pair: Line | None, events: Sequence[ChartEvent], wanted: str, days: str
) -> BeforeAndAfter:
    """The events of a line's point to choose from, the newest first, and what changed with the
    *wanted* one (its key) in so many *days* before and after."""
    known = [one for one in events if one.kind in NAMES and one.at.year >= FIRST_YEAR]
    told = known[-MOST_CHOICES:]
    choices = [Choice(key_of(one), f"{day_text(one.at)}: {one.words}") for one in reversed(told)]
    span = int(days) if days.isdecimal() and int(days) in SPANS else DAYS
    event = next((one for one in told if key_of(one) == wanted), None)
    if event is None:
        return BeforeAndAfter(choices, days=span)
    return BeforeAndAfter(choices, wanted, span, tuple(_sentences(line, pair, told, event, span)))


def _sentences(
    line: Line, pair: Line | None, events: Sequence[ChartEvent], event: ChartEvent, days: int
) -> list[str]:
    later = [one.at for one in events if one.kind == event.kind and one.at > event.at]
    until = min(later, default=None)
    around = (event.at - timedelta(days=days), event.at + timedelta(days=days))
    own = results_between(line.latest, *around)
    day, newest = (timezone.localdate(at) for at in (event.at, line.result.sampled_at))
    named = f"{NAMES[event.kind]} of {day_words(day, newest)}"
    said = [_said(change_at(own, event.at, days, until), line, named)]
    if pair and pair.value.quantity == line.value.quantity:
        apart = differences(own, results_between(pair.latest, *around))
        found = change_at(apart, event.at, days, until)
        said.append(_said(found, line, named, pair.point.name))
    return said


def _said(found: Change | TooFew, line: Line, event: str, pair: str = "") -> str:
    value = line.value
    return change_words(found, line.name, value.quantity.label, value.decimals, event, pair)
