"""Parameters, bases, units and values that never lose them.

atoms, species   what converts into what, by mass
parameters       the list people pick from
units            conversion within one dimension
value            Quantity, Interval, Value
rounding         figures as people read them
"""

from kessa_core.quantities.parameters import Parameter, parameter, parameters
from kessa_core.quantities.value import Interval, Quantity, Value

__all__ = ["Interval", "Parameter", "Quantity", "Value", "parameter", "parameters"]
