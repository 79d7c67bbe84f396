"""Limits that a formula computes from what else was measured of the sample."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from kessa_core.chemistry import ammonia, copper
from kessa_core.derived.definition import Input
from kessa_core.derived.deriving import Found, Measured, Place, find_input
from kessa_core.derived.propagation import carry
from kessa_core.derived.shipped import PH, WARMTH
from kessa_core.quantities import Quantity
from kessa_core.quantities.rounding import figure, significant

FormulaName = Literal[
    "ammonia acute",
    "ammonia chronic",
    "copper acute",
    "copper chronic",
    "dissolved copper acute",
    "dissolved copper chronic",
]
HARDNESS = Input("hardness", ("total",), "CaCO3", "mg/L", lasts=True)
FIGURES = 2
"""Significant figures in which the documents print their tables."""
PH_SHOWN = (6.5, 7.0, 7.5, 8.0, 8.5, 9.0)
WARMTH_SHOWN = (5.0, 10.0, 15.0, 20.0, 25.0)
HARDNESS_SHOWN = (25.0, 50.0, 100.0, 200.0, 400.0)


@dataclass(frozen=True)
class Argument:
    """What a formula needs to know of the sample, and from what to what it is given for. shown: the
    figures of its table."""

    input: Input
    least: float
    most: float
    shown: tuple[float, ...]

    @property
    def name(self) -> str:
        """ "pH", "water temperature"."""
        return {"temperature": "water temperature", "hardness": "total hardness"}.get(
            self.input.parameter, self.input.name
        )


@dataclass(frozen=True)
class Formula:
    """Of which quantity it computes a limit. compute: the arguments' numbers in their order -> a
    figure in its unit and basis."""

    quantity: Quantity
    arguments: tuple[Argument, ...]
    compute: Callable[..., float]

    @property
    def names(self) -> str:
        """What it depends on: "pH and water temperature"."""
        return " and ".join(one.name for one in self.arguments)

    def printed(self, *numbers: float) -> str:
        """The limit at these arguments as its document would print it."""
        return f"{significant(self.compute(*numbers), FIGURES):f}"


@dataclass(frozen=True)
class Computed:
    """What a formula comes to for a sample: the figure as printed, between what it lies for what
    the inputs allow, and the inputs in words; or, without a figure, why there is none."""

    figure: str = ""
    low: float = 0.0
    high: float = 0.0
    words: str = ""
    reason: str = ""


_PH = Argument(PH, ammonia.LEAST_PH, ammonia.MOST_PH, PH_SHOWN)
_WARMTH = Argument(WARMTH, 0.0, ammonia.WARMEST_C, WARMTH_SHOWN)
_HARDNESS = Argument(HARDNESS, copper.SOFTEST, copper.HARDEST, HARDNESS_SHOWN)
_AMMONIA = Quantity("ammonia", "total", "N", "mg/L")
_COPPER = Quantity("copper", "total", "Cu", "µg/L")
_DISSOLVED = Quantity("copper", "dissolved", "Cu", "µg/L")
FORMULAS: dict[str, Formula] = {
    "ammonia acute": Formula(_AMMONIA, (_PH, _WARMTH), lambda ph, t: ammonia.criteria(ph, t).acute),
    "ammonia chronic": Formula(
        _AMMONIA, (_PH, _WARMTH), lambda ph, t: ammonia.criteria(ph, t).chronic
    ),
    "copper acute": Formula(_COPPER, (_HARDNESS,), lambda h: copper.criteria(h).acute),
    "copper chronic": Formula(_COPPER, (_HARDNESS,), lambda h: copper.criteria(h).chronic),
    "dissolved copper acute": Formula(
        _DISSOLVED, (_HARDNESS,), lambda h: copper.DISSOLVED * copper.criteria(h).acute
    ),
    "dissolved copper chronic": Formula(
        _DISSOLVED, (_HARDNESS,), lambda h: copper.DISSOLVED * copper.criteria(h).chronic
    ),
}
DEPENDING = {
    one.input.parameter for formula in FORMULAS.values() for one in formula.arguments
}  # fmt: skip
"""Parameters that some limit depends on."""


def compute(name: str, measured: Iterable[Measured], at: datetime, place: Place) -> Computed:
    """The limit that formula *name* gives for a sample taken at *at*, from what was measured of it.

    pH and temperature count within two hours of the sample, hardness up to days before it; the
    range is carried on from theirs.
    """
    formula, known = FORMULAS[name], list(measured)
    inputs: list[Found] = []
    for argument in formula.arguments:
        found = find_input(argument.input, known, at, place)
        if found is None:
            return Computed(reason=f"{argument.name} was not measured with this sample")
        if not argument.least <= found.value.number <= argument.most:
            given = f"it is given for {argument.least:g} to {argument.most:g}"
            return Computed(reason=f"{found.said} was measured; {given}")
        inputs.append(found)
    carried = carry(_kept_inside(formula), [one.value for one in inputs])
    return Computed(
        formula.printed(*(one.value.number for one in inputs)),
        carried.low,
        carried.high,
        " and ".join(one.said for one in inputs),
    )


def _kept_inside(formula: Formula) -> Callable[..., float]:
    """The formula, where the end of a range lies beyond what it is given for, at its last value."""

    def computed(*numbers: float) -> float:
        pairs = zip(formula.arguments, numbers, strict=True)
        return formula.compute(*(min(max(n, one.least), one.most) for one, n in pairs))

    return computed


def table(name: str) -> tuple[tuple[str, ...], list[tuple[str, tuple[str, ...]]]]:
    """A formula as a table: the heads of its columns, and each row with its head. Of one argument
    a single row."""
    formula = FORMULAS[name]
    rows, columns = formula.arguments[0], formula.arguments[-1]
    heads = tuple(f"{n:g} {columns.input.unit}".strip() for n in columns.shown)
    if len(formula.arguments) == 1:
        return heads, [("", tuple(formula.printed(n) for n in columns.shown))]
    return heads, [
        (f"{rows.name} {figure(n, 1)}", tuple(formula.printed(n, m) for m in columns.shown))
        for n in rows.shown
    ]
