"""How long a pack can still be used, and for how many tests."""

from dataclasses import dataclass
from datetime import date, timedelta
from math import floor
from typing import Literal

from kessa_core.errors import NotANumber

SOON_DAYS = 30
"""Days before its last one at which a pack is warned of."""
FEW_TESTS = 10
"""Tests left at which a pack is warned of."""


@dataclass(frozen=True)
class StockWarning:
    """What is wrong with a pack, or soon will be. short: beside the day and the amount."""

    level: Literal["now", "soon"]
    words: str
    short: str


@dataclass(frozen=True)
class Stock:
    """A pack in use. keeps_days: how long it is good once opened. contains, used, one_test: what it
    held, what tests took of it, and what one test usually takes, all in the reagent's own unit."""

    expires: date | None = None
    opened: date | None = None
    keeps_days: int | None = None
    contains: float | None = None
    used: float = 0.0
    one_test: float = 0.0
    unit: str = ""

    @property
    def last_day(self) -> date | None:
        """The last day on which it is good: by its label, or so long after it was opened."""
        ends = [self.expires]
        if self.opened and self.keeps_days is not None:
            ends.append(self.opened + timedelta(days=self.keeps_days))
        return min((day for day in ends if day), default=None)

    @property
    def left(self) -> float | None:
        """What is left, never below nothing; None where nobody said what it held."""
        return None if self.contains is None else max(self.contains - self.used, 0.0)

    @property
    def tests_left(self) -> int | None:
        """For how many whole tests that is enough."""
        if self.left is None or not self.one_test:
            return None
        return floor(self.left / self.one_test + 1e-9)

    @property
    def left_words(self) -> str:
        """ "about 42 tests (336 drops)"; empty where it is not known."""
        if self.left is None:
            return ""
        amount = amount_words(self.left, self.unit)
        if self.tests_left is None:
            return amount
        return f"about {self.tests_left} test{'' if self.tests_left == 1 else 's'} ({amount})"

    def warnings(self, today: date) -> tuple[StockWarning, ...]:
        """What to say of it on a day, what is wrong now first."""
        said = [one for one in (self._of_time(today), self._of_amount()) if one]
        return tuple(sorted(said, key=lambda one: one.level != "now"))

    def _of_time(self, today: date) -> StockWarning | None:
        last = self.last_day
        if last is None:
            return None
        days = (last - today).days
        if days < 0 and last == self.expires:
            return StockWarning("now", f"expired on {_day(last)}", "expired")
        if days < 0:
            words = f"opened too long: good until {_day(last)}"
            return StockWarning("now", words, "opened too long")
        if days > SOON_DAYS:
            return None
        when = {0: "today", 1: "tomorrow"}.get(days, f"in {days} days")
        return StockWarning("soon", f"good until {_day(last)}, {when}", when)

    def _of_amount(self) -> StockWarning | None:
        left = self.tests_left
        if left is None or left > FEW_TESTS:
            return None
        if left == 0:
            return StockWarning("now", "used up, by what tests took of it", "used up")
        words = f"enough for about {left} more test{'' if left == 1 else 's'}"
        return StockWarning("soon", words, "few left")


def counted(unit: str, amount: float) -> str:
    """A unit as it stands behind an amount: 50 strips, 1 strip, 12.5 mL."""
    measured = unit in ("mL", "L", "g") or unit.endswith("s")
    return unit if not unit or measured or amount == 1 else f"{unit}s"


def amount_words(amount: float, unit: str) -> str:
    """An amount as it is read: "336 drops"."""
    return f"{amount:.4g} {counted(unit, amount)}".strip()


def _day(day: date) -> str:
    return f"{day.day} {day:%B %Y}"


def pack_amount(
    number: float, given_in: Literal["tests", "pieces", "mL"], unit: str, one_test: float,
    drop_ml: float,
) -> float:  # fmt: skip
    """What a pack holds in the reagent's own *unit*, from what stands on it: so many tests, pieces
    (drops, tablets, strips, whatever the unit is) or mL.

    Raises NotANumber where it is not above zero, or mL says nothing of a reagent in this unit.
    """
    if not number > 0:
        raise NotANumber("Enter what the pack holds: a number above zero.", field="contains")
    if given_in == "tests":
        return number * one_test
    if given_in == "pieces" or unit == "mL":
        return number
    if unit == "drops" and drop_ml > 0:
        return number / drop_ml
    raise NotANumber(
        f"It is counted in {counted(unit, 2)}. Enter those or tests instead of mL.",
        field="contains",
    )
