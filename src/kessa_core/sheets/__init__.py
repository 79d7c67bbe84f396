"""Compiling a run into its sheet: a state machine and tables in finished words.

    compile    method, limits and usual -> sheet
    tables     a stage's rows, bands and what is later
    rows       one table row: figure, range, verdict, gauge
    words      every sentence the player shows

The player counts, compares, indexes, adds and subtracts whole numbers; it holds no formula, no
limit and no text. Readings are whole numbers in half drops.
"""

from kessa_core.sheets.compile import compile_sheet

__all__ = ["compile_sheet"]
