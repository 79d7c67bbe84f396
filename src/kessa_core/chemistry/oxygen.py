"""How much oxygen water holds in equilibrium with air, and how full it is."""

from math import exp, log

STANDARD_HPA = 1013.25
"""One standard atmosphere."""
WARMEST_C, SALTIEST_PSU = 40.0, 40.0
LOWEST_HPA, HIGHEST_HPA = 0.5 * STANDARD_HPA, 1.1 * STANDARD_HPA
"""The fit holds from 0 °C and 0 psu to these, and between these pressures."""


def saturation_mg_l(temperature_c: float, pressure_hpa: float, salinity_psu: float) -> float:
    """°C, hPa at the place (not reduced to sea level), psu -> mg/L.

    Source: Benson & Krause 1980, 1984 (Limnol. Oceanogr. 25:662, 29:620); Standard Methods 4500-O;
    USGS Office of Water Quality Technical Memorandum 2011.03.
    """
    kelvin = temperature_c + 273.15
    at_one_atm = exp(
        -139.34411
        + 1.575701e5 / kelvin
        - 6.642308e7 / kelvin**2
        + 1.243800e10 / kelvin**3
        - 8.621949e11 / kelvin**4
        - salinity_psu * (1.7674e-2 - 1.0754e1 / kelvin + 2.1407e3 / kelvin**2)
    )
    atm = pressure_hpa / STANDARD_HPA
    vapour = exp(11.8571 - 3840.70 / kelvin - 216961 / kelvin**2)
    theta = 0.000975 - 1.426e-5 * temperature_c + 6.436e-8 * temperature_c**2
    return at_one_atm * atm * (1 - vapour / atm) * (1 - theta * atm) / ((1 - vapour) * (1 - theta))


def percent(
    oxygen_mg_l: float, temperature_c: float, pressure_hpa: float, salinity_psu: float
) -> float:
    """100 times oxygen over what the water would hold where it is: mg/L, °C, hPa, psu -> %."""
    return 100 * oxygen_mg_l / saturation_mg_l(temperature_c, pressure_hpa, salinity_psu)


def pressure_at_hpa(altitude_m: float) -> float:
    """The standard atmosphere's pressure at an altitude of -500 to 11 000 m -> hPa.

    Source: ISO 2533:1975, standard atmosphere, troposphere: p = p0 (1 - 0.0065 h / 288.15)^5.25588.
    """
    warmth = 1 - 0.0065 * altitude_m / 288.15
    return STANDARD_HPA * exp(5.25588 * log(warmth))
