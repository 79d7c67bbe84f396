"""Hardness, conductivity, turbidity by sight, dilution."""

from kessa_core.calculations.registry import Given, Gives, register
from kessa_core.chemistry import conductivity, dilution, turbidity
from kessa_core.quantities import hardness

HARDNESS = tuple(hardness.UNITS.items())


@register(
    "hardness-convert",
    "Hardness in another unit: mmol/L, mg/L as CaCO₃, German, French, English degrees, grains.",
    "Unit definitions; DIN 38409-6; IUPAC 2021 abridged atomic weights",
    (
        Given("value", "", "hardness in the first unit"),
        Given("from_", "", "unit it is given in", kind=str, choices=HARDNESS),
        Given("to", "", "unit wanted", kind=str, choices=HARDNESS),
    ),
    {"value": Gives("{to}")},
)
def hardness_convert(value: float, from_: str, to: str) -> dict[str, float]:
    """Any of the six units in any other."""
    return {"value": hardness.convert(value, from_, to)}


@register(
    "conductivity-25",
    "An uncompensated conductivity as it would read at 25 °C.",
    "Standard Methods 2510 B: k25 = k / (1 + alpha (t - 25))",
    (
        Given("conductivity_us_cm", "µS/cm", "conductivity as read, not compensated", at_least=0),
        Given("temperature_c", "°C", "temperature of the water"),
        Given(
            "alpha_per_c",
            "1/°C",
            "temperature coefficient",
            default=conductivity.ALPHA_PER_C,
            at_least=0,
        ),
    ),
    {"us_cm": Gives("µS/cm at 25 °C")},
)
def conductivity_25(
    conductivity_us_cm: float, temperature_c: float, alpha_per_c: float
) -> dict[str, float]:
    """µS/cm, °C, 1/°C -> µS/cm at 25 °C."""
    return {"us_cm": conductivity.at_25(conductivity_us_cm, temperature_c, alpha_per_c)}


@register(
    "turbidity-tube",
    "Turbidity from the depth at which the tube's mark vanishes.",
    "Myre & Shaw 2006: depth = 244.13 NTU^-0.662, 6 to 100 cm",
    (Given("depth_cm", "cm", "water above the mark", above=0),),
    {"ntu": Gives("NTU")},
)
def turbidity_tube(depth_cm: float) -> dict[str, float]:
    """cm -> NTU."""
    return {"ntu": turbidity.ntu(depth_cm)}


@register(
    "turbidity-tube-inverse",
    "The depth at which the tube's mark would vanish.",
    "Myre & Shaw 2006: depth = 244.13 NTU^-0.662, 6 to 100 cm",
    (Given("ntu", "NTU", "turbidity", above=0),),
    {"depth_cm": Gives("cm")},
)
def turbidity_tube_inverse(ntu: float) -> dict[str, float]:
    """NTU -> cm."""
    return {"depth_cm": turbidity.depth_cm(ntu)}


@register(
    "dilution",
    "How much of a stock to fill up to a volume.",
    "C1 V1 = C2 V2",
    (
        Given("stock_mg_l", "mg/L", "concentration of the stock", above=0),
        Given("target_mg_l", "mg/L", "concentration wanted", at_least=0),
        Given("final_ml", "mL", "volume to fill up to", above=0),
    ),
    {"aliquot_ml": Gives("mL")},
)
def dilute(stock_mg_l: float, target_mg_l: float, final_ml: float) -> dict[str, float]:
    """mg/L, mg/L, mL -> mL of stock."""
    return {"aliquot_ml": dilution.aliquot_ml(stock_mg_l, target_mg_l, final_ml)}
