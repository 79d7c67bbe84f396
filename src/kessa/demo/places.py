"""The demo's waters: Quill Brook above and below the settling pond. All invented."""

from kessa.accounts.models import Programme
from kessa.waters.models import Point, Water


def make(programme: Programme) -> tuple[Point, Point]:
    """The brook and its two points, paired."""
    brook, _ = Water.objects.get_or_create(
        programme=programme,
        name="Quill Brook",
        defaults={"kind": Water.Kind.STREAM, "limit_set": "ccme-freshwater"},
    )
    above, _ = Point.objects.get_or_create(
        programme=programme,
        water=brook,
        name="above the pond",
        defaults={
            "place": "right bank at the sheepfold, 120 m above the inlet",
            "getting_there": "Track from Tarrick slate quarry to the sheepfold; cross by the slab.",
            "dangers": ["The slab is slippery when wet.", "Quarry lorries on the track."],
            "order": 1,
        },
    )
    below, _ = Point.objects.get_or_create(
        programme=programme,
        water=brook,
        name="below the pond",
        defaults={
            "place": "left bank at the stone stile, 80 m below the outlet",
            "getting_there": "Gate by the kiln, then the wall path to the stone stile.",
            "dangers": [
                "Slippery below the stile when the brook is brown.",
                "Two people from November on.",
            ],
            "order": 2,
        },
    )
    for point, other in ((above, below), (below, above)):
        if point.pair_id is None:
            point.pair = other
            point.save(update_fields=["pair"])
    return above, below
