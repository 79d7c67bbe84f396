"""Whether water lays down scale or dissolves it: calcium carbonate indices."""

from math import log10
from typing import NamedTuple


class SaturationIndices(NamedTuple):
    """phs: the pH at which calcium carbonate neither settles nor dissolves. lsi (Langelier): above
    0 it settles. rsi (Ryznar): below 6 it settles, above 7 it dissolves. psi (Puckorius): as rsi,
    with the pH that the alkalinity stands for."""

    phs: float
    lsi: float
    rsi: float
    psi: float


def indices(
    ph: float, temperature_c: float, tds_mg_l: float, calcium: float, alkalinity: float
) -> SaturationIndices:
    """pH, °C, mg/L, mg/L as CaCO3 twice -> four numbers without a unit. The last three above 0.

    Source: Langelier 1936 in Carrier's simplification; Ryznar 1944; Puckorius & Brooke 1991.
    """
    dissolved = (log10(tds_mg_l) - 1) / 10
    warmth = -13.12 * log10(temperature_c + 273.15) + 34.55
    phs = 9.3 + dissolved + warmth - (log10(calcium) - 0.4) - log10(alkalinity)
    equilibrium_ph = 1.465 * log10(alkalinity) + 4.54
    return SaturationIndices(phs, ph - phs, 2 * phs - ph, 2 * phs - equilibrium_ph)
