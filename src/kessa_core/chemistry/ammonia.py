"""Ammonia in water: how much of it is not ionised, and what fresh water may hold."""

from typing import NamedTuple


def unionised_fraction(ph: float, temperature_c: float) -> float:
    """The share of total ammonia that is NH3 at this pH and °C, 0 to 1.

    Source: Emerson, Russo, Lund & Thurston 1975 (J. Fish. Res. Board Can. 32:2379), with 273.2 K as
    US EPA uses it: pKa = 0.09018 + 2729.92 / (273.2 + t).
    """
    pka = 0.09018 + 2729.92 / (273.2 + temperature_c)
    return 1 / (1 + 10 ** (pka - ph))


class AmmoniaCriteria(NamedTuple):
    """acute: a mean of one hour; chronic: of 30 days; both in mg/L of total ammonia as N."""

    acute: float
    chronic: float


LEAST_PH, MOST_PH, WARMEST_C = 6.5, 9.0, 30.0
"""The criteria are given from this pH to that one, and from 0 °C to this."""


def criteria(ph: float, temperature_c: float) -> AmmoniaCriteria:
    """What fresh water with salmonids and mussels may hold at this pH and °C.

    Source: US EPA 2013, Aquatic Life Ambient Water Quality Criteria for Ammonia (EPA-822-R-13-001).
    """
    below, above = 10 ** (7.204 - ph), 10 ** (ph - 7.204)
    with_salmonids = 0.275 / (1 + below) + 39.0 / (1 + above)
    by_warmth = (
        0.7249
        * (0.0114 / (1 + below) + 1.6181 / (1 + above))
        * 23.12
        * 10 ** (0.036 * (20 - temperature_c))
    )
    low, high = 10 ** (7.688 - ph), 10 ** (ph - 7.688)
    chronic = (
        0.8876
        * (0.0278 / (1 + low) + 1.1994 / (1 + high))
        * 2.126
        * 10 ** (0.028 * (20 - max(temperature_c, 7)))
    )
    return AmmoniaCriteria(min(with_salmonids, by_warmth), chronic)
