"""The newest result of each quantity at each point, drawn: what several pages list."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from django.utils import timezone

from kessa.pages.points import chart
from kessa.pages.points.chart_frame import Frame
from kessa.pages.points.events import ChartEvent
from kessa.pages.points.ranking import leading, rank_of, ranked
from kessa.places.models import Point
from kessa.platform.models import Programme
from kessa.results.history import Past, history_of
from kessa.results.models import LatestResult, Result
from kessa.ui.gauges import GaugeView, draw
from kessa.verdicts.models import Verdict
from kessa.verdicts.services import attach_verdicts
from kessa_core.judging import Limit
from kessa_core.quantities import Interval, Value
from kessa_core.trends.change import differences
from kessa_core.trends.trend import trend
from kessa_core.trends.usual import Normal, Usual, normal
from kessa_core.trends.words import told, trend_words


@dataclass
class Line:
    """One quantity at one point: its newest result with value, verdict, gauge and usual."""

    latest: LatestResult
    value: Value
    verdicts: Sequence[Verdict]
    gauge: GaugeView

    @property
    def point(self) -> Point:
        return self.latest.point

    @property
    def result(self) -> Result:
        return self.latest.result

    @property
    def day(self) -> str:
        """When it was sampled, where the reader is: "5 November"."""
        local = timezone.localtime(self.result.sampled_at)
        return f"{local.day} {local:%B}"

    @property
    def when(self) -> str:
        """The same, short and with the time: "5 Nov, 10:16"."""
        local = timezone.localtime(self.result.sampled_at)
        return f"{local.day} {local:%b, %H:%M}"

    @property
    def name(self) -> str:
        return self.value.quantity.name_with_form

    @property
    def usual(self) -> Usual | None:
        return self.latest.usual

    @property
    def usual_text(self) -> str:
        return f"{self.usual.text(self.value.decimals)}{self.usual.mark}" if self.usual else ""

    @property
    def code(self) -> str:
        """The verdict that leads."""
        return self.verdicts[0].code

    @property
    def words(self) -> str:
        """The verdict that leads, in words."""
        return self.verdicts[0].words

    @property
    def against(self) -> str:
        """The limit that leads, short."""
        return self.verdicts[0].against

    @property
    def weight(self) -> tuple[int, int]:
        """How much it is news, beside how often it was measured: the less, the more."""
        news, latest = self.latest.as_news, self.latest
        rank = rank_of(self.code, news.slip, news.count, latest.unusual, latest.moving)
        return rank, -latest.count

    @property
    def told(self) -> list[str]:
        """What its history says of it, the most telling first."""
        return told(self.latest.as_news, self.value, timezone.localdate(self.result.sampled_at))


def lines_at(programme: Programme, points: Sequence[Point]) -> list[Line]:
    """The newest line of every quantity at these points."""
    kept = LatestResult.objects.of(programme).with_values()
    lines = _drawn(list(kept.filter(point__in=points)), points)
    return sorted(lines, key=lambda line: (line.point.water_id, line.point.order, line.name))


def newest_lines(
    programme: Programme, numbers: Iterable[int], points: Sequence[Point]
) -> dict[int, Line]:
    """The lines of these projections, by their number. *points*: those that were read already."""
    kept = LatestResult.objects.of(programme).with_values().filter(pk__in=set(numbers))
    return {line.latest.pk: line for line in _drawn(list(kept), points)}


def leading_of_each(
    programme: Programme, points: Sequence[Point]
) -> list[tuple[Point, Line | None]]:
    """Each point with the line that weighs most there, or None where nothing was tested yet."""
    first = leading(ranked(LatestResult.objects.of(programme).filter(point__in=points)))
    lines = newest_lines(programme, [one.pk for one in first.values()], points).values()
    by_point = {line.point.pk: line for line in lines}
    return [(point, by_point.get(point.pk)) for point in points]


def draw_judged(
    value: Value, verdicts: Sequence[Verdict], band: Interval | None = None
) -> GaugeView:
    """The gauge of a value as it was judged: with the limits as they stood then."""
    leads = verdicts[0].as_core
    return draw(value, limits_of(verdicts), leads.sign, leads.words, band)


def limits_of(verdicts: Sequence[Verdict]) -> tuple[Limit, ...]:
    """The limits that the value was judged against, as they stood then."""
    core = [verdict.as_core for verdict in verdicts]
    return tuple(one.limit for one in core if one.limit and not one.reason)


def chart_of(
    line: Line,
    own: Sequence[Past],
    pair: Line | None,
    frame: Frame,
    events: Sequence[ChartEvent] = (),
) -> chart.Chart | None:
    """The chart of a line's history (its *own*), with its comparison point's."""
    other = history_of(pair.latest) if pair else []
    news = line.latest.as_news
    drawn = chart.Drawn(
        limits=limits_of(line.verdicts),
        usual=_band_of(line, own),
        since=news.since if news.lasts else None,
        pair=other,
        pair_name=pair.point.name if pair else "",
        events=events,
        decimals=line.value.decimals,
    )
    return chart.draw(own, drawn, frame)


def trend_sentence(line: Line, past: Sequence[Past]) -> str:
    """Whether a line's history, its *past*, rises or falls over the years; nothing where there is
    too little of it, or it is too long to be read whole."""
    if line.latest.count != len(past):
        return ""
    found = trend(one.as_core for one in past if one.counts)
    quantity = line.value.quantity
    return trend_words(found, line.name, quantity.label, line.value.decimals)


def chart_apart(
    line: Line,
    own: Sequence[Past],
    pair: Line | None,
    frame: Frame,
    events: Sequence[ChartEvent] = (),
) -> chart.Chart | None:
    """The chart of a line's difference to its comparison point, day by day; *own*: its history."""
    other = history_of(pair.latest) if pair else []
    apart = differences([one.as_core for one in own], [one.as_core for one in other])
    past = [Past(d.at, d.number, d.low or 0.0, d.high or 0.0, "none") for d in apart]
    band = normal(apart[:-1])
    drawn = chart.Drawn(usual=band, events=events, decimals=line.value.decimals)
    return chart.draw(past, drawn, frame)


