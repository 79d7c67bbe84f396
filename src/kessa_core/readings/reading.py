"""What a person saw in one determination, raw: whole numbers on the scales they were read from."""

from dataclasses import dataclass
from typing import Literal

from kessa_core.errors import NotANumber

Kind = Literal["plain", "backed-off", "doubt", "beyond", "below", "absent"]


@dataclass(frozen=True)
class Reading:
    """*n* in the scale's own step, and how it was seen. A figure read finer than the step, and
    confirmed, lies between two whole numbers.

    backed-off: the last step came out clearly too strong, one fewer is reported.
    doubt: this step and the one before are both defensible.
    beyond: no change at n, or over the top of the scale. below: under the foot of the scale.
    absent: the presence check said that there is none.
    beside: what else was read in this determination, by slot (the start of a burette, a
    temperature).
    """

    n: float
    kind: Kind = "plain"
    beside: tuple[tuple[str, float], ...] = ()

    def slot(self, name: str, otherwise: float = 0) -> float:
        """What was read beside it under this name."""
        return dict(self.beside).get(name, otherwise)


@dataclass(frozen=True)
class Count(Reading):
    """A count of drops or tablets. Nought: the end colour came before the first one."""

    n: int

    def __post_init__(self) -> None:
        if self.n < 0 or (self.n == 0 and self.kind not in ("plain", "absent")):
            raise NotANumber("A count begins at one, or is a plain nought.", field="n")


OFF = {"plain": 0, "backed-off": 2, "doubt": 1, "beyond": 0, "below": 0, "absent": 0}
"""Half steps that a kind of count takes off the number counted."""


def half_steps(seen: Reading) -> int:
    """A count in half steps, so that doubt stays a whole number."""
    return 2 * int(seen.n) - OFF[seen.kind]


def edges(seen: Reading, zero: bool = False) -> tuple[float, float]:
    """The true end of a count lies above the first and at or below the second, in steps. zero:
    whether a count of nought would have been said."""
    if seen.kind == "beyond":
        return seen.n, float("inf")
    low = seen.n - (1 if seen.kind == "plain" else 2)
    return (low if low > (-1 if zero else 0) else float("-inf")), seen.n


def format_reading(seen: Reading, unit: str = "") -> str:
    """A count as people say it."""
    tail = f" {unit}" if unit else ""
    if seen.n == 0 and seen.kind == "plain":
        return "0, turned before the first"
    return {
        "backed-off": f"{seen.n - 1:g}, one subtracted",
        "doubt": f"{seen.n - 1:g} or {seen.n:g}",
        "beyond": f"no change at {seen.n:g}",
        "absent": "no colour: absent",
    }.get(seen.kind, f"{seen.n:g}{tail}")
