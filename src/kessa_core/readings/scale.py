"""A scale that a person reads: whole numbers in its own step, and how they are typed and said."""

import re
from dataclasses import dataclass
from decimal import Decimal

from kessa_core.errors import CoreError

_TYPED = re.compile(r"^(-?)(\d{1,7})(?:[.,](\d{1,6}))?$")
OVER, UNDER = ">", "<"


class OffScale(CoreError):
    """A reading that this scale cannot show. suspected: what it may have shown instead."""

    def __init__(self, message: str, *, remedy: str = "", suspected: str = "") -> None:
        super().__init__(message, field="raw", remedy=remedy)
        self.suspected = suspected


@dataclass(frozen=True)
class Range:
    """One range of a display: its unit, decimals, ends in its own digits, and how many zeros
    turn one of its digits into the scale's finest step."""

    unit: str
    decimals: int
    low: int
    high: int
    zeros: int = 0


@dataclass(frozen=True)
class Scale:
    """Positions *low* to *high*, in steps. labels: what each is called, where they have names.

    decimals: of the figure as printed or shown; every: digits of that figure in one step. over,
    under: whether ">" and "<" are readings here. ranges: a display that changes its unit by
    itself, the finest range first.
    """

    slot: str
    low: int
    high: int
    decimals: int = 0
    unit: str = ""
    labels: tuple[str, ...] = ()
    every: int = 1
    over: bool = False
    under: bool = False
    ranges: tuple[Range, ...] = ()

    @classmethod
    def printed(
        cls, slot: str, ends: tuple[str | int, str | int], part: str, unit: str, *, over: bool
    ) -> "Scale":
        """A printed scale from its lowest to its highest mark, read to *part* (as "0.05")."""
        decimals = len(part.partition(".")[2])
        low, high = (int(Decimal(end) / Decimal(part)) for end in ends)
        every = int(Decimal(part).scaleb(decimals))
        return cls(slot, low, high, decimals, unit, every=every, over=over)

    @property
    def count(self) -> int:
        """How many different readings there are."""
        return self.high - self.low + 1

    def figure(self, n: float) -> float:
        """The figure that stands at a place on the scale."""
        return n * self.every / 10.0**self.decimals

    def say(self, n: int) -> str:
        """The position as people say it."""
        if self.labels:
            return self.labels[n - self.low]
        return _figure(n * self.every, self.decimals)

    def parse(self, raw: str) -> tuple[int, str]:
        """Position and kind ("plain", "beyond", "below") of what was typed or set.

        A named position is given by its number; a display as it shows, with "|unit" after it where
        the display has several; ">" alone is above the top, with a figure beyond that.
        Raises OffScale with a sentence and, where another range could have shown it, with what is
        suspected.
        """
        text = raw.strip()
        if text[:1] == OVER and self.over:
            return (self.parse(text[1:])[0] if text[1:].strip() else self.high), "beyond"
        if text == UNDER and self.under:
            return self.low, "below"
        if self.labels:
            return self._place(text), "plain"
        figure, _, unit = text.partition("|")
        found = _TYPED.match(figure.strip().replace("−", "-"))
        if not found:
            raise OffScale(f"{figure!r} is not a number.", remedy="Type it as it stands.")
        if self.ranges:
            return self._in_range(found, unit or self.ranges[0].unit), "plain"
        digits = _digits(found, self.decimals)
        if digits is None or digits % self.every:
            step = f"{self.say(1)} {self.unit}".strip()
            raise OffScale(f"This scale is read in steps of {step}.", remedy="Look again.")
        n = digits // self.every
        if not self.low <= n <= self.high:
            raise OffScale(
                f"{figure} is not on this scale.",
                remedy=f"It goes from {self.say(self.low)} to {self.say(self.high)}.",
            )
        return n, "plain"

    def raw(self, text: str) -> str:
        """What a person writes, as `parse` reads it: a position by its name, a figure with the
        unit of its range after it."""
        text = " ".join(text.split())
        if self.labels:
            names = [label.casefold() for label in self.labels]
            said = text.casefold()
            return str(self.low + names.index(said)) if said in names else text
        for one in self.ranges:
            if text.endswith(one.unit) and not text.endswith("|" + one.unit):
                return f"{text.removesuffix(one.unit).strip()}|{one.unit}"
        return text.removesuffix(self.unit).strip() if self.unit else text

    def _place(self, text: str) -> int:
        if not re.fullmatch(r"-?\d{1,4}", text) or not self.low <= int(text) <= self.high:
            raise OffScale("There is no such position.", remedy=f"{self.low} to {self.high}.")
        return int(text)

    def _in_range(self, found: re.Match[str], unit: str) -> int:
        shown = f"{found[0]} {unit}"
        named = next((r for r in self.ranges if r.unit == unit), None)
        if named is None:
            known = ", ".join(r.unit for r in self.ranges)
            raise OffScale(f"This display does not show {unit}.", remedy=f"It shows {known}.")
        n = _digits(found, named.decimals, exact=True)
        if n is not None and named.low <= n <= named.high:
            return int(n * 10**named.zeros)
        for other in self.ranges:
            m = _digits(found, other.decimals)
            if other is not named and m is not None and other.low <= m <= other.high:
                figure = _figure(m, other.decimals)
                raise OffScale(
                    f"This display does not show {shown}.",
                    remedy=f"Did it show {figure} {other.unit}?",
                    suspected=f"{figure}|{other.unit}",
                )
        raise OffScale(f"This display does not show {shown}.", remedy="Look again.")


def _figure(digits: int, decimals: int) -> str:
    """Whole digits with the point where it stands."""
    sign, text = "-" if digits < 0 else "", str(abs(digits)).rjust(decimals + 1, "0")
    return f"{sign}{text[:-decimals]}.{text[-decimals:]}" if decimals else sign + text


def _digits(found: re.Match[str], decimals: int, exact: bool = False) -> int | None:
    """The typed figure in whole steps of *decimals*; None with more decimals than that.

    exact: a display shows all its decimals, so fewer are as wrong as more.
    """
    sign, whole, part = found.groups()
    part = part or ""
    if len(part) > decimals and (exact or part[decimals:].strip("0")):
        return None
    if exact and len(part) < decimals:
        return None
    n = int(whole + part[:decimals].ljust(decimals, "0"))
    return -n if sign else n
