"""Entering what is usual at a point, and looking it up."""

from collections.abc import Iterable

from django.db import transaction

from kessa.places.models import Point
from kessa.platform.audit import record
from kessa.platform.hashes import seal_of
from kessa.platform.models import Person
from kessa.results.models import EnteredUsual
from kessa.results.projections import Series, refresh_latest
from kessa_core.quantities import Quantity
from kessa_core.trends.usual import Usual


@transaction.atomic
def enter_usual(
    point: Point, by: Person, quantity: Quantity, band: tuple[float, float] | None, source: str
) -> EnteredUsual:
    """A band is usual for a quantity at a point until there is enough history; None: no longer."""
    low, high = band or (None, None)
    made = EnteredUsual.objects.create(
        programme_id=point.programme_id,
        point=point,
        parameter=quantity.parameter,
        form=quantity.form,
        basis=quantity.basis,
        unit=quantity.unit,
        low=low,
        high=high,
        source=source[:240],
        by=by,
    )
    refresh_latest([Series(point.programme_id, point.pk, quantity)])
    said = {"parameter": quantity.parameter, "low": low, "high": high, "source": source}
    record(point.programme, by, "usual.entered", point, seals=[seal_of([made])], **said)
    return made


def entered_at(programme_id: int, point_id: int) -> dict[Quantity, EnteredUsual]:
    """What was entered last for each quantity of a point."""
    kept = EnteredUsual.objects.of(programme_id).filter(point=point_id).standing()
    return {one.quantity: one for one in kept}


def bands_at(point: Point, wanted: Iterable[Quantity]) -> dict[Quantity, Usual]:
    """The bands that were entered for these quantities at a point; without one no query."""
    names = set(wanted)
    if not names:
        return {}
    kept = entered_at(point.programme_id, point.pk)
    return {q: band for q in names if q in kept and (band := kept[q].as_core)}
