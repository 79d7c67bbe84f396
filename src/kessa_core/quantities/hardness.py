"""Hardness in the units that kits and countries print: all through mmol/L of calcium + magnesium.

Sources: unit definitions; DIN 38409-6 (German degree: 10 mg/L CaO); IUPAC 2021 abridged atomic
weights; grain 64.79891 mg, US gallon 3.785411784 L, imperial gallon 4.54609 L.
"""

from kessa_core.errors import UnknownName
from kessa_core.quantities.species import species

GRAIN_MG, US_GALLON_L, IMPERIAL_GALLON_L = 64.79891, 3.785411784, 4.54609
CAO_MG_MMOL = 56.077


def _mmol_of() -> dict[str, float]:
    """mmol/L of Ca + Mg that one of each unit stands for."""
    caco3 = species("CaCO3").molar_mass
    return {
        "mmol_l": 1.0,
        "caco3_mg_l": 1 / caco3,
        "dh": 10 / CAO_MG_MMOL,
        "fh": 10 / caco3,
        "clark": GRAIN_MG / IMPERIAL_GALLON_L / caco3,
        "gpg": GRAIN_MG / US_GALLON_L / caco3,
    }


UNITS = {
    "mmol_l": "mmol/L of Ca + Mg",
    "caco3_mg_l": "mg/L as CaCO₃",
    "dh": "°dH (German)",
    "fh": "°fH (French)",
    "clark": "°Clark (English)",
    "gpg": "grains a US gallon",
}
"""The units of hardness by their keys, as they are printed."""


def convert(value: float, given: str, wanted: str) -> float:
    """*value* of the unit *given* in the unit *wanted*.

    mmol_l (Ca + Mg, not meq/L), caco3_mg_l, dh (German), fh (French), clark (English), gpg (US).
    Raises UnknownName with the units that exist.
    """
    factors = _mmol_of()
    for unit in (given, wanted):
        if unit not in factors:
            known = ", ".join(factors)
            raise UnknownName(f"Hardness is not measured in {unit!r}.", remedy=f"Use {known}.")
    return value if given == wanted else value * factors[given] / factors[wanted]
