"""Where a run is judged: the limits in force when it was sampled, and what is usual there."""

from collections import defaultdict
from collections.abc import Iterable
from datetime import datetime

from kessa.places.models import Point
from kessa.places.services import set_at
from kessa.platform import clock
from kessa.results.entered import bands_at
from kessa.results.models import Result
from kessa.results.queries import EARLIER
from kessa.verdicts.measured import for_sample
from kessa.visits.models import Sample
from kessa_core.derived.deriving import SAME_SAMPLE
from kessa_core.judging import LimitSet
from kessa_core.judging.context import PointContext
from kessa_core.methods.suitability import KnownConditions
from kessa_core.quantities import Quantity
from kessa_core.readings.lots import NO_LOTS, Lots
from kessa_core.trends.series import Earlier
from kessa_core.trends.usual import Usual, usual


def known_of(sample: Sample) -> KnownConditions:
    """What is known of a sample before its test, with what was measured at its point within a few
    hours of it."""
    about = (sample.known_at - SAME_SAMPLE, sample.known_at + SAME_SAMPLE)
    results = Result.objects.of(sample.programme_id).at(sample.point).counting()
    near = results.filter(sampled_at__range=about).select_related("current")
    return KnownConditions(
        sample.point.water.known_traits,
        tuple(sample.seen),
        None if sample.water_c is None else float(sample.water_c),
        tuple(r.evaluation.value for r in near if r.evaluation.value),
    )


def usuals_at(
    point: Point,
    quantities: Iterable[Quantity],
    leave_out: object = None,
    at: datetime | None = None,
) -> dict[Quantity, Usual]:
    """What is usual at the point at a time (now, where it is not given), of each quantity, from
    every result that counts but those of run *leave_out*; in one query."""
    wanted = {(q.parameter, q.unit, q.basis): q for q in quantities}
    results = Result.objects.of(point.programme_id).at(point).counting()
    results = results.filter(parameter__in={key[0] for key in wanted})
    if leave_out:
        results = results.exclude(run_id=leave_out)
    columns = ("parameter", "current__unit", "current__basis", *EARLIER)
    history: dict[Quantity, list[Earlier]] = defaultdict(list)
    for parameter, unit, basis, *earlier in results.values_list(*columns):
        if found := wanted.get((parameter, unit, basis)):
            history[found].append(Earlier(*earlier))
    at = at or clock.now()
    normal = {quantity: usual(some, at) for quantity, some in history.items()}
    said = {quantity: one for quantity, one in normal.items() if one}
    return said | bands_at(point, set(wanted.values()) - said.keys())


def context_of(
    sample: Sample,
    quantities: Iterable[Quantity],
    leave_out: object = None,
    lots: Lots = NO_LOTS,
    held: LimitSet | None = None,
) -> PointContext:
    """Limits in force at sampling time (now, before the sample is taken), and what is usual, of
    these quantities. *held*: that limit set, where it was looked up already."""
    quantities = tuple(dict.fromkeys(quantities))
    found = held or set_at(sample.point, sample.known_at)
    limits = for_sample(found.of_all(quantities) if found else (), sample)
    usuals = usuals_at(sample.point, quantities, leave_out, sample.known_at)
    return PointContext(limits, lots=lots, usuals=tuple(usuals.items()))
