"""Hydroxide, carbonate and bicarbonate from P and M alkalinity."""

from typing import NamedTuple

from kessa_core.errors import NotANumber


class AlkalinitySpecies(NamedTuple):
    """Each in the unit of P and M."""

    hydroxide: float
    carbonate: float
    bicarbonate: float


def species(p: float, m: float) -> AlkalinitySpecies:
    """P and M alkalinity of one unit, such as mg/L as CaCO3 -> three of the same unit.

    Source: Standard Methods 2320 B, table 2320:II. Raises NotANumber where P lies above M.
    """
    if p > m:
        raise NotANumber(
            f"P alkalinity ({p:g}) is above M alkalinity ({m:g}).",
            field="p_as_caco3",
            remedy="M counts all that P counts and more. Check both counts and which is which.",
        )
    if 2 * p <= m:
        return AlkalinitySpecies(0.0, 2 * p, m - 2 * p)
    return AlkalinitySpecies(2 * p - m, 2 * (m - p), 0.0)
