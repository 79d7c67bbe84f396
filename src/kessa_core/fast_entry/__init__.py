"""Typing in what was written down on paper: what a cell says, which column is what, and what comes
of it while it is typed."""

from kessa_core.fast_entry.cells import Cell, read_cell
from kessa_core.fast_entry.columns import Column, columns_of
from kessa_core.fast_entry.pasting import Guess, Pasted, read_pasted
from kessa_core.fast_entry.preview import acts_of_row, preview

__all__ = [
    "Cell",
    "Column",
    "Guess",
    "Pasted",
    "acts_of_row",
    "columns_of",
    "preview",
    "read_cell",
    "read_pasted",
]
