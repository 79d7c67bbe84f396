"""Earlier results of one quantity at one place, as they are compared with one another."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import groupby
from statistics import median


@dataclass(frozen=True)
class Earlier:
    """One result: when, its number (in the unit of its series) and range. qualifier: "<" where the
    true value is below the number, ">" where it is above. low, high: of its 95 % range, None where
    it is open."""

    at: datetime
    number: float
    qualifier: str = ""
    low: float | None = None
    high: float | None = None

    @property
    def doubt(self) -> float:
        """Half the width of its range; 0 for a bound."""
        if self.qualifier or self.low is None or self.high is None:
            return 0.0
        return max(0.0, (self.high - self.low) / 2)


def one_a_day(results: Iterable[Earlier]) -> list[Earlier]:
    """The results of each day as one, the oldest first: repeats say nothing more of what is usual.

    Of several figures their median; a bound only where the day has no figure. A day is one of the
    calendar of its times.
    """
    ordered = sorted(results, key=lambda one: one.at)
    return [_together(list(day)) for _, day in groupby(ordered, key=lambda one: one.at.date())]


def _together(day: Sequence[Earlier]) -> Earlier:
    if len(day) == 1:
        return day[0]
    figures = [one for one in day if not one.qualifier]
    if not figures:
        return min(day, key=lambda one: one.number)
    half = max(one.doubt for one in figures)
    number = float(median(one.number for one in figures))
    return Earlier(figures[-1].at, number, "", number - half, number + half)
