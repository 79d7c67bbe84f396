"""A bottle's own drop, and how bottles differ."""

from kessa_core.calculations.registry import Given, Gives, register
from kessa_core.quality import bottles
from kessa_core.readings.lots import DropSize

OUT = {
    "drop_ml": Gives("mL", "one drop"),
    "low_ml": Gives("mL", "at least"),
    "high_ml": Gives("mL", "at most"),
}


def _said(found: DropSize) -> dict[str, float]:
    low, high = (found.ml * (1 + sign * 1.96 * found.sd) for sign in (-1, 1))
    return {"drop_ml": found.ml, "low_ml": low, "high_ml": high}


@register(
    "drop-size",
    "One drop of a bottle, from the drops of titrant that fill a volume.",
    "volume / (drops - 1/2): the mark lies in the last drop",
    (
        Given("drops", "drops", "drops until the mark is reached", at_least=1),
        Given("volume_ml", "mL", "volume at the mark", default=1.0, above=0),
    ),
    OUT,
)
def drop_size(drops: float, volume_ml: float) -> dict[str, float]:
    """drops, mL -> mL a drop, with where it lies with 95 %."""
    return _said(bottles.drop_by_filling(int(drops), volume_ml))


@register(
    "drop-size-weighed",
    "One drop of a bottle, from the weight of several.",
    "mass / density / drops",
    (
        Given("drops", "drops", "drops that were weighed", default=20, at_least=1),
        Given("grams", "g", "weight of these drops", above=0),
        Given("density_g_ml", "g/mL", "density of the titrant", default=1.0, above=0),
    ),
    OUT,
)
def drop_size_weighed(drops: float, grams: float, density_g_ml: float) -> dict[str, float]:
    """drops, g, g/mL -> mL a drop, with where it lies with 95 %."""
    return _said(bottles.drop_by_weight(int(drops), grams, density_g_ml))


@register(
    "bottle-bias",
    "How far one bottle reads from a standard.",
    "mean of found / true - 1; 95 % from the sd of one determination",
    (
        Given("found", "", "what each determination of the standard found", kind=list),
        Given("true", "", "the standard, same unit", above=0),
        Given("sd_one", "", "sd of one determination, same unit", at_least=0),
    ),
    {
        "bias_percent": Gives("%", "bias"),
        "low_percent": Gives("%", "at least"),
        "high_percent": Gives("%", "at most"),
    },
)
def bottle_bias(found: list[float], true: float, sd_one: float) -> dict[str, float]:
    """Concentrations of one unit -> %."""
    made = bottles.bias(found, true, sd_one)
    low, high = made.interval
    return {
        "bias_percent": 100 * made.size, "low_percent": 100 * low, "high_percent": 100 * high,
    }  # fmt: skip


@register(
    "bottle-spread",
    "Whether ten or more bottles differ more than a method states.",
    "chi-squared test of a variance: NIST/SEMATECH e-Handbook of Statistical Methods, 7.2.3",
    (
        Given("bias_percent", "%", "the bias of each bottle", kind=list),
        Given("sd_percent", "%", "the sd of each bias", kind=list),
        Given("stated_percent", "%", "the sd of bottles that the method states", above=0),
    ),
    {
        "spread_percent": Gives("%", "sd of the bottles"),
        "chance": Gives("", "chance of so much or more if the method states the sd rightly"),
    },
)
def bottle_spread(
    bias_percent: list[float], sd_percent: list[float], stated_percent: float
) -> dict[str, float]:
    """% -> the sd of the bottles in %, and how often bottles as stated differ at least so much."""
    made = [
        bottles.Bias(size / 100, sd / 100)
        for size, sd in zip(bias_percent, sd_percent, strict=True)
    ]
    found = bottles.spread_of(made, stated_percent / 100)
    return {"spread_percent": 100 * found.sd, "chance": found.chance}
