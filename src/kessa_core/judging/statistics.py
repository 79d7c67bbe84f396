"""The statistics that rules apply to many samples."""

from collections.abc import Sequence
from math import floor
from statistics import fmean

from kessa_core.errors import NotANumber

FEWEST_RANKED = 5
"""Below so many samples the highest stands for the 90th percentile."""
QUARTERS = 4


def percentile_90(values: Sequence[float]) -> float:
    """The 90th percentile of samples of one unit: at rank 0.9 n, interpolated between two; of fewer
    than five the highest.

    Source: 40 CFR 141.80(c)(3) and US EPA guidance. Raises NotANumber without a sample.
    """
    if not values:
        raise NotANumber("There is no sample.", field="values")
    ranked = sorted(values)
    if len(ranked) < FEWEST_RANKED:
        return ranked[-1]
    tenths = 9 * len(ranked)
    whole, rest = floor(tenths / 10), tenths % 10 / 10
    below = ranked[whole - 1]
    return below if not rest else below + rest * (ranked[whole] - below)


def quarterly_means(quarters: Sequence[Sequence[float]]) -> list[float]:
    """The mean of each quarter's samples. Raises NotANumber for a quarter without one."""
    for number, samples in enumerate(quarters, 1):
        if not samples:
            raise NotANumber(f"Quarter {number} has no sample.", field="quarters")
    return [fmean(samples) for samples in quarters]


def running_annual_averages(quarters: Sequence[Sequence[float]]) -> list[float]:
    """From the fourth quarter on, the mean of the four latest quarterly means; oldest first.

    Source: 40 CFR 141.133(b), 141.64. Raises NotANumber below four quarters, or for an empty one.
    """
    means = quarterly_means(quarters)
    if len(means) < QUARTERS:
        raise NotANumber(
            f"A running annual average needs {QUARTERS} quarters; there are {len(means)}.",
            field="quarters",
        )
    return [fmean(means[last - QUARTERS : last]) for last in range(QUARTERS, len(means) + 1)]
