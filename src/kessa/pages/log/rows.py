"""The rows of the log, ready to be drawn: a template asks each for little."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from django.urls import reverse
from django.utils import timezone

from kessa.pages.log.evidence import gauge_of
from kessa.places.models import Point
from kessa.platform.models import Programme
from kessa.results.models import Evaluation, Result
from kessa.ui.gauges import GaugeView
from kessa.verdicts.models import Verdict
from kessa.verdicts.queries import give_limits
from kessa.verdicts.services import attach_verdicts


@dataclass(frozen=True)
class LogRow:
    """One result as the log lists it. at: its sampling time where the reader is; day: heads the
    first row of a day; struck: figures that were struck, the oldest first; is_past: the verdict was
    given by limits that another set has taken the place of since."""

    result: Result
    address: str
    at: datetime
    day: str
    gauge: GaugeView | None
    struck: list[str]
    is_past: bool = False

    @property
    def time(self) -> str:
        return f"{self.at:%H:%M}"

    @property
    def label(self) -> str:
        """What the row's link leads to, for those who do not see the row."""
        return f"{self.result.name}, {self.at.day} {self.at:%b %Y, %H:%M}"

    @property
    def evaluation(self) -> Evaluation | None:
        return self.result.current

    @property
    def verdict(self) -> Verdict | None:
        """The one that leads."""
        return self.result.verdicts[0] if self.result.verdicts else None


def log_rows(
    programme: Programme,
    results: Sequence[Result],
    instead: Mapping[int, Verdict] | None = None,
    points: Iterable[Point] = (),
) -> list[LogRow]:
    """Rows for a page of results, with their points, verdicts and struck figures, in two queries
    and one for points that are not among *points*.

    instead: verdicts to show instead of the newest, by the number of the evaluation.
    """
    Point.objects.of(programme).give_to(results, points)
    attach_verdicts(results)
    past = _show(results, instead) if instead else set()
    struck = _struck_figures(programme, results)
    results_at = reverse("result", args=[programme.slug, 0]).removesuffix("0/")
    rows, before = [], ""
    for result in results:
        at = timezone.localtime(result.sampled_at)
        day = f"{at:%A} {at.day} {at:%B %Y}"
        heading = day if day != before else ""
        address = f"{results_at}{result.pk}/"
        rows.append(
            LogRow(
                result, address, at, heading, gauge_of(result), struck[result.pk], result.pk in past
            )
        )
        before = day
    return rows


def _show(results: Sequence[Result], instead: Mapping[int, Verdict]) -> set[int]:
    """Give each result the verdict that is to be shown; those of which it is not the newest."""
    give_limits(list(instead.values()))
    past = set()
    for result in results:
        if result.current is None:
            continue
        shown = instead[result.current.pk]
        if all(verdict.pk != shown.pk for verdict in result.verdicts):
            past.add(result.pk)
        shown.evaluation = result.current
        result.verdicts = [shown]
    return past


def _struck_figures(programme: Programme, results: Sequence[Result]) -> dict[int, list[str]]:
    """Figures that another one took the place of; what was only flagged or noted keeps its own."""
    found: dict[int, list[str]] = defaultdict(list)
    current = {result.pk: result.current for result in results}
    made = Evaluation.objects.of(programme).filter(result__in=[one.pk for one in results])
    for number, result, figure in made.order_by("id").values_list("id", "result_id", "figure"):
        stands = current.get(result)
        if stands is None or (number != stands.pk and figure != stands.figure):
            found[result].append(figure or "no result")
    return found
