"""Oxygen, ammonia, alkalinity and copper in natural and drinking water."""

from kessa_core.calculations.registry import Given, Gives, register
from kessa_core.chemistry import alkalinity, ammonia, copper, oxygen

TEMPERATURE = Given(
    "temperature_c", "°C", "temperature of the water", at_least=0, at_most=oxygen.WARMEST_C
)
PRESSURE = Given(
    "pressure_hpa", "hPa", "air pressure at the place, not reduced to sea level",
    default=oxygen.STANDARD_HPA, at_least=oxygen.LOWEST_HPA, at_most=oxygen.HIGHEST_HPA,
)  # fmt: skip
SALINITY = Given(
    "salinity_psu",
    "psu",
    "salinity of the water",
    default=0.0,
    at_least=0,
    at_most=oxygen.SALTIEST_PSU,
)
OXYGEN_SOURCE = (
    "Benson & Krause 1980, 1984; Standard Methods 4500-O; USGS OWQ Technical Memorandum 2011.03"
)


@register(
    "oxygen-saturation",
    "How much oxygen the water holds in equilibrium with air.",
    OXYGEN_SOURCE,
    (TEMPERATURE, PRESSURE, SALINITY),
    {"mg_l": Gives("mg/L")},
)
def oxygen_saturation(
    temperature_c: float, pressure_hpa: float, salinity_psu: float
) -> dict[str, float]:
    """°C, hPa, psu -> mg/L."""
    return {"mg_l": oxygen.saturation_mg_l(temperature_c, pressure_hpa, salinity_psu)}


@register(
    "oxygen-percent",
    "Oxygen as a percentage of what the water would hold at its place.",
    OXYGEN_SOURCE,
    (Given("do_mg_l", "mg/L", "dissolved oxygen", at_least=0), TEMPERATURE, PRESSURE, SALINITY),
    {"percent": Gives("%")},
)
def oxygen_percent(
    do_mg_l: float, temperature_c: float, pressure_hpa: float, salinity_psu: float
) -> dict[str, float]:
    """mg/L, °C, hPa, psu -> %."""
    return {"percent": oxygen.percent(do_mg_l, temperature_c, pressure_hpa, salinity_psu)}


@register(
    "ammonia-unionised",
    "How much of the total ammonia is not ionised (NH3), the part that harms fish.",
    "Emerson, Russo, Lund & Thurston 1975; US EPA 1999, 2013",
    (
        Given("total_as_n_mg_l", "mg/L as N", "total ammonia", at_least=0),
        Given("ph", "", "pH of the water", at_least=0, at_most=14),
        Given("temperature_c", "°C", "temperature of the water", at_least=0, at_most=50),
    ),
    {
        "fraction": Gives("of 1", "un-ionised share"),
        "unionised_as_n_mg_l": Gives("mg/L as N", "un-ionised ammonia"),
    },
)
def ammonia_unionised(total_as_n_mg_l: float, ph: float, temperature_c: float) -> dict[str, float]:
    """mg/L as N, pH, °C -> a share and mg/L as N."""
    fraction = ammonia.unionised_fraction(ph, temperature_c)
    return {"fraction": fraction, "unionised_as_n_mg_l": fraction * total_as_n_mg_l}


@register(
    "ammonia-criterion",
    "How much total ammonia fresh water with trout and mussels may hold.",
    "US EPA 2013, EPA-822-R-13-001",
    (
        Given("ph", "", "pH of the water", at_least=ammonia.LEAST_PH, at_most=ammonia.MOST_PH),
        Given(
            "temperature_c", "°C", "temperature of the water", at_least=0, at_most=ammonia.WARMEST_C
        ),
    ),
    {
        "cmc_mg_tan_l": Gives("mg/L as N", "acute criterion, mean of 1 hour"),
        "ccc_mg_tan_l": Gives("mg/L as N", "chronic criterion, mean of 30 days"),
    },
)
def ammonia_criterion(ph: float, temperature_c: float) -> dict[str, float]:
    """pH, °C -> mg/L of total ammonia as N."""
    found = ammonia.criteria(ph, temperature_c)
    return {"cmc_mg_tan_l": found.acute, "ccc_mg_tan_l": found.chronic}


@register(
    "copper-criterion",
    "How much copper fresh water of this hardness may hold.",
    "US EPA-820-B-96-001; NRWQC 2002 appendix B; 40 CFR 131.38",
    (
        Given(
            "hardness_mg_l", "mg/L as CaCO₃", "hardness",
            at_least=copper.SOFTEST, at_most=copper.HARDEST,
        ),
    ),
    {
        "cmc_total_ug_l": Gives("µg/L", "acute criterion, total copper, mean of 1 hour"),
        "ccc_total_ug_l": Gives("µg/L", "chronic criterion, total copper, mean of 4 days"),
        "cmc_dissolved_ug_l": Gives("µg/L", "acute criterion, dissolved, mean of 1 hour"),
        "ccc_dissolved_ug_l": Gives("µg/L", "chronic criterion, dissolved, mean of 4 days"),
    },
)  # fmt: skip
def copper_criterion(hardness_mg_l: float) -> dict[str, float]:
    """mg/L as CaCO3 -> µg/L."""
    found = copper.criteria(hardness_mg_l)
    return {
        "cmc_total_ug_l": found.acute,
        "ccc_total_ug_l": found.chronic,
        "cmc_dissolved_ug_l": copper.DISSOLVED * found.acute,
        "ccc_dissolved_ug_l": copper.DISSOLVED * found.chronic,
    }


@register(
    "alkalinity-species",
    "Hydroxide, carbonate and bicarbonate from P and M alkalinity.",
    "Standard Methods 2320 B, table 2320:II",
    (
        Given("p_as_caco3", "mg/L as CaCO₃", "P alkalinity, to pH 8.3", at_least=0),
        Given("m_as_caco3", "mg/L as CaCO₃", "M alkalinity, to pH 4.5", at_least=0),
    ),
    {part: Gives("mg/L as CaCO₃", part) for part in ("hydroxide", "carbonate", "bicarbonate")},
)
def alkalinity_species(p_as_caco3: float, m_as_caco3: float) -> dict[str, float]:
    """mg/L as CaCO3 twice -> three times. Raises NotANumber where P lies above M."""
    return alkalinity.species(p_as_caco3, m_as_caco3)._asdict()
