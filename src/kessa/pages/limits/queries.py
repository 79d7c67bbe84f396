"""The limits in force in a programme, what was judged against one, and what can see it."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from kessa.library.models import MethodVersion
from kessa.library.services import shipped_beside
from kessa.pages.log.rows import LogRow, log_rows
from kessa.pages.points.latest import Line, newest_lines
from kessa.places.limit_sets import find_sets
from kessa.places.models import LimitAttachment, Point, Water
from kessa.platform import clock
from kessa.platform.models import Programme
from kessa.results.models import LatestResult, Result
from kessa.verdicts.models import JudgedLimit, Verdict
from kessa.verdicts.preview import Change, Preview
from kessa.verdicts.queries import VerdictQuery
from kessa_core.judging import Limit, LimitSet
from kessa_core.judging.can_see import Visibility, can_see
from kessa_core.methods import Method

MOST_POINTS = 60


@dataclass(frozen=True)
class SetInForce:
    """A limit set, the waters and single points where it applies today, and which of its limits are
    for something that is measured here."""

    held: LimitSet
    waters: list[Water | Point]
    measured: list[Limit]
    others: list[Limit]


@dataclass(frozen=True)
class MethodAnswer:
    """A method that measures what a limit is for. number: of the version in use; empty where the
    method is not used here yet."""

    method: Method
    number: str
    told: Visibility


def sets_in_force(programme: Programme) -> list[SetInForce]:
    """The limit sets that apply today, by title."""
    where = applied(programme)
    waters: dict[str, list[Water | Point]] = defaultdict(list)
    for places in (where.waters, where.points):
        for key, some in places.items():
            waters[key] += some
    latest = LatestResult.objects.of(programme).order_by()
    named = set(latest.values_list("parameter", flat=True).distinct())
    found = []
    for held in sorted(find_sets(programme.pk, waters).values(), key=lambda held: held.title):
        measured = [limit for limit in held.limits if limit.parameter in named]
        others = [limit for limit in held.limits if limit.parameter not in named]
        found.append(SetInForce(held, waters[held.id], measured, others))
    return found


@dataclass(frozen=True)
class Applied:
    """Where limit sets apply today, by their keys: waters, and points that have their own."""

    waters: dict[str, list[Water]]
    points: dict[str, list[Point]]


def applied(programme: Programme) -> Applied:
    """Where each limit set applies today; one query."""
    attached = LimitAttachment.objects.of(programme).in_force(clock.now())
    found = Applied(defaultdict(list), defaultdict(list))
    seen = set()
    for one in attached.select_related("water", "point__water"):
        place = (one.water_id, one.point_id)
        if place not in seen and one.limit_set not in ("", one.OF_ITS_WATER):
            if one.point is None:
                found.waters[one.limit_set].append(one.water)
            else:
                found.points[one.limit_set].append(one.point)
        seen.add(place)
    return found


def results_changing(programme: Programme, seen: Preview) -> list[tuple[Change, list[Result]]]:
    """Some of the results that would have another verdict, for each change of a preview."""
    wanted = {number for change in seen.changes for number in change.results}
    results = Result.objects.of(programme).select_related("current", "point").in_bulk(wanted)
    return [(change, [results[number] for number in change.results]) for change in seen.changes]


def judged_against(programme: Programme, held: LimitSet, limit: Limit) -> VerdictQuery:
    """The verdicts against a limit, in any edition of its set."""
    editions = JudgedLimit.objects.of(programme).filter(limit_set=held.id, limit_id=limit.id)
    numbers = list(editions.values_list("pk", flat=True))
    found: VerdictQuery = Verdict.objects.of(programme).against(numbers)
    return found


def rows_of(
    programme: Programme, verdicts: Sequence[Verdict], points: Iterable[Point] = ()
) -> list[LogRow]:
    """What these verdicts are about as rows of the log, each with its verdict. points: those that
    were read already."""
    wanted = {verdict.evaluation_id: verdict for verdict in verdicts}
    results = Result.objects.of(programme).filter(current__in=wanted).for_log_rows()
    by_evaluation = {result.current_id: result for result in results}
    return log_rows(programme, [by_evaluation[number] for number in wanted], wanted, points)


def newest_against(programme: Programme, held: LimitSet, limit: Limit) -> list[Line]:
    """The newest result of each point that was judged against a limit, by water and point."""
    latest = LatestResult.objects.of(programme).filter(parameter=limit.parameter, form=limit.form)
    numbers = latest.order_by("-sampled_at").values_list("pk", flat=True)[:MOST_POINTS]
    lines = newest_lines(programme, list(numbers), [])
    asked = (held.id, limit.id)
    found = [
        line
        for line in lines.values()
        if any(asked == (v.limit.limit_set, v.limit.limit_id) for v in line.verdicts if v.limit)
    ]
    return sorted(found, key=lambda line: (line.point.water_id, line.point.order, line.name))


def methods_for(programme: Programme, limit: Limit) -> list[MethodAnswer]:
    """What can be told of a limit by the methods in use and by those that are only shipped."""
    in_use = list(MethodVersion.objects.of(programme).newest())
    known = [(version.method, version.number) for version in in_use]
    beside = shipped_beside({version.method_id for version in in_use})
    known += [(method, "") for method in beside]
    return answers(limit, known)


def answers(limit: Limit, known: Iterable[tuple[Method, str]]) -> list[MethodAnswer]:
    """What each of these methods (with its number) tells of a limit, stage by stage."""
    return [
        MethodAnswer(method, number, told)
        for method, number in known
        for stage in method.stages
        if stage.measures.quantity.parameter == limit.parameter
        and (told := can_see(stage, limit)) is not None
    ]
