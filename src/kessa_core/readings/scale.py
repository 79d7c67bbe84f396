"""A scale that a person reads: whole numbers in its own step, and how they are typed and said."""

import re
from dataclasses import dataclass, replace
from decimal import Decimal

from kessa_core.errors import CoreError

_TYPED = re.compile(r"^(-?)([0-9]{1,7})(?:[.,]([0-9]{1,6}))?$")
OVER, UNDER = ">", "<"


class InvalidReading(CoreError):
    """A reading that this scale cannot show.

    suspected: what it may have shown instead. doubtful: it lies on the scale and is kept as read
    once it is confirmed; anything else is impossible.
    """

    def __init__(
        self, message: str, *, remedy: str = "", suspected: str = "", doubtful: bool = False
    ) -> None:
        super().__init__(message, field="raw", remedy=remedy)
        self.suspected, self.doubtful = suspected, doubtful


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
    under: whether ">" and "<" are readings here; over_at: the place that ">" alone stands for where
    it is not the highest, under_at that of "<" where it is not the lowest; over_asks: ">" needs a
    figure after it. ranges: a display that changes its unit by itself, the finest range first.
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
    over_at: int | None = None
    under_at: int | None = None
    over_asks: bool = False

    @classmethod
    def printed(
        cls,
        slot: str,
        ends: tuple[str | int, str | int],
        part: str,
        unit: str,
        *,
        over: bool,
        under: bool = False,
    ) -> "Scale":
        """A printed scale from its lowest to its highest mark, read to *part* (as "0.05")."""
        decimals = len(part.partition(".")[2])
        low, high = (int(Decimal(end) / Decimal(part)) for end in ends)
        every = int(Decimal(part).scaleb(decimals))
        return cls(slot, low, high, decimals, unit, every=every, over=over, under=under)

    def turned(self) -> "Scale":
        """The scale of a value that falls along it: ">" stands at its foot, "<" at its top."""
        return replace(self, over_at=self.low, under_at=self.high)

    @property
    def count(self) -> int:
        """How many different readings there are."""
        return self.high - self.low + 1

    def figure(self, n: float) -> float:
        """The figure that stands at a place on the scale."""
        return n * self.every / 10.0**self.decimals

    def say(self, n: float) -> str:
        """The position as people say it; one between two steps with two decimals more."""
        if n != int(n):
            return f"{self.figure(n):.{self.decimals + 2}f}".rstrip("0")
        if self.labels:
            return self.labels[int(n) - self.low]
        return _figure(int(n) * self.every, self.decimals)

    def parse(self, raw: str, sure: bool = False) -> tuple[float, str]:
        """Position and kind ("plain", "beyond", "below") of what was typed or set.

        A named position is given by its number; a display as it shows, with "|unit" after it where
        the display has several; ">" alone is above the top, with a figure beyond that. *sure*: a
        doubtful figure was confirmed and is taken as it was read, between two steps too.
        Raises OffScale with a sentence, whether the figure is only doubtful and, where another
        range could have shown it, with what is suspected.
        """
        text = raw.strip()
        if text[:1] == OVER and self.over:
            return self._beyond(text[1:].strip(), sure), "beyond"
        if text == UNDER and self.under:
            return self.low if self.under_at is None else self.under_at, "below"
        if self.labels:
            return self._place(text), "plain"
        figure, _, unit = text.partition("|")
        found = _TYPED.match(figure.strip().replace("−", "-"))
        if not found:
            shown = f"{figure[:20]!r} is not a number."
            raise InvalidReading(shown, remedy="Type the number exactly as shown.")
        if self.ranges:
            return self._in_range(found, unit or self.ranges[0].unit, sure), "plain"
        n = _steps(found, self.decimals, self.every)
        if not self.low <= n <= self.high:
            raise InvalidReading(
                f"{figure} is not on this scale.",
                remedy=f"It goes from {self.say(self.low)} to {self.say(self.high)}.",
            )
        if n != int(n) and not sure:
            step = f"{self.say(1)} {self.unit}".strip()
            what = f"This scale is read in steps of {step}."
            raise InvalidReading(what, remedy="Look again.", doubtful=True)
        return n, "plain"

    def _beyond(self, rest: str, sure: bool) -> float:
        if rest:
            return self.parse(rest, sure)[0]
        if self.over_asks:
            raise InvalidReading(
                "Above what?", remedy=f"Type the figure after the mark: > 1.2 {self.unit}."
            )
        return self.high if self.over_at is None else self.over_at

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
            raise InvalidReading("There is no such position.", remedy=f"{self.low} to {self.high}.")
        return int(text)

    def _in_range(self, found: re.Match[str], unit: str, sure: bool) -> float:
        shown = f"{found[0]} {unit}"
        named = next((r for r in self.ranges if r.unit == unit), None)
        if named is None:
            known = ", ".join(r.unit for r in self.ranges)
            raise InvalidReading(f"This display does not show {unit}.", remedy=f"It shows {known}.")
        n = _steps(found, named.decimals)
        exact = len(found[3] or "") == named.decimals
        if exact and named.low <= n <= named.high:
            return int(n * 10**named.zeros)
        at = _whole(n * 10.0**named.zeros)
        on_it = self.low <= at <= self.high
        if on_it and sure:
            return at
        what = f"This display does not show {shown}."
        for other in self.ranges:
            m = _steps(found, other.decimals)
            if other is not named and m == int(m) and other.low <= m <= other.high:
                figure = _figure(int(m), other.decimals)
                raise InvalidReading(
                    what, remedy=f"Did it show {figure} {other.unit}?",
                    suspected=f"{figure}|{other.unit}", doubtful=on_it,
                )  # fmt: skip
        raise InvalidReading(what, remedy="Look again.", doubtful=on_it)


def whole_steps(step: str, name: str, **figures: str) -> None:
    """Raises ValueError naming the first of *figures* that is no whole multiple of *step*."""
    for key, figure in figures.items():
        if Decimal(figure) % Decimal(step):
            raise ValueError(f"{key} {figure} is no whole number of steps of {name} {step}")


def _figure(digits: int, decimals: int) -> str:
    """Whole digits with the point where it stands."""
    sign, text = "-" if digits < 0 else "", str(abs(digits)).rjust(decimals + 1, "0")
    return f"{sign}{text[:-decimals]}.{text[-decimals:]}" if decimals else sign + text


def _steps(found: re.Match[str], decimals: int, every: int = 1) -> float:
    """The typed figure in steps of *every* digits of *decimals*; whole where it is on a step."""
    sign, whole, part = found.groups()
    part = part or ""
    fine = max(len(part), decimals)
    digits = int(whole + part.ljust(fine, "0"))
    steps = _whole(digits / (every * 10 ** (fine - decimals)))
    return -steps if sign else steps


def _whole(steps: float) -> float:
    """*steps*, as a whole number where it is one."""
    return int(steps) if steps == int(steps) else steps
