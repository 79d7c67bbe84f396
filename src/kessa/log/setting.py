"""Where a run is made: the limits in force there and what is usual there."""

from collections import defaultdict
from collections.abc import Iterable
from datetime import timedelta

from kessa.log.models import Result
from kessa.visits.models import Sample
from kessa.waters.models import Point
from kessa_core.judging import LimitSet, limit_set
from kessa_core.methods.fitness import Known
from kessa_core.quantities import Quantity
from kessa_core.readings.lots import NO_LOTS, Lots
from kessa_core.sheets import Setting
from kessa_core.trends.usual import Usual, usual

SAME_WATER = timedelta(hours=2)
"""So long before or after a sample, what was measured at its point tells of it too."""


def limits_of(point: Point) -> LimitSet | None:
    """The limit set that holds at this point's water."""
    return limit_set(point.water.limit_set) if point.water.limit_set else None


def known_of(sample: Sample) -> Known:
    """What is known of a sample before its test, with what was measured at its point within a few
    hours of it."""
    about = (sample.taken_at - SAME_WATER, sample.taken_at + SAME_WATER)
    results = Result.objects.at(sample.point).counting().filter(sampled_at__range=about)
    found = [r.current.value_of(r.parameter) for r in results.select_related("current")]
    return Known(
        tuple(sample.point.water.traits),
        tuple(sample.seen),
        None if sample.water_c is None else float(sample.water_c),
        tuple(value for value in found if value),
    )


def usuals_at(
    point: Point, quantities: Iterable[Quantity], leave_out: object = None
) -> dict[Quantity, Usual]:
    """What is usual at the point, of each quantity, from every result that counts but those of
    run *leave_out*; in one query."""
    wanted = {(q.parameter, q.unit, q.basis): q for q in quantities}
    results = Result.objects.at(point).counting().filter(parameter__in={key[0] for key in wanted})
    if leave_out:
        results = results.exclude(run_id=leave_out)
    columns = ("parameter", "current__unit", "current__basis", "current__number")
    numbers: dict[Quantity, list[float]] = defaultdict(list)
    for parameter, unit, basis, number in results.values_list(*columns):
        if found := wanted.get((parameter, unit, basis)):
            numbers[found].append(number)
    normal = {quantity: usual(some) for quantity, some in numbers.items()}
    return {quantity: one for quantity, one in normal.items() if one}


def setting_of(
    point: Point, quantities: Iterable[Quantity], leave_out: object = None, lots: Lots = NO_LOTS
) -> Setting:
    """Limits and what is usual of these quantities, as sheets and pages want them."""
    quantities = tuple(dict.fromkeys(quantities))
    found = limits_of(point)
    limits = found.of_all(quantities) if found else ()
    usuals = usuals_at(point, quantities, leave_out)
    return Setting(limits, lots=lots, usuals=tuple(usuals.items()))
