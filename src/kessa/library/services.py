"""Taking up a method document; noting a lot."""

from typing import Any

from django.db import transaction

from kessa.accounts.models import Person, Programme
from kessa.library.models import Lot, MethodVersion
from kessa.records.services import record
from kessa_core.methods import Method, load, shipped, shipped_ids
from kessa_core.methods.shelf import shipped_text


@transaction.atomic
def in_use(programme: Programme, method_id: str, by: Person) -> MethodVersion | None:
    """The newest version of a method; one that stands on the shelf alone is taken up first."""
    newest = MethodVersion.objects.of(programme).newest().filter(method_id=method_id).first()
    if newest is None and method_id in shipped_ids():
        return take_up(programme, shipped_text(method_id), by)
    return newest


def on_the_shelf(programme: Programme) -> list[Method]:
    """Shipped methods that the programme has not taken up."""
    used = set(MethodVersion.objects.of(programme).values_list("method_id", flat=True))
    return [shipped(key) for key in shipped_ids() if key not in used]


@transaction.atomic
def note_lot(programme: Programme, by: Person, **described: Any) -> Lot:
    """A lot that is in use from now on."""
    lot = Lot.objects.create(programme=programme, **described)
    record(programme, by, "lot.noted", lot, name=str(lot))
    return lot


@transaction.atomic
def take_up(programme: Programme, document: str, by: Person | None = None) -> MethodVersion:
    """Keep *document* as a version the programme uses; the same version again changes nothing.

    Raises BadDocument as kessa_core.methods.load.
    """
    method = load(document)
    version, fresh = MethodVersion.objects.get_or_create(
        programme=programme,
        method_id=method.id,
        version=method.version,
        defaults={"hash": method.hash, "title": method.title, "document": document},
    )
    if fresh:
        name = f"{method.id}, version {method.version}"
        record(programme, by, "method.taken-up", version, name=name, hash=method.hash)
    return version
