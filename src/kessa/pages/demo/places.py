"""The demo's waters: Quill Brook above and below the settling pond. All invented."""

from typing import Any

from kessa.places.models import Point, Water
from kessa.places.services import change_point, make_point, make_water
from kessa.platform.models import Programme


def make(programme: Programme) -> tuple[Point, Point]:
    """The brook and its two points, paired."""
    kept = Water.objects.of(programme).filter(name="Quill Brook").first()
    brook = kept or make_water(
        programme, None, "ccme-freshwater", name="Quill Brook", kind=Water.Kind.STREAM,
        traits=["cold-water fish"],
    )  # fmt: skip
    above = _point(
        brook,
        "above the pond",
        place="right bank at the sheepfold, 120 m above the inlet",
        altitude_m=418,
        getting_there="Track from Tarrick slate quarry to the sheepfold; cross by the slab.",
        dangers=["The slab is slippery when wet.", "Quarry lorries on the track."],
    )
    below = _point(
        brook,
        "below the pond",
        place="left bank at the stone stile, 80 m below the outlet",
        altitude_m=406,
        getting_there="Gate by the kiln, then the wall path to the stone stile.",
        dangers=[
            "Slippery below the stile when the brook is brown.",
            "Two people from November on.",
        ],
    )
    for point, other in ((above, below), (below, above)):
        if point.pair_id is None:
            change_point(point, None, pair_id=other.pk)
    return above, below


def _point(water: Water, name: str, **described: Any) -> Point:
    """The point with this name; made where it is missing."""
    found = Point.objects.of(water.programme).filter(water=water, name=name).first()
    return found or make_point(water, None, name=name, **described)
