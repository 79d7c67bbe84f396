"""Every calculation by its name, for the command line and for pages.

registry    names, parameters, units, sources; checking and calling
titration   titration-factor, titration-burette
species     species-convert
"""

from kessa_core.calculations import species, titration
from kessa_core.calculations.registry import Calculation, calculate, calculations

__all__ = ["Calculation", "calculate", "calculations", "species", "titration"]
