"""The fields of a calculation, as a page asks for them."""

from collections.abc import Mapping
from dataclasses import dataclass

from kessa_core.calculations import Calculation
from kessa_core.calculations.registry import LISTS, Given

MOST_TYPED = 2000


@dataclass(frozen=True)
class CalculationField:
    """One input with what was typed. choices: where it is a name from a list; rows: more than one
    number is asked."""

    key: str
    label: str
    unit: str
    text: str
    choices: tuple[tuple[str, str], ...]
    rows: bool
    help: str
    wrong: bool


def fields_of(
    found: Calculation, typed: Mapping[str, str], wrong: str = ""
) -> list[CalculationField]:
    """The fields of a calculation. wrong: the key of the one that was typed wrongly."""
    return [_field(given, typed, wrong) for given in found.given]


def _field(given: Given, typed: Mapping[str, str], wrong: str) -> CalculationField:
    key = given.name
    rows = given.kind in (list, LISTS)
    default = "" if given.default is None else f"{given.default:g}"
    says = ""
    if given.kind == LISTS:
        says = "One line for each, numbers apart by spaces."
    elif rows:
        says = "Numbers apart by spaces or lines."
    elif default:
        says = f"Left empty: {default} {given.unit}".strip()
    text = typed.get(key, "")[:MOST_TYPED]
    return CalculationField(
        key, given.label, given.unit, text, given.choices, rows, says, key == wrong
    )
