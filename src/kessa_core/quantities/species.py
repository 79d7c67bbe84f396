"""What a concentration is expressed as, and the three rules that connect expressions."""

import math
import re
import tomllib
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

from kessa_core.errors import NoConversion, NotANumber, UnknownName

_PART = re.compile(r"([A-Z][a-z]?)(\d*)")
_SUBSCRIPT = str.maketrans("0123456789", "₀₁₂₃₄₅₆₇₈₉")


@dataclass(frozen=True)
class Species:
    """One expression ("as NO3"): formula, molar mass in g/mol, reported element, charge."""

    formula: str
    molar_mass: float
    element: str
    element_count: int
    charge: int

    @property
    def label(self) -> str:
        """The formula with subscripts, as people read it."""
        return self.formula.translate(_SUBSCRIPT)


def molar_mass(formula: str) -> float | None:
    """g/mol of a formula such as CoCl2; None where it is not one of known elements."""
    parts = _PART.findall(formula)
    atoms = _atoms()
    whole = "".join(symbol + number for symbol, number in parts) == formula
    if not parts or not whole or any(symbol not in atoms for symbol, _ in parts):
        return None
    return sum(atoms[symbol] * int(number or 1) for symbol, number in parts)


def _data(name: str) -> dict[str, Any]:
    text = resources.files("kessa_core.quantities").joinpath("data", name).read_text("utf-8")
    return tomllib.loads(text)


@cache
def _atoms() -> dict[str, float]:
    return {key: float(str(weight)) for key, weight in _data("atoms.toml").items()}


@cache
def _table() -> dict[str, Species]:
    table = {}
    for formula, entry in _data("species.toml").items():
        counts: dict[str, int] = {}
        for symbol, number in _PART.findall(formula):
            counts[symbol] = counts.get(symbol, 0) + int(number or 1)
        mass = sum(_atoms()[symbol] * count for symbol, count in counts.items())
        element = str(entry.get("element", ""))
        charge = int(entry.get("charge", 0))
        table[formula] = Species(formula, mass, element, counts.get(element, 0), charge)
    return table


def formulas() -> tuple[str, ...]:
    """Every formula in the list."""
    return tuple(sorted(_table()))


def species(formula: str) -> Species:
    """The species with this formula.

    Raises UnknownName with the formulas that exist.
    """
    try:
        return _table()[formula]
    except KeyError:
        known = ", ".join(sorted(_table()))
        raise UnknownName(f"There is no species {formula!r}.", remedy=f"Known: {known}.") from None


def factor(source: str, target: str) -> float:
    """What multiplies a mass concentration as *source* to give it as *target* (no unit).

    Rule A: both report the same element: equal moles of it (P2O5 holds two P).
    Rule B: CaCO3 with Ca or Mg: equal moles.
    Rule C: CaCO3 with HCO3, CO3 or OH: equal charge equivalents (2, 1, 2, 1).
    Raises NoConversion where none applies, UnknownName for a formula that does not exist.
    Source: stoichiometry with IUPAC 2021 abridged atomic weights.
    """
    return factor_between(species(source), species(target))


def factor_between(a: Species, b: Species) -> float:
    """factor() of two species. Raises NoConversion as factor()."""
    if a == b:
        return 1.0
    if a.element and a.element == b.element:
        return (b.molar_mass / b.element_count) / (a.molar_mass / a.element_count)
    if "CaCO3" in (a.formula, b.formula):
        other = b if a.formula == "CaCO3" else a
        if other.formula in ("Ca", "Mg"):
            return b.molar_mass / a.molar_mass
        if other.charge:
            return (b.molar_mass / b.charge) / (a.molar_mass / a.charge)
    raise NoConversion(
        f"No agreed rule turns a concentration as {a.label} into one as {b.label}.",
        field="to",
        remedy="They share no reported element, and none of the carbonate rules fits.",
    )


def convert(value: float, source: str, target: str) -> float:
    """A mass concentration *value* as *source*, expressed as *target* (same mass unit).

    Raises NotANumber for a value that is not finite, NoConversion and UnknownName as factor().
    """
    if not math.isfinite(value):
        raise NotANumber("value must be a finite number.", field="value")
    return value * factor(source, target)
