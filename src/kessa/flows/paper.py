"""What follows from a sheet that was typed in: visits, samples, runs and results, marked so."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from django.db import transaction

from kessa.flows.desk import desk_acts
from kessa.places.models import Point
from kessa.platform.models import Person, Programme
from kessa.runs.services import open_run
from kessa.visits.models import Sample, Visit
from kessa.visits.services import Asked, begin_visit, do_not_sample, take
from kessa_core.fast_entry.cells import Act


@dataclass(frozen=True)
class PaperRow:
    """One line of a sheet. tests: what a run of each method gets; note: beside the sample;
    not_sampled: why nothing was taken, where nothing was."""

    point: Point
    sampled_at: datetime
    tests: Mapping[str, Sequence[Act]]
    note: str = ""
    readings: int = field(default=0)
    not_sampled: str = ""


@transaction.atomic
def keep_sheet(programme: Programme, person: Person, rows: Sequence[PaperRow]) -> list[Visit]:
    """Keep every sample of a sheet; those of one day are one visit."""
    days: dict[object, list[PaperRow]] = {}
    for row in rows:
        days.setdefault(row.sampled_at.date(), []).append(row)
    return [_keep_day(programme, person, of_day) for of_day in days.values()]


def _keep_day(programme: Programme, person: Person, rows: Sequence[PaperRow]) -> Visit:
    asked = [Asked(row.point, tuple(row.tests)) for row in rows]
    begun_at = min(row.sampled_at for row in rows)
    visit = begin_visit(programme, person, asked, begun_at=begun_at)
    samples = Sample.objects.of(programme).filter(visit=visit).order_by("pk")
    for row, sample in zip(rows, samples, strict=True):
        if row.not_sampled:
            do_not_sample(sample, person, row.not_sampled, went_at=row.sampled_at)
            continue
        take(sample, person, row.sampled_at, programme.timezone, from_paper=True, note=row.note)
        for method_id, acts in row.tests.items():
            desk_acts(open_run(sample, person, method_id), person, *acts)
    return visit
