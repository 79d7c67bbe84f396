"""What would settle a close call, found by trying: hypothetical intervals, no rules of thumb."""

from collections.abc import Sequence
from dataclasses import replace

from kessa_core.judging.limits import Limit
from kessa_core.judging.verdict import judge
from kessa_core.quantities import Value
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType


def suggest_next_steps(
    reader: ReadingType,
    value: Value,
    limit: Limit,
    seen: Sequence[Reading],
    blanks: Sequence[Reading],
) -> tuple[str, ...]:
    """What would take the interval off the limit, the cheapest first; never empty.

    Tried: one more determination like one of those made; what a standard shows; both where neither
    does alone. A laboratory always.
    """
    known = reader.with_standard()
    more = [[*seen, one] for one in seen] if len(seen) <= 2 else []
    words = "a third measurement" if len(seen) == 2 else "another measurement"
    found = []
    if any(_settled(reader, tried, blanks, value, limit) for tried in more):
        found.append(words)
    if _settled(known, seen, blanks, value, limit):
        found.append(reader.standard_shows)
    if not found and any(_settled(known, tried, blanks, value, limit) for tried in more):
        found.append(f"{reader.standard_shows}, together with {words}")
    return (*found, "a more precise kit or a laboratory")


def sentence(choices: tuple[str, ...]) -> str:
    """The choices as one sentence."""
    *first, last = choices
    listed = f"{', '.join(first)}, or {last}" if first else last
    return f"To get a clear verdict, use {listed}."


def _settled(
    reader: ReadingType,
    seen: Sequence[Reading],
    blanks: Sequence[Reading],
    value: Value,
    limit: Limit,
) -> bool:
    alike = sorted(seen, key=lambda one: (reader.half_steps(one), one.kind))
    interval, one_sided = reader.interval(alike, blanks), reader.one_sided(alike, blanks)
    tried = replace(value, interval=interval, one_sided=one_sided)
    return judge(tried, limit).interval_sign != "close"
