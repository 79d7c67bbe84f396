"""The statistics that rules apply to many samples."""

from collections.abc import Sequence

from kessa_core.calculations.registry import LISTS, Given, Gives, register
from kessa_core.judging import statistics


@register(
    "percentile90",
    "The 90th percentile of samples, as the rule for lead and copper takes it.",
    "40 CFR 141.80(c)(3) and US EPA guidance: rank 0.9 n, interpolated; below five the highest",
    (Given("values", "", "the samples, in one unit", kind=list),),
    {"percentile90": Gives("in the unit of the samples")},
)
def percentile90(values: Sequence[float]) -> dict[str, float]:
    """Samples of one unit -> the same unit."""
    return {"percentile90": statistics.percentile_90(values)}


@register(
    "running-annual-average",
    "The mean of the last four quarterly means, for each quarter from the fourth.",
    "40 CFR 141.133(b), 141.64",
    (Given("quarters", "", "the samples of each quarter, oldest first", kind=LISTS),),
    {
        "quarterly_averages": Gives("in the unit of the samples", "mean of each quarter"),
        "running_annual_averages": Gives(
            "in the unit of the samples", "mean of each quarter and the three before"
        ),
    },
)
def running_annual_average(quarters: Sequence[Sequence[float]]) -> dict[str, list[float]]:
    """Lists of samples of one unit -> two lists of that unit."""
    return {
        "quarterly_averages": statistics.quarterly_means(quarters),
        "running_annual_averages": statistics.running_annual_averages(quarters),
    }
