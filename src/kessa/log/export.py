"""A run as a file: context first, then its events; ./kessa run makes the same result of it."""

from collections.abc import Iterable
from typing import Any

from kessa.bench.models import Event
from kessa.library.models import Lot
from kessa.log.models import Result
from kessa.log.setting import limits_of
from kessa_core.runs.export import write


def events_file(result: Result, events: Iterable[Event]) -> str:
    """The text of the file."""
    run, method = result.run, result.run.version.method
    held = limits_of(result.point)
    context = {
        "run": str(run.pk),
        "continues": str(run.continues_id) if run.continues_id else None,
        "point": str(result.point),
        "sampled": result.sampled_at.isoformat(),
        "lots": [_lot(lot) for lot in run.lots],
        "limit_set": {"id": held.id, "edition": held.edition} if held else None,
        "limits": [limit.model_dump(mode="json") for limit in held.of_all(method.quantities)]
        if held
        else [],
    }
    return write(method, [event.as_core() for event in events], context)


def _lot(lot: Lot) -> dict[str, Any]:
    said: dict[str, Any] = {
        "reagent": lot.reagent, "number": lot.number, "revision": lot.revision,
    }  # fmt: skip
    if lot.table:
        said["table"] = lot.table
    if lot.drop:
        said["drop"] = list(lot.drop)
    return said
