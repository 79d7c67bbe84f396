"""What would settle a close call, found by trying: hypothetical intervals, no rules of thumb."""

from dataclasses import replace

from kessa_core.judging.limits import Limit
from kessa_core.judging.verdict import judge
from kessa_core.methods import Method
from kessa_core.quantities import Value
from kessa_core.readings.dropcount import DropModel, DropReading, drop_model


def deciders(
    method: Method,
    value: Value,
    limit: Limit,
    readings: list[DropReading],
    blanks: list[DropReading],
) -> tuple[str, ...]:
    """What would take the interval off the limit, the cheapest first; never empty.

    Tried: a third determination like one of those made; the bottle's own drop size known from a
    standard; a portion three times larger, which makes the steps a third. A laboratory always.
    """
    model = drop_model(method)
    found = []
    if len(readings) == 2 and any(
        _settled(model, [*readings, reading], blanks, value, limit) for reading in readings
    ):
        found.append("a third determination")
    known_drop = replace(model, spread=replace(model.spread, shared=0.01))
    if _settled(known_drop, readings, blanks, value, limit):
        found.append("a standard, which shows this bottle's drop size")
    return (*found, "a finer kit or a laboratory")


def sentence(choices: tuple[str, ...]) -> str:
    """The choices as one sentence."""
    *first, last = choices
    listed = f"{', '.join(first)}, or {last}" if first else last
    return f"What would decide: {listed}."


def _settled(
    model: DropModel,
    readings: list[DropReading],
    blanks: list[DropReading],
    value: Value,
    limit: Limit,
) -> bool:
    tried = replace(value, interval=model.interval(readings, blanks))
    return judge(tried, limit).interval_sign != "close"
