"""Balances of cooling circuits, loops and boilers, and what to dose."""

from math import exp, expm1, log
from typing import NamedTuple

from kessa_core.errors import NotANumber

EVAPORATED_PER_C = 0.00153
"""Share of the circulating water that evaporates for each °C by which it is cooled."""


def cycles(circulating: float, makeup: float) -> float:
    """How often the make-up is concentrated: of an ion that stays dissolved, one unit for both."""
    return circulating / makeup


class Balance(NamedTuple):
    """m³/h. blowdown: all that is lost but by evaporation, drift and leaks in it."""

    blowdown: float
    makeup: float


def balance(evaporation_m3_h: float, cycles_: float) -> Balance:
    """m³/h, cycles above 1 -> what leaves and what is fed, by the balance of water and salt."""
    blowdown = evaporation_m3_h / (cycles_ - 1)
    return Balance(blowdown, evaporation_m3_h + blowdown)


def evaporation_m3_h(circulation_m3_h: float, range_c: float) -> float:
    """m³/h, °C between warm and cooled water -> m³/h; a rule of thumb, 0.89 of the latent heat.

    Source: Perry's Chemical Engineers' Handbook (0.00085 gpm per gpm and °F).
    """
    return EVAPORATED_PER_C * circulation_m3_h * range_c


def inhibitor_mg_l(
    first_mg_l: float,
    volume_m3: float,
    loss_m3_h: float,
    hours: float,
    feed_g_h: float,
    makeup_mg_l: float,
) -> float:
    """What is left in a well-mixed loop of constant volume after some hours.

    Source: mass balance V dC/dt = q Cm + F - q C, solved; written so that a loss of nothing, or of
    next to nothing, is no special case.
    """
    turnovers = loss_m3_h * hours / volume_m3
    added = (loss_m3_h * makeup_mg_l + feed_g_h) * hours / volume_m3
    stays = -expm1(-turnovers) / turnovers if turnovers else 1.0
    return first_mg_l * exp(-turnovers) + added * stays


def half_life_h(volume_m3: float, loss_m3_h: float) -> float:
    """After how many hours half of what is not fed again is left. loss above 0."""
    return volume_m3 * log(2) / loss_m3_h


class Blowdown(NamedTuple):
    """of_feed, of_steam: percent; blowdown, feed: t/h."""

    cycles: float
    of_feed: float
    of_steam: float
    blowdown: float
    feed: float


def boiler_blowdown(feed_tds: float, boiler_tds: float, steam_t_h: float) -> Blowdown:
    """Dissolved solids of feed and boiler water in one unit, steam in t/h.

    Source: balance of solids; US DOE Steam Tip Sheet 9. Raises NotANumber where the boiler water is
    not the more concentrated.
    """
    if boiler_tds <= feed_tds:
        raise NotANumber(
            "The boiler water must hold more than the feed water.",
            field="boiler_tds",
            remedy="Check which figure is which.",
        )
    per_steam = feed_tds / (boiler_tds - feed_tds)
    blowdown = steam_t_h * per_steam
    return Blowdown(
        boiler_tds / feed_tds,
        100 * feed_tds / boiler_tds,
        100 * per_steam,
        blowdown,
        steam_t_h + blowdown,
    )


def dose_g(volume_l: float, current_mg_l: float, target_mg_l: float, active: float) -> float:
    """How much of a product to add, in g; what it adds to the volume is neglected.

    active: the share of it, by mass, that counts, 0 to 1. Raises NotANumber where the target lies
    below what is there.
    """
    if target_mg_l < current_mg_l:
        raise NotANumber(
            f"The water holds {current_mg_l:g} mg/L already, more than {target_mg_l:g}.",
            field="target_mg_l",
            remedy="Dosing cannot lower it: dilute or bleed instead.",
        )
    return volume_l * (target_mg_l - current_mg_l) / 1000 / active
