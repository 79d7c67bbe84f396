"""What would settle a close call, found by trying: hypothetical intervals, no rules of thumb."""

from dataclasses import replace

from kessa_core.judging.limits import Limit
from kessa_core.judging.verdict import judge
from kessa_core.methods import Method
from kessa_core.quantities import Value
from kessa_core.readings.dropcount import DropModel, DropReading, drop_model

STANDARD = "a standard, which shows this bottle's drop size"


def deciders(
    method: Method,
    value: Value,
    limit: Limit,
    readings: list[DropReading],
    blanks: list[DropReading],
) -> tuple[str, ...]:
    """What would take the interval off the limit, the cheapest first; never empty.

    Tried: a third determination like one of those made; the bottle's own drop size known from a
    standard; both where neither does alone. A laboratory always.
    """
    model = drop_model(method)
    known_drop = replace(model, spread=replace(model.spread, shared=0.01))
    thirds = [[*readings, reading] for reading in readings] if len(readings) == 2 else []
    found = []
    if any(_settled(model, third, blanks, value, limit) for third in thirds):
        found.append("a third determination")
    if _settled(known_drop, readings, blanks, value, limit):
        found.append(STANDARD)
    if not found and any(_settled(known_drop, third, blanks, value, limit) for third in thirds):
        found.append(f"{STANDARD}, together with a third determination")
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
    alike = sorted(readings, key=lambda reading: (reading.halves, reading.kind))
    tried = replace(value, interval=model.interval(alike, blanks))
    return judge(tried, limit).interval_sign != "close"
