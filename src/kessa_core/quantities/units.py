"""Units as data, and conversion within one dimension; everything else is refused.

NTU, FNU and JTU are three different things. °C and °F differ by a factor and a shift.
"""

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

from kessa_core.errors import NoConversion, UnknownName


@dataclass(frozen=True)
class Unit:
    """A unit as people write it. reads: for pint; carbonate: its name in `hardness`; amount:
    whether it counts moles. Without any of these it stands alone."""

    symbol: str
    reads: str = ""
    carbonate: str = ""
    amount: bool = False

    @property
    def says_its_basis(self) -> bool:
        """Whether no basis is printed beside it."""
        return bool(self.carbonate)


@cache
def units() -> dict[str, Unit]:
    """Every unit by how people write it."""
    text = resources.files("kessa_core.quantities").joinpath("data", "units.toml")
    found = tomllib.loads(text.read_text("utf-8"))
    return {symbol: Unit(symbol, **entry) for symbol, entry in found.items()}


def unit(symbol: str) -> Unit:
    """The unit written so. Raises UnknownName with those that exist."""
    if found := units().get(symbol) or _own.get(symbol):
        return found
    raise UnknownName(
        f"There is no unit {symbol!r}.", field="unit", remedy=f"Known: {', '.join(units())}."
    )


_own: dict[str, Unit] = {}


def register_own(symbol: str) -> None:
    """Make a unit of one's own known: it stands alone, no factor connects it with another."""
    if symbol not in units():
        _own[symbol] = Unit(symbol)


@cache
def _registry() -> Any:
    import pint

    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


@cache
def line(source: str, target: str) -> tuple[float, float]:
    """Factor and shift that turn a number in *source* into one in *target*.

    Raises UnknownName for a unit that is not in the list, NoConversion where the two measure
    different things.
    """
    a, b = unit(source), unit(target)
    if a == b:
        return 1.0, 0.0
    if not (a.reads and b.reads) or (
        _registry().Unit(a.reads).dimensionality != _registry().Unit(b.reads).dimensionality
    ):
        raise NoConversion(
            f"{source} and {target} measure different things.",
            field="unit",
            remedy="Measure again in the other unit; no factor turns one into the other.",
        )
    at = [float(_registry().Quantity(x, a.reads).to(b.reads).magnitude) for x in (0.0, 100.0)]
    shift = round(at[0], 9)
    return (at[1] - at[0]) / 100, shift


def convert(number: float, source: str, target: str) -> float:
    """*number* in *source* as a number in *target*. Raises as line()."""
    factor, shift = line(source, target)
    return number * factor + shift
