"""What is usual at a point, entered by the programme until there is enough history."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.http import HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render

from kessa.library.models import MethodVersion
from kessa.pages.points.latest import lines_at
from kessa.pages.points.targets import WORDS_ONLY
from kessa.places.models import Point
from kessa.platform.permissions import Permission, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.platform.typed import one_line
from kessa.results.entered import enter_usual, entered_at
from kessa.results.models import EnteredUsual
from kessa_core.quantities import Quantity
from kessa_core.trends.usual import NEEDED

WRONG = "Enter two numbers, the lower one first, or leave both empty."


@dataclass
class UsualRow:
    """A quantity with the band that was typed or entered. history: what its results say is usual,
    where there are enough; count: how many there are."""

    quantity: Quantity
    low: str = ""
    high: str = ""
    source: str = ""
    history: str = ""
    count: int = 0
    wrong: str = ""

    @property
    def key(self) -> str:
        """By which its fields are named."""
        q = self.quantity
        return "-".join((q.parameter, q.form, q.basis, q.unit))

    @property
    def band(self) -> tuple[float, float] | None:
        """The band as numbers; None for none. Raises ValueError where it is no band."""
        if not self.low and not self.high:
            return None
        low, high = float(self.low), float(self.high)
        if not 0 <= low < high < 1e9:
            raise ValueError(WRONG)
        return low, high


@needs(Permission.MANAGE)
def usual(request: ProgrammeRequest, point_id: int) -> HttpResponse:
    """A band for everything that is or could be measured here, with its source."""
    point = get_object_or_404(Point.objects.of(request.programme), pk=point_id)
    kept = entered_at(request.programme.pk, point.pk)
    rows, more = _rows(request, point, kept)
    if request.method == "POST":
        changed = _typed([*rows, *more], request.POST, kept)
        if not any(row.wrong for row in (*rows, *more)):
            for row in changed:
                enter_usual(point, request.user, row.quantity, row.band, row.source)
            if changed:
                messages.success(request, "Saved. Results take over once there are enough.")
            return redirect("point", programme=request.programme.slug, point_id=point.pk)
    context: dict[str, Any] = {"point": point, "rows": rows, "more": more, "needed": NEEDED}
    status = 422 if request.method == "POST" else 200
    return render(request, "points/usual.html", context, status=status)


def _rows(
    request: ProgrammeRequest, point: Point, kept: dict[Quantity, EnteredUsual]
) -> tuple[list[UsualRow], list[UsualRow]]:
    """What is measured here or was entered; and what else the methods in use measure."""
    here: dict[Quantity, UsualRow] = {}
    for line in lines_at(request.programme, [point]):
        taken_over = line.usual is not None and not line.usual.is_entered
        history = line.usual_text if taken_over else ""
        row = UsualRow(line.value.quantity, history=history, count=line.latest.count)
        here[line.value.quantity] = row
    for quantity, one in kept.items():
        row = here.setdefault(quantity, UsualRow(quantity))
        if one.low is not None and one.high is not None:
            row.low, row.high, row.source = f"{one.low:g}", f"{one.high:g}", one.source
    versions = MethodVersion.objects.of(request.programme).newest()
    measured = [s.measures.quantity for version in versions for s in version.method.stages]
    more = {q: UsualRow(q) for q in measured if q not in here and q.unit not in WORDS_ONLY}
    named = sorted(more.values(), key=lambda row: row.quantity.name_with_form)
    return [row for row in here.values() if row.quantity.unit not in WORDS_ONLY], named


def _typed(
    rows: list[UsualRow], typed: QueryDict, kept: dict[Quantity, EnteredUsual]
) -> list[UsualRow]:
    """The rows with what was typed; those that say something else than before. Where the history
    says what is usual nothing is typed."""
    changed = []
    for row in rows:
        if row.history:
            continue
        row.low, row.high = (
            one_line(typed.get(f"{name}-{row.key}", ""), 13).replace(",", ".")
            for name in ("low", "high")
        )
        row.source = one_line(typed.get(f"source-{row.key}", ""), 240)
        was = kept.get(row.quantity)
        try:
            band = row.band
        except ValueError:
            row.wrong = WRONG
            continue
        before = (was.low, was.high) if was and was.low is not None else None
        if band != before or (band and was and row.source != was.source):
            changed.append(row)
    return changed
