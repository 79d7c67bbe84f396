"""The blank: recorded, passed or failed, taken off only where the method says so."""

from kessa_core.methods.parts import Blank
from kessa_core.readings.reader import Reader
from kessa_core.readings.seen import Seen


def passes(seen: Seen, rule: Blank, reader: Reader) -> bool:
    """Whether the blank lies within the kit's allowance."""
    return seen.kind != "beyond" and reader.halves(seen) <= 2 * rule.passes_at_most
