"""The sheet of own targets: a row for each thing that is measured at a water, or could be."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from pydantic import ValidationError

from kessa.library.models import MethodVersion
from kessa.places.limit_sets import Target, key_of, targets_of
from kessa.places.models import Point, Water
from kessa.places.often_set import OFTEN_SET
from kessa.results.models import LatestResult
from kessa_core.judging import LimitSet, Verdict, judge
from kessa_core.judging.limits import Limit
from kessa_core.quantities import Quantity

WRONG = "Enter numbers, the lower one first."
WORDS_ONLY = ("degree", "in 100 mL")
"""Units of what is said in words, for which nobody sets or enters a band."""


@dataclass(frozen=True)
class Told:
    """What the newest value of a point would be called."""

    point: Point
    text: str
    verdict: Verdict


@dataclass
class TargetRow:
    """A quantity with what was typed for it. told: what its newest values would be called."""

    quantity: Quantity
    least: str = ""
    most: str = ""
    source: str = ""
    wrong: str = ""
    told: list[Told] = field(default_factory=list)

    @property
    def key(self) -> str:
        """By which its fields are named."""
        return key_of(self.quantity)

    @property
    def name(self) -> str:
        """The parameter, with its form where that tells it apart."""
        return self.quantity.name_with_form

    @property
    def is_set(self) -> bool:
        """Whether a band was typed."""
        return bool(self.least or self.most)

    @property
    def target(self) -> Target:
        """The target as it was typed."""
        return Target(self.quantity, self.least, self.most, self.source)


class TargetSheet:
    """Every row, filled from what was *typed*, else from the targets in the set that *held*.

    rows: what is measured at the water or has a target; likely: what is often given one at waters
    of its kind; more: what the methods in use measure.
    """

    def __init__(
        self, water: Water, held: LimitSet | None, typed: Mapping[str, Any] | None
    ) -> None:
        self.water = water
        kept = targets_of(held)
        points = Point.objects.of(water.programme_id).filter(water=water)
        self.points = {point.pk: point for point in points}
        latest = LatestResult.objects.of(water.programme_id).filter(point__in=self.points)
        self.latest = list(latest.with_values().order_by("point__order", "point_id", "pk"))
        here = _by_key(_quantity(one) for one in self.latest)
        here |= {key: limit.quantity for key, limit in kept.items()}
        often = {key_of(q): q for q in OFTEN_SET[water.kind] if key_of(q) not in here}
        named = here.keys() | often.keys()
        others = {k: q for k, q in self._of_methods().items() if k not in named}
        self.rows = [self._row(q, kept.get(k), typed) for k, q in here.items()]
        self.likely = [self._row(q, None, typed) for q in often.values()]
        self.more = [self._row(q, None, typed) for q in others.values()]

    def _of_methods(self) -> dict[str, Quantity]:
        newest = MethodVersion.objects.of(self.water.programme_id).newest()
        return _by_key(
            stage.measures.quantity for version in newest for stage in version.method.stages
        )

    def _row(
        self, quantity: Quantity, kept: Limit | None, typed: Mapping[str, Any] | None
    ) -> TargetRow:
        row = TargetRow(quantity)
        if typed is not None:
            for name in ("least", "most", "source"):
                text = str(typed.get(f"{name}-{row.key}", "")).strip()[:240].replace("\x00", "")
                setattr(row, name, text if name == "source" else text.replace(",", "."))
        elif kept:
            row.least, row.most = kept.min or "", kept.max or ""
            row.source = kept.document or ""
        if row.is_set:
            self._judge(row)
        return row

    def _judge(self, row: TargetRow) -> None:
        try:
            limit = row.target.as_limit()
        except ValidationError:
            row.wrong = WRONG
            return
        for one in self.latest:
            value = one.result.evaluation.value
            if value and key_of(_quantity(one)) == row.key:
                point = self.points[one.point_id]
                row.told.append(Told(point, value.text, judge(value, limit)))

    @cached_property
    def every(self) -> list[TargetRow]:
        """All rows."""
        return [*self.rows, *self.likely, *self.more]

    @property
    def targets(self) -> list[Target]:
        """What was set."""
        return [row.target for row in self.every if row.is_set]

    @property
    def is_wrong(self) -> bool:
        """Whether something was typed that is no band."""
        return any(row.wrong for row in self.every)


def _quantity(one: LatestResult) -> Quantity:
    return Quantity(one.parameter, one.form, one.basis, one.unit)


def _by_key(quantities: Iterable[Quantity]) -> dict[str, Quantity]:
    """Each quantity once, in the unit in which it was met first."""
    found: dict[str, Quantity] = {}
    for one in quantities:
        if one.unit not in WORDS_ONLY:
            found.setdefault(key_of(one), one)
    return dict(sorted(found.items(), key=lambda item: item[1].name))
