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
    Photo,
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
    "Photo",
    "Short",
    "Signed",
]
