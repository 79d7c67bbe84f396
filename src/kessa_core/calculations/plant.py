"""Scale and corrosion, cooling circuits, loops, boilers, and what to dose."""

from kessa_core.calculations.registry import Given, Gives, register
from kessa_core.chemistry import plant, saturation


@register(
    "langelier",
    "Whether water lays down calcium carbonate or dissolves it.",
    "Langelier 1936 in Carrier's simplification; Ryznar 1944; Puckorius & Brooke 1991",
    (
        Given("ph", "", "pH of the water", at_least=0, at_most=14),
        Given("temperature_c", "°C", "temperature of the water", at_least=0, at_most=100),
        Given("tds_mg_l", "mg/L", "total dissolved solids", above=0),
        Given("calcium_as_caco3", "mg/L as CaCO₃", "calcium hardness", above=0),
        Given("alkalinity_as_caco3", "mg/L as CaCO₃", "M alkalinity", above=0),
    ),
    {
        "phs": Gives("", "pH at which the water is saturated"),
        "lsi": Gives("", "saturation index (Langelier)"),
        "rsi": Gives("", "stability index (Ryznar)"),
        "psi": Gives("", "scaling index (Puckorius)"),
    },
)
def langelier(
    ph: float,
    temperature_c: float,
    tds_mg_l: float,
    calcium_as_caco3: float,
    alkalinity_as_caco3: float,
) -> dict[str, float]:
    """pH, °C, mg/L, mg/L as CaCO3 twice -> indices without a unit."""
    found = saturation.indices(ph, temperature_c, tds_mg_l, calcium_as_caco3, alkalinity_as_caco3)
    return found._asdict()


@register(
    "cooling-cycles",
    "How often the circulating water is more concentrated than its make-up.",
    "Definition: circulating / make-up of an ion that stays dissolved",
    (
        Given("circulating", "", "concentration in the circulating water", at_least=0),
        Given("makeup", "", "concentration in the make-up, in the same unit", above=0),
    ),
    {"cycles": Gives("cycles")},
)
def cooling_cycles(circulating: float, makeup: float) -> dict[str, float]:
    """Two of one unit -> a ratio."""
    return {"cycles": plant.cycles(circulating, makeup)}


@register(
    "cooling-balance",
    "How much to bleed and to feed for these cycles of concentration.",
    "Balance of water and salt: blowdown = evaporation / (cycles - 1)",
    (
        Given("evaporation_m3_h", "m³/h", "water that evaporates", at_least=0),
        Given("cycles", "", "cycles of concentration", above=1),
    ),
    {
        "blowdown_m3_h": Gives("m³/h", "blowdown, drift and leaks in it"),
        "makeup_m3_h": Gives("m³/h", "make-up"),
    },
)
def cooling_balance(evaporation_m3_h: float, cycles: float) -> dict[str, float]:
    """m³/h, a ratio -> m³/h twice."""
    found = plant.balance(evaporation_m3_h, cycles)
    return {"blowdown_m3_h": found.blowdown, "makeup_m3_h": found.makeup}


@register(
    "cooling-evaporation",
    "About how much of the circulating water evaporates.",
    "Perry's Chemical Engineers' Handbook: 0.00153 x circulation x range",
    (
        Given("circulation_m3_h", "m³/h", "water that circulates", at_least=0),
        Given("range_c", "°C", "difference between warm and cooled water", at_least=0),
    ),
    {"evaporation_m3_h": Gives("m³/h")},
)
def cooling_evaporation(circulation_m3_h: float, range_c: float) -> dict[str, float]:
    """m³/h, °C -> m³/h."""
    return {"evaporation_m3_h": plant.evaporation_m3_h(circulation_m3_h, range_c)}


@register(
    "cooling-inhibitor",
    "How much of an inhibitor is left in a loop after some hours.",
    "Mass balance of a well-mixed loop: V dC/dt = q Cm + F - q C",
    (
        Given("c0_mg_l", "mg/L", "inhibitor at the beginning", at_least=0),
        Given("volume_m3", "m³", "volume of the loop", above=0),
        Given("loss_m3_h", "m³/h", "water lost and made up", at_least=0),
        Given("time_h", "h", "time since then", at_least=0),
        Given("feed_g_h", "g/h", "inhibitor fed", default=0.0, at_least=0),
        Given("makeup_mg_l", "mg/L", "inhibitor in the make-up", default=0.0, at_least=0),
    ),
    {
        "c_mg_l": Gives("mg/L", "inhibitor left"),
        "half_life_h": Gives("h", "half-life; none where nothing is lost"),
    },
)
def cooling_inhibitor(
    c0_mg_l: float,
    volume_m3: float,
    loss_m3_h: float,
    time_h: float,
    feed_g_h: float,
    makeup_mg_l: float,
) -> dict[str, float]:
    """mg/L, m³, m³/h, h, g/h, mg/L -> mg/L and h."""
    left = plant.inhibitor_mg_l(c0_mg_l, volume_m3, loss_m3_h, time_h, feed_g_h, makeup_mg_l)
    if loss_m3_h == 0:
        return {"c_mg_l": left}
    return {"c_mg_l": left, "half_life_h": plant.half_life_h(volume_m3, loss_m3_h)}


@register(
    "boiler-blowdown",
    "How much a boiler blows down, from dissolved solids of feed and boiler water.",
    "Balance of solids; US DOE Steam Tip Sheet 9",
    (
        Given("feed_tds", "", "dissolved solids of the feed water", above=0),
        Given("boiler_tds", "", "dissolved solids of the boiler water, in the same unit", above=0),
        Given("steam_t_h", "t/h", "steam", at_least=0),
    ),
    {
        "cycles": Gives("", "cycles of concentration"),
        "blowdown_percent_of_feed": Gives("%", "blowdown, of the feed water"),
        "blowdown_percent_of_steam": Gives("%", "blowdown, of the steam"),
        "blowdown_t_h": Gives("t/h", "blowdown"),
        "feed_t_h": Gives("t/h", "feed water"),
    },
)
def boiler_blowdown(feed_tds: float, boiler_tds: float, steam_t_h: float) -> dict[str, float]:
    """Two of one unit, t/h -> a ratio, percent of feed and of steam, t/h twice."""
    found = plant.boiler_blowdown(feed_tds, boiler_tds, steam_t_h)
    return {
        "cycles": found.cycles,
        "blowdown_percent_of_feed": found.of_feed,
        "blowdown_percent_of_steam": found.of_steam,
        "blowdown_t_h": found.blowdown,
        "feed_t_h": found.feed,
    }


@register(
    "dose",
    "How much of a product to add to reach a target.",
    "Mass balance; product_fraction is active by mass (trade percent / 100 / density)",
    (
        Given("volume_l", "L", "volume of the system", above=0),
        Given("current_mg_l", "mg/L", "concentration now", at_least=0),
        Given("target_mg_l", "mg/L", "concentration wanted", at_least=0),
        Given("product_fraction", "0 to 1", "share of the product that counts", above=0, at_most=1),
        Given("density_kg_l", "kg/L", "density of the product", above=0),
    ),
    {"product_g": Gives("g", "product, weighed"), "product_ml": Gives("mL", "product, measured")},
)
def dose(
    volume_l: float,
    current_mg_l: float,
    target_mg_l: float,
    product_fraction: float,
    density_kg_l: float,
) -> dict[str, float]:
    """L, mg/L twice, a share, kg/L -> g and mL."""
    grams = plant.dose_g(volume_l, current_mg_l, target_mg_l, product_fraction)
    return {"product_g": grams, "product_ml": grams / density_kg_l}
