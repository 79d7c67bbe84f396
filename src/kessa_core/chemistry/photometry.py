"""Absorbance and transmittance: A = 2 - log10 T%. Source: Beer-Lambert, by definition."""

from math import log10

from kessa_core.errors import NotANumber


def transmittance_percent(absorbance: float) -> float:
    """Absorbance (no unit) -> percent of the light that passes."""
    return float(100 * 10**-absorbance)


def absorbance(percent: float) -> float:
    """Percent of the light that passes -> absorbance. Raises NotANumber at or below zero."""
    if percent <= 0:
        raise NotANumber("No light passes: there is no absorbance.", field="percent_transmittance")
    return 2 - log10(percent)
