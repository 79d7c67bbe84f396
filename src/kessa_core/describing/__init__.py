"""What a method looks like before it is done: its clocks on a line, its range and step, what to lay
out, and the lines of a blank data sheet."""

from kessa_core.describing.data_sheet import Block, Entry, data_sheet
from kessa_core.describing.layout import LayOut, lay_out
from kessa_core.describing.span import Mark, Span, span_of
from kessa_core.describing.timeline import Piece, timeline

__all__ = [
    "Block",
    "Entry",
    "LayOut",
    "Mark",
    "Piece",
    "Span",
    "data_sheet",
    "lay_out",
    "span_of",
    "timeline",
]
