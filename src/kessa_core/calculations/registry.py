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

    @property
    def name(self) -> str:
        """The key as it is given from outside, where "from" needs no underscore."""
        return self.key.rstrip("_")

    @property
    def label(self) -> str:
        """What it is, as a sentence or a field begins with it."""
        return _begun(self.about)

    def read(self, raw: Any, called: str) -> Any:
        """The checked input. Raises NotANumber saying what it must be; *called*: by which name."""
        if self.kind is str:
            if not isinstance(raw, str) or not raw:
                raise self._wrong(f"{called} must be a name.")
            return raw
        if self.kind == LISTS:
            if not isinstance(raw, list):
                raise self._wrong(f"{called} must be a list of lists.")
            return [self._numbers(one, called) for one in raw]
        return self._numbers(raw, called) if self.kind is list else self._number(raw, called)

    def _wrong(self, why: str) -> NotANumber:
        return NotANumber(why, field=self.name)

    def _numbers(self, raw: Any, called: str) -> list[float]:
        if not isinstance(raw, list):
            raise self._wrong(f"{called} must be a list of numbers.")
        return [self._number(one, called) for one in raw]

    def _number(self, raw: Any, called: str) -> float:
        unit = f" {self.unit}" if self.unit else ""
        try:
            number = math.nan if isinstance(raw, bool) else float(raw)
        except (TypeError, ValueError):
            number = math.nan
        if not math.isfinite(number):
            kind = f"a number in {self.unit}" if self.unit else "a number"
            raise self._wrong(f"{called} must be {kind}, not {raw!r}.")
        if self.above is not None and number <= self.above:
            raise self._wrong(f"{called} must be above {self.above:g}{unit}.")
        if self.at_least is not None and number < self.at_least:
            raise self._wrong(f"{called} must be at least {self.at_least:g}{unit}.")
        if self.at_most is not None and number > self.at_most:
            raise self._wrong(f"{called} must be at most {self.at_most:g}{unit}.")
        return number


@dataclass(frozen=True)
class Gives:
    """One output: its unit, and what it is where there are several. {to} in a unit stands for what
    is chosen for the input "to"."""

    unit: str
    about: str = ""

    @property
    def label(self) -> str:
        """What it is, as a sentence begins with it."""
        return _begun(self.about)


def _begun(words: str) -> str:
    """With a capital, where the first letter may have one."""
    return words if words.startswith("pH") else words[:1].upper() + words[1:]


@dataclass(frozen=True)
class Calculation:
    """One calculation: inputs, outputs, the function, its source."""

    name: str
    about: str
    source: str
    given: tuple[Given, ...]
    gives: Mapping[str, Gives]
    function: Callable[..., dict[str, Any]]

    def unit_of(self, output: str, chosen: Mapping[str, Any] | None = None) -> str:
        """The unit of an output, as it is printed; what is not chosen yet is described."""
        known = chosen or {}
        told = {
            given.name: given.printed(str(known[given.name]))
            if given.name in known
            else given.about
            for given in self.given
        }
        return self.gives[output].unit.format_map(told)

    def __call__(self, inputs: Mapping[str, Any], *, in_words: bool = False) -> dict[str, Any]:
        """The outputs. Raises CoreError naming every input that is wrong at once, by its key or
        *in_words*."""
        keys = {given.name: given for given in self.given}
        wrong, fields = [], []
        if unknown := [key for key in inputs if key not in keys]:
            wrong.append(f"{', '.join(unknown)}: not an input of {self.name} ({', '.join(keys)}).")
        read: dict[str, Any] = {}
        for key, given in keys.items():
            called = given.label if in_words else key
            raw = inputs.get(key, given.default)
            if raw is None and not given.needed:
                continue
            if raw is None:
                unit = f" ({given.unit})" if given.unit else ""
                wrong.append(f"{called} is missing{unit}.")
                fields.append(key)
                continue
            try:
                read[given.key] = given.read(raw, called)
            except NotANumber as error:
                wrong.append(str(error))
                fields.append(key)
        if wrong:
            raise NotANumber(" ".join(wrong), field=fields[0] if fields else "")
        result = self.function(**read)
        if any(
            isinstance(number, float) and not math.isfinite(number) for number in result.values()
        ):
            raise NotANumber("The definition gives no number for these inputs.")
        return result


_REGISTER: dict[str, Calculation] = {}


def register(
    name: str, about: str, source: str, given: tuple[Given, ...], gives: Mapping[str, Gives]
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
