"""./kessa calc NAME key=value ... [--json] | --list | --batch FILE"""

import json
import sys
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TextIO

from kessa_core.calculations import calculate, calculations
from kessa_core.errors import CoreError


def main(arguments: list[str]) -> int:
    """Run one calculation, list all, or run a batch of JSON lines."""
    if "--list" in arguments:
        _list()
        return 0
    if arguments[:1] == ["--batch"]:
        if len(arguments) != 2:
            raise CoreError("--batch takes one file, or - for standard input.")
        with _opened(arguments[1]) as lines:
            _batch(lines)
        return 0
    plain = [argument for argument in arguments if argument != "--json"]
    if not plain:
        raise CoreError("Name a calculation; --list shows them all.")
    inputs = dict(_pair(argument) for argument in plain[1:])
    result = calculate(plain[0], inputs)
    if "--json" in arguments:
        print(json.dumps(result, ensure_ascii=False))
    else:
        calculation = calculations()[plain[0]]
        for key, number in result.items():
            print(f"{key} = {number} {calculation.unit_of(key, inputs)}".rstrip())
    return 0


def _pair(argument: str) -> tuple[str, Any]:
    key, equals, text = argument.partition("=")
    if not equals or not key:
        raise CoreError(f"{argument!r} is not key=value.")
    if text[:1] in ("[", "{"):
        try:
            return key, json.loads(text)
        except json.JSONDecodeError:
            raise CoreError(f"{key} begins like JSON but is none.") from None
    return key, text


def _list() -> None:
    for calculation in calculations().values():
        print(f"{calculation.name}: {calculation.about}")
        for given in calculation.given:
            unit = f" {given.unit}" if given.unit else ""
            default = "" if given.default is None else f" (default {given.default:g})"
            default = default if given.needed else " (optional)"
            print(f"    {given.name}{unit}: {given.about}{default}")
        for key, gives in calculation.gives.items():
            said = (gives.about, calculation.unit_of(key))
            print(f"    -> {key}: {', '.join(part for part in said if part)}")
        print(f"    source: {calculation.source}")


@contextmanager
def _opened(name: str) -> Iterator[TextIO]:
    if name == "-":
        yield sys.stdin
    else:
        with Path(name).open(encoding="utf-8") as file:
            yield file


def _batch(lines: Iterable[str]) -> None:
    for line in lines:
        if not line.strip():
            continue
        try:
            asked = json.loads(line)
            if not isinstance(asked, dict) or not isinstance(asked.get("in"), dict):
                raise CoreError('A line must be {"calc": NAME, "in": {...}}.')
            answer: dict[str, Any] = {"out": calculate(str(asked.get("calc")), asked["in"])}
        except CoreError as error:
            answer = {"error": str(error)}
        except (json.JSONDecodeError, RecursionError):
            answer = {"error": "This line is not JSON."}
        print(json.dumps(answer, ensure_ascii=False))
