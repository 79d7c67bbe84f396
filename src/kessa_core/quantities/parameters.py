"""The parameters people pick from a list, with their formula."""

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib import resources

from kessa_core.errors import UnknownName


@dataclass(frozen=True)
class Parameter:
    """What is measured: its forms (total, dissolved), bases and stored unit.

    signed: whether values below zero exist (a temperature). beside: units that other instruments
    report it in and that no factor connects with its own.
    """

    key: str
    name: str
    formula: str
    forms: tuple[str, ...]
    bases: tuple[str, ...]
    unit: str
    about: str
    signed: bool = False
    beside: tuple[str, ...] = ()


@cache
def parameters() -> dict[str, Parameter]:
    """Every parameter by its key."""
    text = resources.files("kessa_core.quantities").joinpath("data", "parameters.toml")
    return {
        key: Parameter(
            key,
            entry["name"],
            entry["formula"],
            tuple(entry["forms"]),
            tuple(entry["bases"]),
            entry["unit"],
            entry["about"],
            entry.get("signed", False),
            tuple(entry.get("beside", ())),
        )
        for key, entry in tomllib.loads(text.read_text("utf-8")).items()
    }


def parameter(key: str) -> Parameter:
    """The parameter with this key.

    Raises UnknownName with the keys that exist.
    """
    try:
        return parameters()[key]
    except KeyError:
        known = ", ".join(parameters())
        raise UnknownName(f"There is no parameter {key!r}.", remedy=f"Known: {known}.") from None
