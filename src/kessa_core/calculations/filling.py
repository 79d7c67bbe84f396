"""Which calculations a result can go into, filled with it and with what was measured beside it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from kessa_core.calculations.registry import calculations
from kessa_core.errors import NoConversion
from kessa_core.quantities import Quantity, Value
from kessa_core.quantities.rounding import figure

WATER_C = Quantity("temperature", "water", "", "°C")
PH = Quantity("ph", "total", "", "pH")
INPUTS: dict[str, dict[str, tuple[Quantity, ...]]] = {
    "oxygen-percent": {
        "do_mg_l": (Quantity("oxygen", "dissolved", "", "mg/L"),), "temperature_c": (WATER_C,),
    },
    "oxygen-saturation": {"temperature_c": (WATER_C,)},
    "ammonia-unionised": {
        "total_as_n_mg_l": (Quantity("ammonia", "total", "N", "mg/L"),), "ph": (PH,),
        "temperature_c": (WATER_C,),
    },
    "ammonia-criterion": {"ph": (PH,), "temperature_c": (WATER_C,)},
    "copper-criterion": {"hardness_mg_l": (Quantity("hardness", "total", "CaCO3", "mg/L"),)},
    "alkalinity-species": {
        "p_as_caco3": (Quantity("alkalinity", "p", "CaCO3", "mg/L"),),
        "m_as_caco3": (Quantity("alkalinity", "m", "CaCO3", "mg/L"),),
    },
    "langelier": {
        "ph": (PH,), "temperature_c": (WATER_C,),
        "calcium_as_caco3": (Quantity("hardness", "calcium", "CaCO3", "mg/L"),),
        "alkalinity_as_caco3": (Quantity("alkalinity", "m", "CaCO3", "mg/L"),),
    },
    "dose": {
        "current_mg_l": (
            Quantity("nitrite", "total", "NO2", "mg/L"),
            Quantity("molybdate", "total", "MoO4", "mg/L"),
            Quantity("sulphite", "total", "SO3", "mg/L"),
            Quantity("free-chlorine", "total", "Cl2", "mg/L"),
        ),
    },
}  # fmt: skip
"""Of each calculation the inputs that a result can fill, with what they have to be."""
CONVERT = "species-convert"
OF_A_SYSTEM = ("dose", "cooling-evaporation", "cooling-inhibitor")


@dataclass(frozen=True)
class Filled:
    """A calculation with inputs that are known: its name, what it is for, the inputs by key."""

    name: str
    about: str
    inputs: tuple[tuple[str, str], ...]


def filled(
    value: Value, beside: Sequence[Value], system: Mapping[str, str] | None = None
) -> list[Filled]:
    """The calculations that *value* goes into, each filled with it, with those of the values
    *beside* it that fit, and with what is known of the *system* (by input, such as volume_l); a
    bracket or a word goes into none."""
    if value.bracket or value.said:
        return []
    made = [_filled(name, value, beside, system or {}) for name in INPUTS]
    found = [one for one in made if one]
    if value.quantity.basis:
        inputs = (("value", typed(value)), ("from", value.quantity.basis))
        found.append(Filled(CONVERT, calculations()[CONVERT].about, inputs))
    return found


def typed(value: Value) -> str:
    """A value as it would be typed into a calculation: "42 ± 5", "< 0.05"."""
    number = figure(value.number, value.decimals)
    if value.qualifier:
        return f"{value.qualifier} {number}"
    ends = value.interval
    if ends.low is None or ends.high is None:
        return number
    half = max(value.number - ends.low, ends.high - value.number)
    return f"{number} ± {figure(half, value.decimals + 1)}" if half > 0 else number


def _filled(
    name: str, value: Value, beside: Sequence[Value], system: Mapping[str, str]
) -> Filled | None:
    inputs: list[tuple[str, str]] = []
    for key, accepted in INPUTS[name].items():
        if same := _as_one_of(value, accepted):
            inputs.insert(0, (key, typed(same)))
    if not inputs:
        return None
    held = {key for key, _ in inputs}
    for key, accepted in INPUTS[name].items():
        fitting = (found for one in beside if (found := _as_one_of(one, accepted)))
        if key not in held and (other := next(fitting, None)):
            inputs.append((key, typed(other)))
    inputs += _asked(name, system)
    return Filled(name, calculations()[name].about, tuple(inputs))


def _asked(name: str, system: Mapping[str, str]) -> list[tuple[str, str]]:
    """What is known of a system that a calculation asks for."""
    asked = {given.key for given in calculations()[name].given}
    return [(key, said) for key, said in system.items() if key in asked]


def for_system(system: Mapping[str, str]) -> list[Filled]:
    """The calculations about a system that ask for what is known of it, filled with that."""
    made = [(name, _asked(name, system)) for name in OF_A_SYSTEM]
    return [Filled(name, calculations()[name].about, tuple(known)) for name, known in made if known]


def _as_one_of(value: Value, accepted: Sequence[Quantity]) -> Value | None:
    """The value in the unit and basis that is accepted for its parameter and form."""
    q = value.quantity
    for wanted in accepted:
        if (q.parameter, q.form) == (wanted.parameter, wanted.form):
            try:
                return value.converted(basis=wanted.basis, unit=wanted.unit)
            except NoConversion:
                return None
    return None
