"""A calibration line by ordinary least squares, read backwards with its standard error.

Sources: Miller & Miller, Statistics and Chemometrics, ch. 5 (eq. 5.4-5.10); ISO 8466-1; limit of
detection 3.3 s / |slope| with the residual sd: ICH Q2(R1), 6.3.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import fsum, sqrt

from scipy.special import ndtri, stdtrit

from kessa_core.errors import NotANumber


@dataclass(frozen=True)
class Line:
    """y = slope x + intercept through *n* standards.

    residual_sd and what rests on it is None with two standards: nothing is left to judge by.
    """

    slope: float
    intercept: float
    r2: float
    residual_sd: float | None
    n: int
    mean_y: float
    sxx: float

    @property
    def lod(self) -> float | None:
        """Limit of detection in the unit of x."""
        return None if self.residual_sd is None else 3.3 * self.residual_sd / abs(self.slope)

    def sd_of_line(self, y0: float) -> float:
        """Sd in the unit of y that stands for the line's own uncertainty where it reads *y0*: the
        normal with the 95 % width of Student's t for the standards there are."""
        if self.residual_sd is None:
            return 0.0
        leverage = (y0 - self.mean_y) ** 2 / (self.slope**2 * self.sxx)
        wide = float(stdtrit(self.n - 2, 0.975) / ndtri(0.975))
        return self.residual_sd * sqrt(1 / self.n + leverage) * wide

    def value_at(self, y0: float, replicates: int = 1) -> tuple[float, float | None]:
        """Concentration of a reading *y0* (mean of *replicates*) and its standard error."""
        x0 = (y0 - self.intercept) / self.slope
        if self.residual_sd is None:
            return x0, None
        leverage = (y0 - self.mean_y) ** 2 / (self.slope**2 * self.sxx)
        spread = sqrt(1 / replicates + 1 / self.n + leverage)
        return x0, self.residual_sd / abs(self.slope) * spread


def fit(x: Sequence[float], y: Sequence[float]) -> Line:
    """The line through standards of concentration *x* that read *y*.

    Raises NotANumber for lists of unequal length, fewer than two standards, standards of one
    concentration only, or a line without a slope.
    """
    if len(x) != len(y):
        raise NotANumber(f"{len(x)} concentrations and {len(y)} readings do not pair up.")
    n = len(x)
    if n < 2:
        raise NotANumber("A line needs at least two standards.")
    mean_x, mean_y = fsum(x) / n, fsum(y) / n
    sxx = fsum((a - mean_x) ** 2 for a in x)
    if sxx == 0:
        raise NotANumber("All standards have one concentration; there is no slope.", field="x")
    syy = fsum((b - mean_y) ** 2 for b in y)
    slope = fsum((a - mean_x) * (b - mean_y) for a, b in zip(x, y, strict=True)) / sxx
    if slope == 0 or syy == 0:
        raise NotANumber("The readings do not change with the concentration.", field="y")
    intercept = mean_y - slope * mean_x
    left = fsum((b - mean_y - slope * (a - mean_x)) ** 2 for a, b in zip(x, y, strict=True))
    residual_sd = sqrt(left / (n - 2)) if n > 2 else None
    return Line(slope, intercept, 1 - left / syy, residual_sd, n, mean_y, sxx)


LEAST_STANDARDS = 3
"""Fewer leave nothing to judge a line by."""


def calibration_line(standards: Sequence[tuple[float, float]]) -> Line:
    """The line through an instrument's own standards (concentration, absorbance).

    Raises NotANumber for fewer than three, for two of one concentration only, for a line that falls
    or is flat: none of them can be read backwards.
    """
    if len(standards) < LEAST_STANDARDS:
        raise NotANumber(f"A line of your own needs at least {LEAST_STANDARDS} standards.")
    places = [c for c, _ in standards]
    if twice := sorted({c for c in places if places.count(c) > 1}):
        listed = ", ".join(f"{c:g}" for c in twice)
        raise NotANumber(
            f"The standard {listed} stands twice.",
            field="x",
            remedy="Enter the mean of its readings.",
        )
    found = fit(places, [a for _, a in standards])
    if found.slope <= 0:
        raise NotANumber(
            "The readings fall as the concentration rises.",
            field="y",
            remedy="Check that concentration comes first, then absorbance.",
        )
    return found
