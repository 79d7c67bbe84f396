"""Every calculation by its name, for the command line and for pages.

registry    names, parameters, units, sources; checking and calling
titration   titration-factor, titration-burette
species     species-convert
water       hardness-convert, conductivity-25, turbidity-tube, turbidity-tube-inverse, dilution
photometer  photometer-transmittance, photometer-calibration, photometer-inverse
agreement   rpd, recovery, spike-recovery
bottles     drop-size, drop-size-weighed, bottle-bias, bottle-spread
"""

from kessa_core.calculations import agreement, bottles, photometer, species, titration, water
from kessa_core.calculations.registry import Calculation, calculate, calculations

__all__ = [
    "Calculation",
    "agreement",
    "bottles",
    "calculate",
    "calculations",
    "photometer",
    "species",
    "titration",
    "water",
]
