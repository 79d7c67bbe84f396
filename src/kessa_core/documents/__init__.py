"""The vocabulary of every document that Kessa reads: short texts, figures, colours, quantities."""

from kessa_core.documents.parts import (
    Amount,
    Colour,
    Figure,
    Key,
    Line,
    Measurand,
    NamedColour,
    Part,
    Short,
    Signed,
)

__all__ = [
    "Amount",
    "Colour",
    "Figure",
    "Key",
    "Line",
    "Measurand",
    "NamedColour",
    "Part",
    "Short",
    "Signed",
]
