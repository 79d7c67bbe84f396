"""Finding points, visits, results, lots, methods and people of one programme by a few letters."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.db.models import Q
from django.urls import reverse
from django.utils import timezone

from kessa.library.models import Lot, MethodVersion
from kessa.pages.search.dates import span
from kessa.places.models import Point
from kessa.platform.days import between_days, date_text, day_text, moment_text
from kessa.platform.models import Membership, Programme
from kessa.platform.plans import planned_for_its_values
from kessa.platform.typed import one_line
from kessa.results.models import Result
from kessa.visits.models import Sample
from kessa_core.quantities import parameters

MOST = 8
SHORTEST = 2


@dataclass(frozen=True)
class Hit:
    """One thing found: where it is, its name, and what tells it from others."""

    address: str
    name: str
    more: str


@dataclass(frozen=True)
class Group:
    """The hits of one kind."""

    title: str
    hits: list[Hit]


def find(programme: Programme, text: str) -> list[Group]:
    """Every kind with hits; nothing for less than two letters. One query a kind."""
    wanted = one_line(text, 80)
    if len(wanted) < SHORTEST:
        return []
    kinds = (
        ("Points", _points(programme, wanted)),
        ("Results", _results(programme, wanted)),
        ("Visits", _visits(programme, wanted)),
        ("Lots", _lots(programme, wanted)),
        ("Methods", _methods(programme, wanted)),
        ("People", _people(programme, wanted)),
    )
    with planned_for_its_values():
        groups = [Group(title, list(hits)) for title, hits in kinds]
    return [group for group in groups if group.hits]


def _every(wanted: str, *columns: str) -> Q:
    """Each word stands in one of the columns."""
    found = Q()
    for word in wanted.split():
        one = Q()
        for column in columns:
            one |= Q(**{f"{column}__icontains": word})
        found &= one
    return found


def _points(programme: Programme, wanted: str) -> Iterable[Hit]:
    columns = ("name", "place", "water__name")
    for point in Point.objects.of(programme).filter(_every(wanted, *columns))[:MOST]:
        yield Hit(_to(programme, "point", point.pk), str(point), point.place)


def _results(programme: Programme, wanted: str) -> Iterable[Hit]:
    """By number, by day, or by words that each name a point or a parameter."""
    results = Result.objects.of(programme)
    number = wanted.lstrip("#")
    days = span(wanted, timezone.localdate())
    if number.isdecimal() and len(number) < 16:
        fits = results.filter(pk=int(number))
    elif days:
        fits = results.between(*days)
    else:
        fits = results.filter(_named(programme, wanted))
    for result in fits.for_lists().newest_first()[:MOST]:
        value = result.evaluation.value
        name = f"{result.name}: {value.text_after_name if value else 'no result'}"
        more = f"{result.point} · {moment_text(result.sampled_at)}"
        yield Hit(_to(programme, "result", result.pk), name, more)


def _named(programme: Programme, wanted: str) -> Q:
    """Each word stands in the name of the result's point, of its water or of what was measured.
    Names are looked up first, so that results are found by their numbers."""
    points = list(Point.objects.of(programme).values_list("pk", "name", "water__name"))
    fits = Q()
    for word in wanted.lower().split():
        at = [pk for pk, *names in points if any(word in name.lower() for name in names)]
        of = [key for key, p in parameters().items() if word in p.name.lower()]
        if not at and not of:
            return Q(pk__in=[])
        if len(at) < len(points):
            fits &= Q(point_id__in=at) | Q(parameter__in=of)
    return fits


def _visits(programme: Programme, wanted: str) -> Iterable[Hit]:
    samples = Sample.objects.of(programme).exclude(taken_at=None)
    days = span(wanted, timezone.localdate())
    on_days = between_days("taken_at", *days) if days else None
    fits = samples.filter(on_days) if on_days else samples.saying(programme, wanted)
    for sample in fits.select_related("taken_by").order_by("-taken_at")[:MOST]:
        said = sample.reason or sample.weather or "sampled"
        more = f"{moment_text(sample.taken_at)} · {sample.taken_by} · {said}"
        yield Hit(_to(programme, "point", sample.point_id), str(sample.point), more)


def _lots(programme: Programme, wanted: str) -> Iterable[Hit]:
    for lot in Lot.objects.of(programme).filter(_every(wanted, "reagent", "number"))[:MOST]:
        more = f"expires {date_text(lot.expires)}" if lot.expires else "no expiry date recorded"
        yield Hit(_to(programme, "library"), str(lot), more)


def _methods(programme: Programme, wanted: str) -> Iterable[Hit]:
    newest = MethodVersion.objects.of(programme).newest()
    for version in newest.filter(_every(wanted, "title", "method_id"))[:MOST]:
        address = _to(programme, "method", version.method_id, version.version)
        yield Hit(address, version.title, version.method.kit)


def _people(programme: Programme, wanted: str) -> Iterable[Hit]:
    every = Membership.objects.filter(programme=programme).select_related("person")
    fits = _every(wanted, "person__shown_name", "person__username")
    for membership in every.filter(fits)[:MOST]:
        until = f" until {day_text(membership.ended_at)}" if membership.ended_at else ""
        yield Hit(_to(programme, "people"), str(membership.person), f"{membership.role}{until}")


def _to(programme: Programme, name: str, *rest: Any) -> str:
    return reverse(name, args=[programme.slug, *rest])
