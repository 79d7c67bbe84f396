"""What a person is told before and while taking a sample, by kind of water."""

from dataclasses import dataclass

from kessa.places.models import Water

Kind = Water.Kind


@dataclass(frozen=True)
class Wording:
    """cautions: before going. note: the heading of what is noted. lead: why. take: how the sample
    is taken, a line each. outdoors: weather and depth are asked. seen: what may be ticked. reasons:
    why nothing is sampled."""

    cautions: tuple[str, ...]
    note: str
    lead: str
    take: tuple[str, ...]
    outdoors: bool
    seen: tuple[str, ...]
    reasons: tuple[str, ...]


_PLAIN = ("clear water", "brown water", "foam", "smell")
OPEN_WATER = Wording(
    ("Never sample alone. If in doubt, do not sample.",),
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
    ("flood or strong current", "ice", "steep or slippery bank", "alone", "no access", "dry"),
)
WELL = Wording(
    ("Do not lean over an open shaft. Never go down alone.",),
    "Conditions at the well",
    "Note these before you pump. Rain and thaw can explain a result.",
    (
        "Pump until temperature and conductivity stay the same, or three volumes of the well.",
        "Rinse the bottle three times with this water, unless it is sterile or holds preservative.",
    ),
    True,
    _PLAIN,
    ("well dry", "pump does not run", "no access", "alone"),
)
TAP = Wording(
    ("Hot water scalds. Take cold water, unless hot is asked.",),
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
    (
        "Sample lines are hot and under pressure. Open the cooler’s water first, then the line, "
        "slowly.",
        "Follow the site’s rules. If in doubt, do not sample.",
    ),
    "Conditions in the plant",
    "Note what you see, and whether the plant runs. It can explain a result.",
    (
        "Flush the line, then cool the sample to the temperature the kit needs.",
        "Rinse the bottle three times with this water. Pour the rinses into the drain or the "
        "plant’s bucket, never into a stream.",
    ),
    False,
    _PLAIN,
    ("plant stopped", "sample point blocked", "no way to cool the sample", "no access", "unsafe"),
)
BY_KIND = {Kind.STREAM: OPEN_WATER, Kind.LAKE: OPEN_WATER, Kind.WELL: WELL, Kind.TAP: TAP}


def wording_of(kind: str) -> Wording:
    """What is said at a water of this kind; anything in a plant otherwise."""
    return BY_KIND.get(Kind(kind), PLANT)
