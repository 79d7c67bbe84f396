"""A calculation with inputs as people write them: "5.2", "< 0.05", "5.1–5.4", "5.2 ± 0.3"."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from math import floor, inf, isfinite, log10
from typing import Any

from kessa_core.calculations.registry import LISTS, Calculation, Given, calculations
from kessa_core.derived.propagation import Carried, carry, decimals_for
from kessa_core.errors import CoreError, NotANumber, UnknownName
from kessa_core.quantities import Interval
from kessa_core.quantities.rounding import figure, span

_NUMBER = r"[-+]?\d+(?:\.\d+)?(?:e[-+]?\d+)?"
_RANGE = re.compile(rf"({_NUMBER})\s*(?:–|-|to)\s*({_NUMBER})")
_ABOUT = re.compile(rf"({_NUMBER})\s*(?:±|\+-|\+/-)\s*({_NUMBER})")
_BOUND = re.compile(rf"([<>])\s*({_NUMBER})")
FIGURES = 4
"""Significant figures of an answer whose inputs have no range."""
MOST_DECIMALS = 9


@dataclass(frozen=True)
class Known:
    """A number as it was typed: with its range, or as a bound."""

    number: float
    interval: Interval
    qualifier: str = ""
    bracket: tuple[float, float] | None = None


@dataclass(frozen=True)
class Answer:
    """One answer: its key and unit, the figure, and its range where the inputs have one. label:
    what it is, where there are several."""

    key: str
    label: str
    unit: str
    figure: str
    range: str = ""


@dataclass(frozen=True)
class Worked:
    """What a calculation came to. working: the inputs as they were taken."""

    answers: tuple[Answer, ...]
    working: str


def read_number(text: str) -> Known:
    """What was typed. Raises NotANumber."""
    plain = re.sub(r"(?<=\d)[\s\u202f\u00a0](?=\d{3}\b)", "", text.strip()).replace(",", ".")
    plain = plain.replace("\u2212", "-").lower()
    if found := _ABOUT.fullmatch(plain):
        number, half = float(found[1]), abs(float(found[2]))
        return Known(number, Interval(number - half, number + half))
    if found := _RANGE.fullmatch(plain):
        low, high = sorted((float(found[1]), float(found[2])))
        return Known((low + high) / 2, Interval(low, high))
    if found := _BOUND.fullmatch(plain):
        number = float(found[2])
        if found[1] == "<":
            return Known(number, Interval(0.0, number), "<")
        return Known(number, Interval(number, None), ">")
    if re.fullmatch(_NUMBER, plain):
        number = float(plain)
        return Known(number, Interval(number, number))
    raise NotANumber(f"{text.strip() or 'Nothing'} is no number.")


def work_out(name: str, typed: Mapping[str, str]) -> Worked:
    """The calculation *name* with what was typed for each input.

    Raises UnknownName, and CoreError where something typed is no number or there is no answer.
    """
    found = calculations().get(name)
    if found is None:
        raise UnknownName(f"There is no calculation {name!r}.")
    plain, known = _read(found, typed)
    numbers = {key: one.number for key, one in known.items()}
    result = found(plain | numbers, in_words=True)
    uncertain = [key for key, one in known.items() if _is_uncertain(one)]
    answers = []
    for key, value in result.items():
        named = (key, found.gives[key].label, found.unit_of(key, plain))
        if isinstance(value, list):
            answers.append(Answer(*named, ", ".join(_figures(one) for one in value)))
        elif uncertain:
            answers.append(_with_range(found, named, plain | numbers, known, uncertain))
        else:
            answers.append(Answer(*named, _figures(value)))
    return Worked(tuple(answers), _working(found, typed))


def _read(found: Calculation, typed: Mapping[str, str]) -> tuple[dict[str, Any], dict[str, Known]]:
    """Inputs that are no single number, and those that are; nothing for what was left empty."""
    plain: dict[str, Any] = {}
    known: dict[str, Known] = {}
    for given in found.given:
        key = given.name
        text = typed.get(key, "").strip()
        if not text:
            continue
        if given.kind is str:
            plain[key] = text
        elif given.kind is list:
            plain[key] = _list(text, given)
        elif given.kind == LISTS:
            plain[key] = [_list(line, given) for line in text.splitlines() if line.strip()]
        else:
            known[key] = _one(text, given)
    return plain, known


def _one(text: str, given: Given) -> Known:
    try:
        return read_number(text)
    except NotANumber as wrong:
        raise NotANumber(f"{given.label}: {wrong}", field=given.name) from None


def _list(text: str, given: Given) -> list[float]:
    return [_one(part, given).number for part in re.split(r"[;\s]+", text.strip()) if part]


def _is_uncertain(one: Known) -> bool:
    return bool(one.qualifier) or one.interval.low != one.interval.high


def _with_range(
    found: Calculation, named: tuple[str, str, str], inputs: Mapping[str, Any],
    known: Mapping[str, Known], uncertain: list[str],
) -> Answer:  # fmt: skip
    """An answer with the range that the inputs' ranges give it; without one where an end of a range
    has no answer."""

    def answer(*numbers: float) -> float:
        moved = dict(zip(uncertain, numbers, strict=True))
        if any(not isfinite(number) for number in numbers):
            return inf
        return float(found(dict(inputs) | moved)[named[0]])

    try:
        carried = carry(answer, [known[one] for one in uncertain])
    except CoreError:
        number = float(found(dict(inputs))[named[0]])
        return Answer(*named, _figures(number), "no range: at an end of it there is no answer")
    return Answer(*named, *_said(carried, {known[one].qualifier for one in uncertain}))


def _said(carried: Carried, qualifiers: set[str]) -> tuple[str, str]:
    """The figure and its range in words; a bound stays a bound."""
    low, high = carried.low, carried.high
    if not isfinite(high):
        return f"> {_figures(low)}", f"at least {_figures(low)}"
    if not isfinite(low):
        return f"< {_figures(high)}", f"at most {_figures(high)}"
    decimals = decimals_for(high - low, MOST_DECIMALS, finer=1)
    range_ = span(figure(low, decimals, "down"), figure(high, decimals, "up"))
    if "<" in qualifiers and low <= 0 <= high:
        return f"< {_figures(high)}", range_
    if qualifiers - {""}:
        return range_, range_
    return figure(carried.number, decimals), range_


def _figures(number: float) -> str:
    if number == 0:
        return "0"
    return figure(number, max(FIGURES - 1 - floor(log10(abs(number))), 0))


def _working(found: Calculation, typed: Mapping[str, str]) -> str:
    """ "Dissolved oxygen 8.9 mg/L; Temperature of the water 12 °C"."""
    said = [
        f"{given.label} {given.printed(typed[key].strip())} {given.unit}".rstrip()
        for given in found.given
        if typed.get(key := given.name, "").strip()
    ]
    return "; ".join(said)
