"""A run as a file: context first, then its events; ./kessa run makes the same result of it."""

from collections.abc import Iterable

from kessa.results.evaluations import instruments_data, lot_data
from kessa.results.models import Result
from kessa.runs.models import Event
from kessa.verdicts.services import current_verdicts
from kessa_core.runs.export import write


def events_file(result: Result, events: Iterable[Event]) -> str:
    """The text of the file, with the limits that the result was judged against as they stood."""
    run, method = result.run, result.run.method
    limits = [verdict.limit for verdict in current_verdicts(result) if verdict.limit]
    held = limits[0] if limits else None
    context = {
        "run": str(run.pk),
        "continues": str(run.continues_id) if run.continues_id else None,
        "point": str(result.point),
        "water_kind": run.water_kind,
        "sampled": result.sampled_at.isoformat(),
        "lots": [lot_data(lot) for lot in run.resting_on],
        "instruments": instruments_data(run),
        "limit_set": {"id": held.limit_set, "edition": held.edition} if held else None,
        "limits": [limit.data for limit in limits],
    }
    return write(method, [event.as_core() for event in events], context)
