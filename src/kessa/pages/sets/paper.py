"""What is printed for a set."""

from collections.abc import Sequence
from dataclasses import dataclass

from kessa.flows.packing import PointTests, SetPacking
from kessa.places.models import Point
from kessa.visits.models import TestSet


@dataclass(frozen=True)
class Label:
    """What stands on a sample bottle. number: which bottle of the point, of how many."""

    point: Point
    set: TestSet
    ml: int
    number: str
    tests: str


def labels_of(held: TestSet, points: Sequence[PointTests], packing: SetPacking) -> list[Label]:
    """A label for every bottle, in the order of the visit."""
    sizes = {one.place: one.bottles for one in packing.needed.samples}
    made = []
    for one in points:
        bottles = sizes.get(str(one.point), ())
        names = ", ".join(method.short for method in one.in_order)
        for at, ml in enumerate(bottles, 1):
            number = f"{at} of {len(bottles)}" if len(bottles) > 1 else ""
            made.append(Label(one.point, held, ml, number, names))
    return made
