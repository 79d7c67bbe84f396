"""The sight tube: depth at which the mark vanishes and turbidity.

Depth_cm = 244.13 NTU^-0.662: Myre & Shaw 2006 (Michigan Technological University), a fit of the
common tube between 6 and 100 cm. Other tubes and discs have other relations.
"""

from kessa_core.errors import NotANumber

SCALE_CM, POWER = 244.13, 0.662


def ntu(depth_cm: float) -> float:
    """Depth in cm -> NTU. Raises NotANumber at or below zero."""
    if depth_cm <= 0:
        raise NotANumber("The depth must be above 0 cm.", field="depth_cm")
    return float((SCALE_CM / depth_cm) ** (1 / POWER))


def depth_cm(turbidity_ntu: float) -> float:
    """NTU -> depth in cm. Raises NotANumber at or below zero."""
    if turbidity_ntu <= 0:
        raise NotANumber("The turbidity must be above 0 NTU.", field="ntu")
    return float(SCALE_CM * turbidity_ntu**-POWER)
