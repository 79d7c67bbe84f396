"""State -> outcome: the value with its interval and working line, a bound, or why there is none."""

from dataclasses import dataclass, field
from decimal import Decimal

from kessa_core.methods import Method
from kessa_core.quality.repeats import Decision, decide
from kessa_core.quantities import Value
from kessa_core.quantities.rounding import figure
from kessa_core.readings.dropcount import DropReading, drop_model
from kessa_core.runs.state import Finish, RunState


@dataclass(frozen=True)
class Outcome:
    """What a run reports. used: ids of the determinations that make the reported value.

    apart: why the reported value lies outside its own interval, when it does.
    """

    finish: Finish
    value: Value | None = None
    decision: Decision = "more"
    used: tuple[str, ...] = ()
    working: str = ""
    apart: str = ""
    cause: str = ""
    flags: tuple[str, ...] = field(default=())


def conclude(method: Method, state: RunState) -> Outcome:
    """The outcome of a run in *state*; an unfinished run has no value yet."""
    flags = tuple(state.flags)
    samples = [(d.id, d.reading) for d in state.samples if d.reading]
    readings = [reading for _, reading in samples]
    blanks = [d.reading for d in state.blanks if d.reading]
    if state.finish == "beyond":
        value = value_beyond(method, readings, blanks)
        last = readings[-1].drops
        working = f"no change at {last} drops: {last} × {method.titration.factor}, so {value.text}"
        return Outcome("beyond", value, "more", (samples[-1][0],), working, "", "", flags)
    if state.finish not in ("done", "not-repeatable"):
        return Outcome(state.finish, cause=state.cause, flags=flags)
    tolerance = 2 * method.repeats.agree_within_drops
    repeat = decide([reading.halves for reading in readings], tolerance)
    if state.finish == "not-repeatable":
        words = ", ".join(reading.words for reading in readings)
        cause = f"{words} drops: no two agree within {method.repeats.agree_within_drops}"
        return Outcome("not-repeatable", None, repeat.decision, cause=cause, flags=flags)
    value = value_of(method, [readings[i] for i in repeat.used], readings, blanks)
    return Outcome(
        "done",
        value,
        repeat.decision,
        tuple(samples[i][0] for i in repeat.used),
        working_line(method, [readings[i] for i in repeat.used], blanks, value),
        why_apart(method, value, blanks),
        flags=flags,
    )


def value_of(
    method: Method, used: list[DropReading], every: list[DropReading], blanks: list[DropReading]
) -> Value:
    """The reported value: mean count of *used* times the printed factor, mg/L.

    The interval uses *every* determination that was not rejected.
    """
    number = float(mean_drops(method, used, blanks) * Decimal(method.titration.factor))
    return Value(
        method.quantity,
        number,
        method.measures.decimals,
        drop_model(method).interval(every, blanks),
        how="drop count",
        rounding=method.measures.rounding,
        clear=drop_model(method).clear,
    )


def value_beyond(method: Method, readings: list[DropReading], blanks: list[DropReading]) -> Value:
    """The bound kept when nothing changed at the maximum count."""
    number = float(readings[-1].drops * Decimal(method.titration.factor))
    model = drop_model(method)
    interval = model.interval([readings[-1]], blanks)
    decimals = method.measures.decimals
    how = "drop count"
    return Value(method.quantity, number, decimals, interval, ">", how, clear=model.clear)


def mean_drops(method: Method, used: list[DropReading], blanks: list[DropReading]) -> Decimal:
    """Mean count in drops; less the blank's, never below zero, where the method subtracts it."""
    mean = _mean(used)
    if method.blank.subtract and blanks:
        mean -= Decimal(blanks[-1].halves) / 2
    return max(mean, Decimal(0))


def working_line(
    method: Method, used: list[DropReading], blanks: list[DropReading], value: Value
) -> str:
    """The arithmetic in one line: "7, 8 drops: mean 7.5 × 8.3 = 62 mg/L as Cl"."""
    counts = ", ".join(_plain(Decimal(reading.halves) / 2) for reading in used)
    final = _plain(mean_drops(method, used, blanks))
    if method.blank.subtract and blanks:
        taken = _plain(Decimal(blanks[-1].halves) / 2)
        final = f"{_plain(_mean(used))} less blank {taken} = {final}"
    word = "mean " if len(used) > 1 else ""
    return f"{counts} drops: {word}{final} × {method.titration.factor} = {value.text}"


def _mean(used: list[DropReading]) -> Decimal:
    return Decimal(sum(reading.halves for reading in used)) / (2 * len(used))


def why_apart(method: Method, value: Value, blanks: list[DropReading]) -> str:
    """One sentence when the reported figure lies outside its own interval, else nothing."""
    if value.lies_in_its_range:
        return ""
    if blanks and not method.blank.subtract:
        drops = blanks[-1].words
        return (
            f"The interval lies lower than the reported figure: the colour itself takes titrant "
            f"(the blank took {drops}), and this method does not take that off."
        )
    return "The kit reports the upper edge of the last drop; the truth lies below it."


def _plain(number: Decimal) -> str:
    return figure(number, 2).rstrip("0").rstrip(".")
