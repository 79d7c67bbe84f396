"""What is known of a water by its kind: what its limits and its calculations need."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

PLANT = ("boiler", "cooling", "heating", "chilled")
LOOPS = ("heating", "chilled")
SUPPLY = ("well", "tap")
NATURAL = ("stream", "lake")
COLD, CHLORINE_DIOXIDE, ALUMINIUM = "cold", "chlorine-dioxide", "aluminium"
Choices = tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Fact:
    """One thing that is asked of some kinds of water. answer: a number in *unit*, one or several of
    the *choices*, or a line of text."""

    key: str
    label: str
    answer: Literal["number", "one", "several", "text"]
    kinds: tuple[str, ...]
    unit: str = ""
    choices: Choices = ()

    def text(self, said: Any) -> str:
        """An answer in words."""
        names = dict(self.choices)
        if self.answer == "several":
            return ", ".join(names.get(one, one) for one in said)
        if self.answer == "one":
            return names.get(said, str(said))
        return f"{said:g} {self.unit}".strip() if self.answer == "number" else str(said)


FACTS = (
    Fact(
        "supply", "Supply", "one", SUPPLY,
        choices=(("public", "public supply"), ("shared", "shared private supply"),
                 ("single", "one household"), ("works", "school or works")),
    ),
    Fact("people", "People served", "number", SUPPLY),
    Fact(
        "disinfectant", "Disinfected with", "one", (*SUPPLY, "cooling"),
        choices=(("none", "nothing"), ("chlorine", "free chlorine"), ("chloramine", "chloramine"),
                 (CHLORINE_DIOXIDE, "chlorine dioxide or chlorite"), ("bromine", "bromine"),
                 ("ozone", "ozone"), ("uv", "ultraviolet light")),
    ),
    Fact(
        "pipes", "Pipes", "several", ("tap",),
        choices=(("lead", "lead"), ("copper", "copper"), ("galvanised", "galvanised steel"),
                 ("iron", "iron"), ("plastic", "plastic")),
    ),
    Fact(
        "hardness", "Hardness class", "one", (*NATURAL, *SUPPLY),
        choices=(("soft", "soft, below 60 mg/L as CaCO₃"),
                 ("moderate", "moderately hard, 61–120 mg/L as CaCO₃"),
                 ("hard", "hard, 121–180 mg/L as CaCO₃"),
                 ("very-hard", "very hard, above 180 mg/L as CaCO₃")),
    ),
    Fact(
        "fish", "Fish", "one", NATURAL,
        choices=((COLD, "cold-water fish, such as trout"),
                 ("warm", "warm-water fish, such as carp"), ("none", "none known")),
    ),
    Fact("depth", "Depth", "number", ("well", "lake"), "m"),
    Fact("pressure", "Operating pressure", "number", ("boiler",), "bar"),
    Fact("volume", "System volume", "number", PLANT, "L"),
    Fact(
        "metals", "Metals that touch the water", "several", PLANT,
        choices=(("steel", "steel"), ("stainless", "stainless steel"), ("copper", "copper"),
                 ("brass", "brass"), (ALUMINIUM, "aluminium"), ("zinc", "galvanised steel")),
    ),
    Fact("glycol", "Glycol", "number", LOOPS, "% by volume"),
    Fact("recirculation", "Recirculation", "number", ("cooling",), "m³/h"),
    Fact("cooled-by", "Cooled in the tower by", "number", ("cooling",), "K"),
    Fact("treatment", "Treatment programme", "text", PLANT),
)  # fmt: skip
"""Hardness classes: US Geological Survey, Water Science School."""


def facts_of(kind: str) -> list[Fact]:
    """What is asked of a kind of water."""
    return [fact for fact in FACTS if kind in fact.kinds]


def told(kind: str, said: Mapping[str, Any]) -> list[tuple[str, str]]:
    """What is known, as label and words."""
    return [(one.label, one.text(said[one.key])) for one in facts_of(kind) if one.key in said]


FOLLOWING = {
    "fish": "cold-water fish",
    "disinfectant": "chlorine dioxide",
    "metals": "aluminium",
    "glycol": "glycol",
}
"""The trait that may follow from a fact, so that nobody has to say it twice."""


def traits_from(said: Mapping[str, Any]) -> Iterable[str]:
    """The traits (kessa_core.methods.suitability) that follow from what is known."""
    if said.get("fish") == COLD:
        yield FOLLOWING["fish"]
    if said.get("disinfectant") == CHLORINE_DIOXIDE:
        yield FOLLOWING["disinfectant"]
    if ALUMINIUM in said.get("metals", ()):
        yield FOLLOWING["metals"]
    if said.get("glycol"):
        yield FOLLOWING["glycol"]


def system_inputs(said: Mapping[str, Any]) -> dict[str, str]:
    """What is known as inputs of the calculations (kessa_core.calculations), by their keys."""
    found: dict[str, str] = {}
    if volume := said.get("volume"):
        found |= {"volume_l": f"{volume:g}", "volume_m3": f"{volume / 1000:g}"}
    if recirculation := said.get("recirculation"):
        found["circulation_m3_h"] = f"{recirculation:g}"
    if cooled := said.get("cooled-by"):
        found["range_c"] = f"{cooled:g}"
    return found