def _band_of(line: Line, past: Sequence[Past]) -> Normal | None:
    """What is usual over the time that is drawn: by season where it is known so and every result is
    there; else as it is for the newest one."""
    if line.usual is None:
        return None
    if line.usual.seasonal and line.latest.count == len(past):
        return normal(one.as_core for one in past[:-1] if one.counts)
    return Normal(line.usual)


def news_sentence(line: Line, pair: Line | None) -> str:
    """What is new at a point: the newest value, what its history says of it, its pair."""
    first = f"{line.name} is {line.value.text_after_name}"
    if not line.told and line.usual:
        first += f"; usual here is {line.usual_text}"
    said = [f"{first}.", *line.told[:2]]
    if pair and pair.result.sampled_at.date() == line.result.sampled_at.date():
        place = f"{pair.point.name[:1].upper()}{pair.point.name[1:]}"
        as_usual = "" if pair.latest.unusual or not pair.usual else ", as usual there"
        said.append(f"{place}: {pair.value.text_after_name}{as_usual}.")
    return " ".join(said)


def _drawn(latest: list[LatestResult], points: Sequence[Point]) -> list[Line]:
    if latest:
        Point.objects.of(latest[0].programme_id).give_to(latest, points)
    attach_verdicts([one.result for one in latest])
    return [line for one in latest if (line := _line(one))]


def _line(latest: LatestResult) -> Line | None:
    value, verdicts = latest.result.evaluation.value, latest.result.verdicts
    if value is None:
        return None
    band = latest.usual.band if latest.usual else None
    return Line(latest, value, verdicts, draw_judged(value, verdicts, band))
