"""What a person is told before and while taking a sample, by kind of water."""

from dataclasses import dataclass

from kessa.places.models import Water
from kessa.visits.dangers import dangers_at

Kind = Water.Kind


@dataclass(frozen=True)
class Wording:
    """note: the heading of what is noted. lead: why. take: how the sample is taken, a line each.
    outdoors: weather and depth are asked. seen: what may be ticked. reasons: why nothing is
    sampled, beside what is dangerous."""

    note: str
    lead: str
    take: tuple[str, ...]
    outdoors: bool
    seen: tuple[str, ...]
    reasons: tuple[str, ...]


_PLAIN = ("clear water", "brown water", "foam", "smell")
OPEN_WATER = Wording(
    "Field conditions",
    "Note these before you touch the water. Rain and thaw can explain a result. First hang the air "
    "thermometer in the shade.",
    (
        "Stand downstream and point the bottle upstream.",
        "Rinse the bottle three times with this water, unless it is sterile or holds preservative. "
        "Empty it downstream.",
    ),
    True,
    (*_PLAIN, "algae", "dead fish", "ice", "litter"),
    ("no access", "dry"),
)
WELL = Wording(
    "Conditions at the well",
    "Note these before you pump. Rain and thaw can explain a result.",
    (
        "Pump until temperature and conductivity stay the same, or three volumes of the well.",
        "Rinse the bottle three times with this water, unless it is sterile or holds preservative.",
    ),
    True,
    _PLAIN,
    ("well dry", "pump does not run", "no access"),
)
TAP = Wording(
    "Conditions at the tap",
    "Note what you see. It can explain a result.",
    (
        "Let the tap run for two minutes; for a first draw take the very first water instead.",
        "Rinse the bottle three times with this water, unless it is sterile, holds preservative or "
        "takes a first draw.",
    ),
    False,
    _PLAIN,
    ("no water", "no access", "tap out of use"),
)
PLANT = Wording(
    "Conditions in the plant",
    "Note what you see, and whether the plant runs. It can explain a result.",
    (
        "Flush the line, then cool the sample to the temperature the kit needs.",
        "Rinse the bottle three times with this water. Pour the rinses into the drain or the "
        "plant’s bucket, never into a stream.",
    ),
    False,
    _PLAIN,
    ("plant stopped", "sample point blocked", "no access"),
)
BY_KIND = {Kind.STREAM: OPEN_WATER, Kind.LAKE: OPEN_WATER, Kind.WELL: WELL, Kind.TAP: TAP}


def reasons_at(kind: str) -> list[str]:
    """Why nothing may be sampled at a water of this kind, each once."""
    dangers = [one.reason for one in dangers_at(kind)]
    return list(dict.fromkeys([*dangers, *wording_of(kind).reasons]))


def wording_of(kind: str) -> Wording:
    """What is said at a water of this kind; anything in a plant otherwise."""
    return BY_KIND.get(Kind(kind), PLANT)
