"""What the statistic of a limit comes to at each water, from its latest samples."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import timedelta

from django.db.models import Q
from django.utils import timezone

from kessa.pages.limits.queries import applied
from kessa.places.models import Point, Water
from kessa.platform import clock
from kessa.platform.models import Programme
from kessa.results.models import Result
from kessa_core.errors import NoConversion
from kessa_core.judging import Limit, LimitSet
from kessa_core.judging.compliance import Compliance, DatedValue, compliance
from kessa_core.judging.verdict import inapplicable

LOOKED_AT = timedelta(days=480)
"""How far back samples can count: five quarters."""
MOST = 5000


OF_THE_SUPPLY = ("90th percentile", "running annual average", "monthly share")
"""Statistics of all points of a water together; of the others each point has its own."""


@dataclass(frozen=True)
class WaterCompliance:
    """A water, or one point of it, with what the statistic comes to there."""

    water: Water
    point: Point | None
    found: Compliance


def compliance_at(programme: Programme, held: LimitSet, limit: Limit) -> list[WaterCompliance]:
    """The statistic of *limit* at each water, or at each of its points, where its set applies today
    and something was sampled; nothing where each sample is compared by itself."""
    where = applied(programme)
    whole, here = where.waters.get(held.id, []), where.points.get(held.id, [])
    waters = {one.pk: one for one in (*whole, *(one.water for one in here))}
    elsewhere = [one for key, some in where.points.items() if key != held.id for one in some]
    places = Q(point__water__in=whole) | Q(point__in=here)
    results = Result.objects.of(programme).of_parameter(limit.parameter).counting()
    since = clock.now() - LOOKED_AT
    recent = results.filter(places, sampled_at__gte=since).exclude(point__in=elsewhere)
    recent = recent.newest_first()
    together = limit.statistic in OF_THE_SUPPLY
    samples: dict[tuple[int, Point | None], list[DatedValue]] = defaultdict(list)
    for result in recent.select_related("current", "point")[:MOST]:
        value = result.evaluation.value
        if value is None or inapplicable(value.quantity, limit):
            continue
        if limit.parts and result.point.part not in limit.parts:
            continue
        day = timezone.localdate(result.sampled_at)
        point = None if together else result.point
        samples[result.point.water_id, point].append(DatedValue(day, value))
    made = []
    for (number, point), some in samples.items():
        try:
            found = compliance(limit, some)
        except NoConversion:
            continue
        if found:
            made.append(WaterCompliance(waters[number], point, found))
    return sorted(made, key=lambda one: (one.water.name, one.point.name if one.point else ""))
