"""What a standard in a run came to."""

from kessa_core.methods.stage import Stage
from kessa_core.quality.agreement import recovery
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType


def standard_recovery(
    stage: Stage, reader: ReadingType, seen: Reading
) -> tuple[str, float, int, int] | None:
    """A standard's words, recovery in percent and window."""
    rule = stage.standard
    if not rule:
        return None
    found = reader.number(seen)
    words = f"standard {rule.value} found {reader.shown(found)}"
    return words, recovery(float(found), float(rule.value)), rule.low_percent, rule.high_percent
