"""What is often given a target at each kind of water, so that a new one begins with a sheet."""

from kessa_core.quantities import Quantity

CONDUCTIVITY = Quantity("conductivity", "total", "", "µS/cm")
PH = Quantity("ph", "total", "", "pH")
CHLORIDE = Quantity("chloride", "total", "Cl", "mg/L")
HARDNESS = Quantity("hardness", "total", "CaCO3", "mg/L")
NITRITE = Quantity("nitrite", "total", "NO2", "mg/L")
IRON = Quantity("iron", "total", "Fe", "mg/L")
FREE_CHLORINE = Quantity("free-chlorine", "total", "Cl2", "mg/L")
M_ALKALINITY = Quantity("alkalinity", "m", "CaCO3", "mg/L")
OFTEN_SET: dict[str, tuple[Quantity, ...]] = {
    "boiler": (
        CONDUCTIVITY, PH, Quantity("alkalinity", "p", "CaCO3", "mg/L"), CHLORIDE, HARDNESS,
        Quantity("sulphite", "total", "SO3", "mg/L"),
        Quantity("phosphate", "dissolved", "PO4", "mg/L"),
    ),
    "cooling": (
        CONDUCTIVITY, PH, FREE_CHLORINE, Quantity("hardness", "calcium", "CaCO3", "mg/L"),
        M_ALKALINITY, CHLORIDE,
    ),
    "heating": (CONDUCTIVITY, PH, HARDNESS, IRON),
    "chilled": (CONDUCTIVITY, PH, NITRITE, IRON),
    "tap": (FREE_CHLORINE, PH, Quantity("turbidity", "total", "", "NTU")),
    "well": (Quantity("nitrate", "total", "NO3", "mg/L"), PH, CONDUCTIVITY),
    "stream": (Quantity("oxygen", "dissolved", "", "mg/L"), PH, CONDUCTIVITY, CHLORIDE),
    "lake": (Quantity("oxygen", "dissolved", "", "mg/L"), PH, CONDUCTIVITY),
}  # fmt: skip
"""By the kind of water, the likeliest first, in the units that kits report."""
