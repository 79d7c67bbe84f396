"""What follows from several values of one sample, and which of them cannot all be true.

definition   what a derived value needs, and how it is computed
propagation  the interval of a function of several values
shipped      the derived values that Kessa knows
deriving     finding the inputs among what was measured, and computing
relations    values that contradict each other
"""

from kessa_core.derived.deriving import DerivedValue, Measured, Place, derive
from kessa_core.derived.relations import Contradiction, contradictions

__all__ = ["Contradiction", "DerivedValue", "Measured", "Place", "contradictions", "derive"]
