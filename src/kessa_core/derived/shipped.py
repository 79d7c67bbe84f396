"""The derived values that Kessa knows."""

from dataclasses import replace
from functools import cache

from kessa_core.chemistry import alkalinity, ammonia, oxygen, plant, saturation
from kessa_core.derived.definition import Derived, Input
from kessa_core.quantities import Quantity

WARMTH = Input("temperature", ("water",), "", "°C")
PH = Input("ph", ("total",), "", "pH")
NITRATE = ("nitrate", ("total",))
NITRITE = ("nitrite", ("total",))
P = Input("alkalinity", ("p",), "CaCO3", "mg/L")
M = Input("alkalinity", ("m",), "CaCO3", "mg/L")
SALT_FREE = Input(
    "salinity",
    ("total",),
    "",
    "‰",
    otherwise=0.0,
    otherwise_words="Salinity taken as that of fresh water",
)
PRESSURE = Input("air-pressure", ("total",), "", "hPa")
CALCIUM = Input("hardness", ("calcium",), "CaCO3", "mg/L")
CONDUCTIVITY = Input("conductivity", ("total",), "", "µS/cm")
SOLIDS_PER_US = 0.65
"""mg/L of dissolved solids per µS/cm at 25 °C of natural and cooling water, 0.5 to 0.7; taken where
solids were not measured. Source: Standard Methods 1030 E."""
NITRATE_WHO, NITRITE_WHO = 50.0, 3.0
"""mg/L as ions. Source: WHO Guidelines for drinking-water quality, 4th ed. (2022)."""


def _mg(parameter: str, form: str, basis: str) -> Quantity:
    return Quantity(parameter, form, basis, "mg/L")


def _species(part: str) -> "Derived":
    """One of the three that P and M tell apart. P beyond M by less than both ranges counts as M."""
    names = {"hydroxide": "Hydroxide", "carbonate": "Carbonate", "bicarbonate": "Bicarbonate"}
    return Derived(
        part,
        _mg("alkalinity", part, "CaCO3"),
        (P, M),
        lambda p, m: float(getattr(alkalinity.species(min(p, m), m), part)),
        "Standard Methods 2320 B, table 2320:II",
        "From P and M alkalinity.",
        f"{names[part]} alkalinity",
        1,
        needs_order=True,
    )


def _index(key: str, about: str) -> "Derived":
    names = {"lsi": "Saturation index", "rsi": "Stability index", "psi": "Scaling index"}
    return Derived(
        key,
        Quantity("saturation-index", "total" if key == "lsi" else key, "", "index"),
        (PH, WARMTH, CONDUCTIVITY, replace(CALCIUM, lasts=True), replace(M, lasts=True)),
        lambda ph, t, us_cm, calcium, m: float(
            getattr(saturation.indices(ph, t, SOLIDS_PER_US * us_cm, calcium, m), key)
        ),
        "Langelier 1936 in Carrier's simplification; Ryznar 1944; Puckorius & Brooke 1991; "
        f"dissolved solids taken as {SOLIDS_PER_US} mg/L per µS/cm",
        about,
        names[key],
        1,
    )


@cache
def shipped_derived() -> tuple[Derived, ...]:
    """Every derived value, in the order in which they are said."""
    return (
        Derived(
            "oxygen-percent",
            Quantity("oxygen-percent", "dissolved", "", "%"),
            (Input("oxygen", ("dissolved",), "", "mg/L"), WARMTH, PRESSURE, SALT_FREE),
            oxygen.percent,
            "Benson & Krause 1980, 1984; USGS OWQ Technical Memorandum 2011.03",
            "Of what the water would hold at its place.",
            most=0,
        ),
        Derived(
            "ammonia-unionised",
            _mg("ammonia", "un-ionised", "N"),
            (Input("ammonia", ("total",), "N", "mg/L"), PH, WARMTH),
            lambda total, ph, t: total * ammonia.unionised_fraction(ph, t),
            "Emerson, Russo, Lund & Thurston 1975",
            "The part of the ammonia that harms fish.",
            "Un-ionised ammonia",
            4,
        ),
        Derived(
            "oxidised-nitrogen",
            _mg("oxidised-nitrogen", "total", "N"),
            (Input(*NITRATE, "N", "mg/L"), Input(*NITRITE, "N", "mg/L")),
            lambda nitrate, nitrite: nitrate + nitrite,
            "Sum, as nitrogen",
            "Nitrate and nitrite together.",
        ),
        Derived(
            "nitrogen-ratios",
            Quantity("nitrogen-ratios", "total", "", "ratio"),
            (Input(*NITRATE, "NO3", "mg/L"), Input(*NITRITE, "NO2", "mg/L")),
            lambda nitrate, nitrite: nitrate / NITRATE_WHO + nitrite / NITRITE_WHO,
            "WHO Guidelines for drinking-water quality, 4th ed. (2022); EU directive 2020/2184",
            "Each over its guideline value, added up.",
        ),
        Derived(
            "combined-chlorine",
            _mg("combined-chlorine", "total", "Cl2"),
            (Input("total-chlorine", ("total",), "Cl2", "mg/L"),
             Input("free-chlorine", ("total",), "Cl2", "mg/L")),
            lambda total, free: total - free,
            "Difference",
            "Total less free chlorine.",
            is_difference=True,
        ),
        Derived(
            "magnesium-hardness",
            _mg("hardness", "magnesium", "CaCO3"),
            (Input("hardness", ("total",), "CaCO3", "mg/L"), CALCIUM),
            lambda total, calcium: total - calcium,
            "Difference",
            "Total less calcium hardness.",
            "Magnesium hardness",
            0,
            is_difference=True,
        ),
        _species("hydroxide"),
        _species("carbonate"),
        _species("bicarbonate"),
        _index("lsi", "Above 0 the water lays down scale, below 0 it dissolves it."),
        _index("psi", "As the stability index, with the pH that the alkalinity stands for."),
        _index("rsi", "Below 6 scale is likely, above 7 corrosion."),
        Derived(
            "cycles",
            Quantity("cycles", "total", "", "cycles"),
            (Input("chloride", ("total",), "Cl", "mg/L"),
             Input("chloride", ("total",), "Cl", "mg/L", part="make-up", lasts=True)),
            plant.cycles,
            "Ratio of an ion that stays dissolved",
            "Chloride of the circulating water over that of its make-up.",
            most=1,
            of_part="circulating",
        ),
        Derived(
            "blowdown",
            Quantity("blowdown", "total", "", "%"),
            (Input("conductivity", ("total",), "", "µS/cm"),
             Input("conductivity", ("total",), "", "µS/cm", part="feed", lasts=True)),
            lambda boiler, feed: plant.boiler_blowdown(feed, boiler, 1.0).of_feed,
            "Balance of solids; US DOE Steam Tip Sheet 9",
            "Share of the feed water that is blown down, conductivity standing for solids.",
            most=1,
            of_part="boiler",
        ),
    )  # fmt: skip
