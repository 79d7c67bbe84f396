"""Every calculation by its name, for the command line and for pages.

registry    names, parameters, units, sources; checking and calling
titration   titration-factor, titration-burette
species     species-convert
water       hardness-convert, conductivity-25, turbidity-tube, turbidity-tube-inverse, dilution
photometer  photometer-transmittance, photometer-calibration, photometer-inverse
agreement   rpd, recovery, spike-recovery
bottles     drop-size, drop-size-weighed, bottle-bias, bottle-spread
natural     oxygen-saturation, oxygen-percent, ammonia-unionised, ammonia-criterion,
            copper-criterion, alkalinity-species
plant       langelier, cooling-cycles, cooling-balance, cooling-evaporation, cooling-inhibitor,
            boiler-blowdown, dose
compliance  percentile90, running-annual-average
"""

from kessa_core.calculations import (
    agreement,
    bottles,
    compliance,
    natural,
    photometer,
    plant,
    species,
    titration,
    water,
)
from kessa_core.calculations.registry import Calculation, calculate, calculations

__all__ = [
    "Calculation",
    "agreement",
    "bottles",
    "calculate",
    "calculations",
    "compliance",
    "natural",
    "photometer",
    "plant",
    "species",
    "titration",
    "water",
]
