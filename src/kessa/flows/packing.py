"""What to pack for a set: its methods at its points, and what is in stock for them."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils import timezone

from kessa.library.cases import things_along
from kessa.library.models import Instrument, KitCase, Lot, MethodVersion
from kessa.library.stock import Due, running_out
from kessa.places.models import Point
from kessa.platform import clock
from kessa.visits.models import TestSet
from kessa_core.methods import Method
from kessa_core.preparing.packing import Pack, PackedTest, Packing, pack


@dataclass(frozen=True)
class PointTests:
    """A point of a set and the methods that are done there."""

    point: Point
    methods: tuple[Method, ...]

    @property
    def in_order(self) -> list[Method]:
        """The most perishable first, as they are done."""
        return sorted(self.methods, key=lambda one: one.sample.perishable)


@dataclass(frozen=True)
class SetPacking:
    """What to pack, and what to look at before: lots and instruments that are bad, run out or are
    due."""

    needed: Packing
    check: tuple[Due, ...]


def points_of(held: TestSet) -> list[Point]:
    """The points of a set, in the order of the visit."""
    found = {one.pk: one for one in Point.objects.of(held.programme).filter(pk__in=held.point_ids)}
    return [found[one] for one in held.point_ids if one in found]


def tests_of_set(held: TestSet) -> list[PointTests]:
    """Each point of a set with its methods, as their newest documents say."""
    newest = MethodVersion.objects.of(held.programme).newest()
    methods = {one.method_id: one.method for one in newest.filter(method_id__in=held.method_ids)}
    return [
        PointTests(
            point,
            tuple(
                methods[key].in_water(point.water.kind)
                for key in held.methods_at(point.pk)
                if key in methods
            ),
        )
        for point in points_of(held)
    ]


def packing_of(held: TestSet) -> SetPacking:
    """What to pack for a set."""
    asked = tests_of_set(held)
    tests = [PackedTest(method, str(one.point)) for one in asked for method in one.methods]
    needed = pack(tests, _at_hand(held))
    return SetPacking(needed, tuple(_to_check(held, needed)))


def _at_hand(held: TestSet) -> dict[str, list[Pack]]:
    """The packs in use that are still good: those in the set's case before those in none, and these
    before those in other cases; opened ones and those that end first before others."""
    today = timezone.localdate(clock.now())
    lots = [lot for lot in Lot.objects.of(held.programme).with_use().filter(in_use=True)
            if lot.is_good_on(today)]  # fmt: skip
    cases = list(KitCase.objects.of(held.programme).in_use())
    case_of = {number: case for case in cases for number in case.lots}
    near = things_along(held.programme_id, held.case_id).lots.nearness
    found: dict[str, list[Pack]] = {}
    for lot in sorted(
        lots, key=lambda one: (-near(one.pk), one.opened is None, one.last_day or today.max)
    ):
        where = _where(case_of.get(lot.pk), held.case)
        found.setdefault(lot.reagent, []).append(Pack(lot.number, lot.stock(0.0), where))
    return found


def _where(case: KitCase | None, taken: KitCase | None) -> str:
    """What to say of a lot in *case*, for a visit that takes the case *taken*."""
    if case == taken:
        return ""
    return f"from {case}" if case else f"not in {taken}"


def _to_check(held: TestSet, needed: Packing) -> Sequence[Due]:
    """Of what runs out or is due, what this set takes."""
    names = {one.name for one in needed.reagents}
    kinds = set(needed.equipment)
    meters = {
        one.name for one in Instrument.objects.of(held.programme).filter(in_use=True)
        if kinds & set(one.kinds)
    }  # fmt: skip
    return [
        one for one in running_out(held.programme)
        if one.name in meters or any(one.name.startswith(f"{name} ") for name in names)
    ]  # fmt: skip
