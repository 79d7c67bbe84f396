"""The demo's waters and points, Lowen Vale. All invented."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from kessa.places.models import Point, Water
from kessa.places.services import change_point, make_point, make_water
from kessa.platform.models import Programme


@dataclass(frozen=True)
class Place:
    """A point: its key in the demo, its name, what else is said of it. pair: the key of the point
    it is compared with."""

    key: str
    name: str
    place: str
    pair: str = ""
    more: Mapping[str, Any] = field(default_factory=dict)


WATERS: tuple[tuple[str, str, str, tuple[Place, ...]], ...] = (
    ("Quill Brook", "stream", "ccme-freshwater", (
        Place("above", "above the pond",
              "right bank at the sheepfold, 120 m above the inlet", "below", {
                  "part": "upstream", "altitude_m": 418,
                  "getting_there": "Track from Tarrick slate quarry to the sheepfold; cross by "
                  "the slab.",
                  "dangers": ["The slab is slippery when wet.", "Quarry lorries on the track."],
              }),
        Place("below", "below the pond",
              "left bank at the stone stile, 80 m below the outlet", "above", {
                  "part": "downstream", "altitude_m": 406,
                  "getting_there": "Gate by the kiln, then the wall path to the stone stile.",
                  "dangers": ["Slippery below the stile when the brook is brown.",
                              "Two people from November on."],
              }),
    )),
    ("Ember Tarn", "lake", "ccme-freshwater", (
        Place("tarn", "at the jetty", "end of the wooden jetty, east shore", "", {
            "altitude_m": 486,
            "getting_there": "Forestry gate, then twenty minutes on foot.",
            "dangers": ["Deep water at the end of the jetty. Never alone."],
        }),
    )),
    ("Mossbank borehole", "well", "who-drinking", (
        Place("borehole", "at the wellhead", "tap on the rising main, pump house", "hut", {
            "part": "raw", "altitude_m": 251, "getting_there": "The key hangs at the hut.",
        }),
    )),
    ("Mossbank supply", "tap", "who-drinking", (
        Place("hut", "treatment hut, outlet", "sample tap after the contact tank", "borehole", {
            "part": "treated", "altitude_m": 249,
            "dangers": ["Chlorine store: open the door and wait before going in."],
        }),
        Place("tap-1", "tap 1, schoolhouse", "kitchen tap, cold", "hut", {"part": "tap"}),
        Place("tap-2", "tap 2, end of the lane", "yard tap of the last house", "hut",
              {"part": "tap"}),
    )),
    ("Brennick dye house, boiler", "boiler", "boiler-demo-low", (
        Place("feed", "feed water", "cooler at the feed tank", "", {
            "part": "feed", "dangers": ["Hot: use the sample cooler."],
        }),
        Place("boiler", "boiler water", "sample cooler, left of the sight glass", "feed", {
            "part": "boiler", "dangers": ["9 bar: open the cooling water first."],
        }),
        Place("condensate", "condensate", "return line before the feed tank", "", {
            "part": "condensate", "dangers": ["Hot: use the sample cooler."],
        }),
    )),
    ("Brennick dye house, cooling", "cooling", "cooling-demo", (
        Place("make-up", "make-up", "meter pit, tap behind the valve", "", {"part": "make-up"}),
        Place("circulating", "circulating water", "basin, north side", "make-up", {
            "part": "circulating", "dangers": ["Spray: wear the mask."],
        }),
    )),
    ("Brennick dye house, chilled loop", "chilled", "heating-loop-demo", (
        Place("chilled", "loop", "drain cock at pump 2", "", {
            "part": "system", "dangers": ["Glycol: catch every drop."],
        }),
    )),
    ("School heating", "heating", "heating-loop", (
        Place("school", "loop", "drain cock in the boiler room", "", {
            "part": "system", "dangers": ["Hot in winter: let it cool."],
        }),
    )),
)  # fmt: skip
"""Name, kind, limit set, points."""
FACTS: dict[str, dict[str, Any]] = {
    "Quill Brook": {"fish": "cold", "hardness": "moderate"},
    "Ember Tarn": {"fish": "warm", "hardness": "soft", "depth": 6.0},
    "Mossbank borehole": {"supply": "shared", "people": 210.0, "depth": 64.0},
    "Mossbank supply": {
        "supply": "shared",
        "people": 210.0,
        "disinfectant": "chlorine",
        "pipes": ["copper", "lead"],
    },
    "Brennick dye house, boiler": {
        "pressure": 9.0,
        "volume": 4200.0,
        "metals": ["steel"],
        "treatment": "sulphite, phosphate and caustic, dosed into the feed tank",
    },
    "Brennick dye house, cooling": {
        "volume": 38000.0,
        "recirculation": 220.0,
        "cooled-by": 6.0,
        "disinfectant": "chlorine",
        "metals": ["steel", "stainless", "zinc"],
        "treatment": "inhibitor and chlorine",
    },
    "Brennick dye house, chilled loop": {
        "volume": 5500.0,
        "glycol": 25.0,
        "metals": ["steel", "copper"],
        "treatment": "nitrite, dosed by hand",
    },
    "School heating": {"volume": 2600.0, "metals": ["steel", "aluminium"]},
}
"""What is known of each by its kind."""
AT = {
    "above": (57.3042, -14.211),
    "below": (57.3021, -14.2068),
    "tarn": (57.3107, -14.2251),
    "borehole": (57.2918, -14.1702),
    "hut": (57.2912, -14.1688),
    "tap-1": (57.2896, -14.1651),
    "tap-2": (57.2879, -14.1602),
    "feed": (57.2801, -14.233),
    "make-up": (57.2806, -14.2318),
    "chilled": (57.2797, -14.2341),
    "school": (57.2868, -14.164),
}
"""Where they lie: Lowen Vale is nowhere, so out in the open ocean. Of a plant one point each."""


def make(programme: Programme) -> dict[str, Point]:
    """Every water with its points, by their keys; what is there already stays as it is."""
    made: dict[str, Point] = {}
    for name, kind, limits, places in WATERS:
        kept = Water.objects.of(programme).filter(name=name).first()
        water = kept or make_water(
            programme, None, limits, name=name, kind=kind,
            facts=FACTS.get(name, {}),
        )  # fmt: skip
        for place in places:
            made[place.key] = _point(water, place)
    for place in (one for *_, places in WATERS for one in places):
        if place.pair and made[place.key].pair_id is None:
            change_point(made[place.key], None, pair_id=made[place.pair].pk)
    return made


def _point(water: Water, place: Place) -> Point:
    found = Point.objects.of(water.programme).filter(water=water, name=place.name).first()
    at = dict(zip(("latitude", "longitude"), AT.get(place.key, ()), strict=False))
    return found or make_point(water, None, name=place.name, place=place.place, **at, **place.more)
