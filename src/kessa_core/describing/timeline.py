"""The clocks of a method on a line: hands and waits one after the other, for one measurement of
each result."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from kessa_core.methods import Method
from kessa_core.methods.steps import Step, Wait, duration_words
from kessa_core.sheets.compile import hands_of

RULES = {
    "exactly": "exactly {}",
    "at-least": "at least {}",
    "at-most": "at most {}",
    "instrument": "{}, the instrument counts",
}


@dataclass(frozen=True)
class Piece:
    """A stretch of the line. seconds: how long it is planned with; words: the rule of a wait."""

    kind: Literal["hands", "wait", "attended"]
    title: str
    seconds: int
    words: str = ""
    dark: bool = False


def timeline(method: Method) -> tuple[Piece, ...]:
    """What hands do, joined from one wait to the next, and every wait."""
    steps: list[Step] = [*method.before]
    for stage in method.stages:
        steps += [*stage.prepare, *stage.steps_for("sample")]
    return tuple(_pieces(steps))


def _pieces(steps: Iterable[Step]) -> Iterable[Piece]:
    hands, first = 0, ""
    for step in steps:
        if not step.wait:
            hands, first = hands + hands_of(step), first or step.title
            continue
        if hands:
            yield Piece("hands", first, hands)
        hands, first = 0, ""
        kind: Literal["wait", "attended"] = "attended" if step.wait.attended else "wait"
        yield Piece(kind, step.title, step.wait.longest_s, wait_words(step.wait), step.wait.dark)
    if hands:
        yield Piece("hands", first, hands)


def wait_words(wait: Wait) -> str:
    """ "exactly 10 min", "24 h to 28 h at 34.5 to 35.5 °C", "2 min to 10 min, by the result
    before"."""
    kept = wait.temperature_c
    return f"{_time_words(wait)}{f' at {kept.low} to {kept.high} °C' if kept else ''}"


def _time_words(wait: Wait) -> str:
    if wait.rule == "until":
        return f"until {wait.until}"
    if wait.rule == "typed":
        return "as long as the instrument shows"
    if wait.rule == "between":
        return f"{duration_words(wait.seconds or 0)} to {duration_words(wait.to_seconds or 0)}"
    if wait.rule == "computed":
        times = [band.seconds for band in wait.table]
        ends = f"{duration_words(min(times))} to {duration_words(max(times))}"
        return f"{ends}, by the result before"
    return RULES[wait.rule].format(duration_words(wait.seconds or 0))
