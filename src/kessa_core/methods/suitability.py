"""Is this sample fit for this method? What is known of the water, held against what the kit asks.

Asked before reagents are used up. Nothing here forbids a test: the person says that it was put
right, or tests all the same, and the result carries that.
"""

from dataclasses import dataclass

from kessa_core.errors import NoConversion
from kessa_core.methods.parts import Exclusion, Interference, SampleNeeds
from kessa_core.methods.steps import Window
from kessa_core.quantities import Value

TRAITS = {
    "glycol": "holds glycol",
    "high-pressure boiler": "is a high-pressure boiler’s",
    "demineralised": "is demineralised or condensate",
    "turbid": "is turbid",
    "coloured": "is coloured",
    "salt": "is salt",
    "aluminium": "touches aluminium parts",
    "chlorine dioxide": "is disinfected with chlorine dioxide or chlorite",
    "cold-water fish": "is home to cold-water fish, such as trout",
    "early life": "has fish eggs or fry in it now",
}
"""What a water can be noted as, in words."""
SEEN = {"brown water": ("turbid", "coloured")}
"""What may be meant by what was seen at the point."""
TEMPERED = {"warmed", "cooled"}
"""Preparations that bring the sample to the kit's temperature as a step of the method."""


@dataclass(frozen=True)
class KnownConditions:
    """What is known of a sample.

    traits: of its water; seen: at the point that day; water_c: °C when it was taken; values:
    measured at the point about that time.
    """

    traits: tuple[str, ...] = ()
    seen: tuple[str, ...] = ()
    water_c: float | None = None
    values: tuple[Value, ...] = ()


NOTHING_KNOWN = KnownConditions()


@dataclass(frozen=True)
class SuitabilityWarning:
    """Why the sample may not fit. prepare: what *do* says can be done to this sample."""

    id: str
    what: str
    do: str
    prepare: bool


def suitability_warnings(
    needs: SampleNeeds, known: KnownConditions
) -> tuple[SuitabilityWarning, ...]:
    """What speaks against testing this sample as it is, the gravest first."""
    found = [
        *(_excluded(one, known) for one in needs.not_for),
        _cold_or_warm(needs, known),
        *(_outside(needs.ph, value) for value in known.values if value.quantity.parameter == "ph"),
        *(_interfering(one, value) for one in needs.interferes for value in known.values),
    ]
    once = {concern.id: concern for concern in found if concern}
    return tuple(once.values())


def _excluded(one: Exclusion, known: KnownConditions) -> SuitabilityWarning | None:
    what = ""
    if one.water in known.traits:
        what = f"This water {TRAITS[one.water]}."
    elif seen := next((s for s in known.seen if one.water in SEEN.get(s, ())), ""):
        what = f"{seen.capitalize()} was seen; this kit is not for {one.water} water."
    key = f"not-for-{one.water.replace(' ', '-')}"
    return SuitabilityWarning(key, what, one.say, one.prepare) if what else None


def _cold_or_warm(needs: SampleNeeds, known: KnownConditions) -> SuitabilityWarning | None:
    window = needs.temperature_c
    if window is None or known.water_c is None or TEMPERED & set(needs.preparation):
        return None
    if float(window.low) <= known.water_c <= float(window.high):
        return None
    what = f"The water was {known.water_c:g} °C; this kit wants {window.low} to {window.high} °C."
    way = "Warm" if known.water_c < float(window.low) else "Cool"
    return SuitabilityWarning(
        "temperature", what, f"{way} the sample first, in its closed bottle.", True
    )


def _outside(window: Window | None, value: Value) -> SuitabilityWarning | None:
    if window is None or value.qualifier:
        return None
    if float(window.low) <= value.number <= float(window.high):
        return None
    what = f"pH {value.figure} was measured; this kit wants {window.low} to {window.high}."
    return SuitabilityWarning(
        "ph", what, "Adjust the pH as the kit describes, or use another kit.", True
    )


def _interfering(one: Interference, value: Value) -> SuitabilityWarning | None:
    if one.parameter != value.quantity.parameter or value.qualifier == "<":
        return None
    try:
        other = value.converted(basis=one.basis or value.quantity.basis)
    except NoConversion:
        return None
    if other.number <= float(one.above):
        return None
    found = f"{one.what.capitalize()} {other.text} was measured"
    what = f"{found}; above {one.above} {one.unit} this kit {one.does}."
    return SuitabilityWarning(f"with-{one.parameter}", what, one.do, False)
