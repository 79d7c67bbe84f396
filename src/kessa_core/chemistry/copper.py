"""What copper fresh water of a hardness may hold."""

from math import exp, log
from typing import NamedTuple

SOFTEST, HARDEST = 25.0, 400.0
"""mg/L as CaCO3: beyond these published practice differs."""
DISSOLVED = 0.960
"""The share of the total criteria that holds for dissolved copper."""


class CopperCriteria(NamedTuple):
    """acute: a mean of one hour; chronic: of four days; µg/L of total recoverable copper."""

    acute: float
    chronic: float


def criteria(hardness_mg_l: float) -> CopperCriteria:
    """mg/L as CaCO3, 25 to 400 -> µg/L.

    Source: US EPA-820-B-96-001; National Recommended Water Quality Criteria 2002, appendix B;
    40 CFR 131.38.
    """
    of_hardness = log(hardness_mg_l)
    return CopperCriteria(exp(0.9422 * of_hardness - 1.700), exp(0.8545 * of_hardness - 1.702))
