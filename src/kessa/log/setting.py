"""Where a run is made: the limits in force there and what is usual there."""

from kessa.log.models import Result
from kessa.waters.models import Point
from kessa_core.judging import LimitSet, limit_set
from kessa_core.quantities import Quantity
from kessa_core.sheets import Setting
from kessa_core.trends.usual import Usual, usual


def limits_of(point: Point) -> LimitSet | None:
    """The limit set that holds at this point's water."""
    return limit_set(point.water.limit_set) if point.water.limit_set else None


def usual_at(point: Point, quantity: Quantity, leave_out: object = None) -> Usual | None:
    """What is usual at the point, from every result that counts but that of run *leave_out*."""
    results = Result.objects.at(point).of_parameter(quantity.parameter).counting()
    if leave_out:
        results = results.exclude(run_id=leave_out)
    return usual(list(results.values_list("current__number", flat=True)))


def setting_of(point: Point, quantity: Quantity, leave_out: object = None) -> Setting:
    """Limits and usual together, as sheets and pages want them."""
    found = limits_of(point)
    limits = found.of(quantity) if found else ()
    return Setting(limits, usual_at(point, quantity, leave_out))
