"""The blank: recorded, passed or failed, subtracted only where the method says so."""

from kessa_core.methods.parts import Blank
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType


def passes(seen: Reading, rule: Blank, reader: ReadingType) -> bool:
    """Whether the blank lies within the kit's allowance."""
    return seen.kind != "beyond" and reader.half_steps(seen) <= 2 * rule.passes_at_most
