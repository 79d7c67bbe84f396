"""The blank: recorded, passed or failed, taken off only where the method says so."""

from kessa_core.methods.parts import Blank
from kessa_core.readings.dropcount import DropReading


def passes(reading: DropReading, rule: Blank) -> bool:
    """Whether the blank changed within the kit's allowance."""
    return reading.kind != "beyond" and reading.halves <= 2 * rule.passes_at_most
