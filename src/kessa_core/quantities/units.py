"""Conversion of units within one dimension; everything else is refused."""

from functools import cache
from typing import Any

from kessa_core.errors import NoConversion, UnknownName

# How people write a unit -> how pint reads it. mg/L and ppm are taken as equal in dilute water.
UNITS = {
    "mg/L": "milligram / liter",
    "µg/L": "microgram / liter",
    "g/L": "gram / liter",
    "ppm": "milligram / liter",
    "µS/cm": "microsiemens / centimeter",
    "mS/cm": "millisiemens / centimeter",
    "°C": "degC",
    "°F": "degF",
    "NTU": "nephelometric_turbidity",
    "FNU": "formazin_nephelometric",
    "JTU": "jackson_turbidity",
    "m": "meter",
    "cm": "centimeter",
    "°dH": "german_hardness",
    "pH": "ph_unit",
    "‰": "permille_salt",
    "% vol": "percent_volume",
    "degree": "seen_degree",
    "drops": "counted_drops",
}

APART = (
    "nephelometric_turbidity", "formazin_nephelometric", "jackson_turbidity", "german_hardness",
    "ph_unit", "permille_salt", "percent_volume", "seen_degree",
    "counted_drops",
)  # fmt: skip
"""Units that no factor connects with any other one."""


@cache
def _registry() -> Any:
    import pint

    registry: Any = pint.UnitRegistry(autoconvert_offset_to_baseunit=True)
    for name in APART:
        registry.define(f"{name} = [{name}]")
    return registry


def _known(symbol: str) -> str:
    try:
        return UNITS[symbol]
    except KeyError:
        raise UnknownName(
            f"There is no unit {symbol!r}.", field="unit", remedy=f"Known: {', '.join(UNITS)}."
        ) from None


def same_kind(source: str, target: str) -> bool:
    """Whether a factor turns the one unit into the other; raises UnknownName as convert()."""
    a, b = _registry().Unit(_known(source)), _registry().Unit(_known(target))
    return source == target or bool(a.dimensionality == b.dimensionality)


def convert(number: float, source: str, target: str) -> float:
    """*number* in *source* as a number in *target*.

    Raises UnknownName for a unit that is not in the list, NoConversion where the two measure
    different things (NTU, FNU and JTU are three different things).
    """
    a_name, b_name = _known(source), _known(target)
    if source == target:
        return number
    a, b = _registry().Unit(a_name), _registry().Unit(b_name)
    if a.dimensionality != b.dimensionality:
        raise NoConversion(
            f"{source} and {target} measure different things.",
            field="unit",
            remedy="Measure again in the other unit; no factor turns one into the other.",
        )
    return float(_registry().Quantity(number, a).to(b).magnitude)
