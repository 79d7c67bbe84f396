"""From one basis and unit of a parameter to another: the line y = factor x + shift.

Hardness in mmol/L counts Ca + Mg (100 mg/L as CaCO3 each), alkalinity and acidity count acid
capacity (50): never one conversion for both. Source: DIN 38409-6 and -7; kessa_core.quantities.
"""

from functools import cache

from kessa_core.errors import NoConversion
from kessa_core.quantities import hardness, species, units
from kessa_core.quantities.parameters import Parameter
from kessa_core.quantities.parameters import parameter as parameter_of

ACID_CAPACITY = ("alkalinity", "acidity")
"""Parameters whose mmol/L are of charge, not of moles."""


@cache
def line(parameter: str, source: tuple[str, str], target: tuple[str, str]) -> tuple[float, float]:
    """Factor and shift from *source* to *target*, each (basis, unit), for a *parameter*.

    Raises NoConversion where no rule connects the two, UnknownName for what does not exist.
    """
    (basis, unit), (other, wanted) = source, target
    known = parameter_of(parameter)
    given, to_mass = _mass(known, basis, unit)
    asked, from_mass = _mass(known, other, wanted)
    factor, shift = units.line(given, asked)
    if basis != other:
        factor *= species.factor_between(known.species(basis), known.species(other))
    return factor * to_mass / from_mass, shift / from_mass


def _mass(known: Parameter, basis: str, symbol: str) -> tuple[str, float]:
    """The unit in which pint can go on, and how many of it one of *symbol* is."""
    unit = units.unit(symbol)
    if unit.carbonate:
        if basis != "CaCO3":
            raise NoConversion(
                f"{symbol} is a unit of hardness and acid capacity.",
                field="unit",
                remedy="Use it for a quantity as CaCO3.",
            )
        return "mg/L", hardness.convert(1.0, unit.carbonate, "caco3_mg_l")
    if unit.amount:
        if not basis:
            raise NoConversion(f"{symbol} needs a basis: of what?", field="basis")
        of = known.species(basis)
        charge = of.charge if known.key in ACID_CAPACITY else 1
        return "mg/L", of.molar_mass / max(charge, 1)
    return symbol, 1.0
