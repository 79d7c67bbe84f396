"""The register of calculations: what each takes and gives, with units and source."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from kessa_core.errors import CoreError, NotANumber, UnknownName

LISTS = "lists"
"""An input of several lists of numbers."""


@dataclass(frozen=True)
class Given:
    """One input: its unit, what it is, and the values the definition allows.

    kind: float, str, list (of numbers) or LISTS. needed: whether it has to be given. choices: the
    names that a page offers, where it is one, each with how it is printed.
    """

    key: str
    unit: str
    about: str
    kind: type | str = float
    default: Any = None
    above: float | None = None
    at_least: float | None = None
    at_most: float | None = None
    needed: bool = True
    choices: tuple[tuple[str, str], ...] = ()

    def printed(self, text: str) -> str:
        """What was typed or chosen, as it is printed."""
        return dict(self.choices).get(text, text)

    def read(self, raw: Any) -> Any:
        """The checked input. Raises NotANumber saying what it must be."""
        if self.kind is str:
            if not isinstance(raw, str) or not raw:
                raise NotANumber(f"{self.key} must be a name.", field=self.key)
            return raw
        if self.kind == LISTS:
            if not isinstance(raw, list):
                raise NotANumber(f"{self.key} must be a list of lists.", field=self.key)
            return [self._numbers(one) for one in raw]
        return self._numbers(raw) if self.kind is list else self._number(raw)

    def _numbers(self, raw: Any) -> list[float]:
        if not isinstance(raw, list):
            raise NotANumber(f"{self.key} must be a list of numbers.", field=self.key)
        return [self._number(one) for one in raw]

    def _number(self, raw: Any) -> float:
        unit = f" in {self.unit}" if self.unit else ""
        try:
            number = math.nan if isinstance(raw, bool) else float(raw)
        except (TypeError, ValueError):
            number = math.nan
        if not math.isfinite(number):
            raise NotANumber(f"{self.key} must be a number{unit}, not {raw!r}.", field=self.key)
        if self.above is not None and number <= self.above:
            raise NotANumber(f"{self.key} must be above {self.above:g}{unit}.", field=self.key)
        if self.at_least is not None and number < self.at_least:
            raise NotANumber(
                f"{self.key} must be at least {self.at_least:g}{unit}.", field=self.key
            )
        if self.at_most is not None and number > self.at_most:
            raise NotANumber(f"{self.key} must be at most {self.at_most:g}{unit}.", field=self.key)
        return number


@dataclass(frozen=True)
class Calculation:
    """One calculation: inputs, outputs with their units, the function, its source."""

    name: str
    about: str
    source: str
    given: tuple[Given, ...]
    gives: Mapping[str, str]
    function: Callable[..., dict[str, Any]]

    def __call__(self, inputs: Mapping[str, Any]) -> dict[str, Any]:
        """The outputs. Raises CoreError naming every input that is wrong at once."""
        keys = {given.key.rstrip("_"): given for given in self.given}
        wrong = []
        if unknown := [key for key in inputs if key not in keys]:
            wrong.append(f"{', '.join(unknown)}: not an input of {self.name} ({', '.join(keys)}).")
        read: dict[str, Any] = {}
        for key, given in keys.items():
            raw = inputs.get(key, given.default)
            if raw is None and not given.needed:
                continue
            if raw is None:
                unit = f" ({given.unit})" if given.unit else ""
                wrong.append(f"{key} is missing{unit}.")
                continue
            try:
                read[given.key] = given.read(raw)
            except NotANumber as error:
                wrong.append(str(error))
        if wrong:
            raise NotANumber(" ".join(wrong))
        result = self.function(**read)
        if any(
            isinstance(number, float) and not math.isfinite(number) for number in result.values()
        ):
            raise NotANumber("The definition gives no number for these inputs.")
        return result


_REGISTER: dict[str, Calculation] = {}


def register(
    name: str, about: str, source: str, given: tuple[Given, ...], gives: Mapping[str, str]
) -> Callable[[Callable[..., dict[str, Any]]], Callable[..., dict[str, Any]]]:
    """Enter a function in the register; a doubled name fails at import."""

    def enter(function: Callable[..., dict[str, Any]]) -> Callable[..., dict[str, Any]]:
        if name in _REGISTER:
            raise CoreError(f"The calculation {name} is registered twice.")
        _REGISTER[name] = Calculation(name, about, source, given, gives, function)
        return function

    return enter


def calculations() -> dict[str, Calculation]:
    """Every calculation by name, sorted."""
    return dict(sorted(_REGISTER.items()))


def calculate(name: str, inputs: Mapping[str, Any]) -> dict[str, Any]:
    """Run the calculation *name*.

    Raises UnknownName for a name that is not registered, CoreError for wrong inputs.
    """
    if name not in _REGISTER:
        known = ", ".join(calculations())
        raise UnknownName(f"There is no calculation {name!r}.", remedy=f"Known: {known}.")
    return _REGISTER[name](inputs)
