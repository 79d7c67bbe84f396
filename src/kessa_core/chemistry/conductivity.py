"""Conductivity at the temperature of the water, as it would read at 25 °C."""

from kessa_core.errors import NotANumber

ALPHA_PER_C = 0.0191
"""Linear coefficient of natural waters: Standard Methods 2510 B."""


def at_25(conductivity_us_cm: float, temperature_c: float, alpha_per_c: float) -> float:
    """k25 = k / (1 + alpha (t - 25)): µS/cm, °C, 1/°C -> µS/cm.

    Source: Standard Methods 2510 B. For readings that the meter has not compensated already.
    Raises NotANumber where the linear rule has left its range (its divisor is not positive).
    """
    divisor = 1 + alpha_per_c * (temperature_c - 25)
    if divisor <= 0:
        raise NotANumber(
            f"At {temperature_c:g} °C this coefficient leaves nothing to divide by.",
            field="temperature_c",
            remedy="Check the temperature and alpha_per_c.",
        )
    return conductivity_us_cm / divisor
