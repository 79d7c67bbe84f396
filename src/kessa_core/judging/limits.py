"""Limit sets as data; each limit with its document, edition, statistic and tier."""

from collections.abc import Iterable
from functools import cache
from importlib import resources
from typing import Literal

import yaml
from pydantic import Field, model_validator

from kessa_core.documents import Figure, Key, Line, Part, Short
from kessa_core.errors import UnknownName
from kessa_core.quantities import Quantity

_FOLDER = resources.files("kessa_core.judging").joinpath("sets")


class Limit(Part):
    """One limit. max and min are figures as the document prints them, in unit and basis."""

    id: Key
    name: Short
    parameter: Key
    form: Key
    basis: str
    unit: str
    min: Figure | None = None
    max: Figure | None = None
    tier: Literal["legal limit", "action level", "guideline", "treatment target", "alert"]
    statistic: Short = Field(description="What the number applies to: each sample, a mean ...")
    document: Line
    within: Line = Field(description="What it means for fish, pipes or people, on the good side.")
    beyond: Line

    @model_validator(mode="after")
    def _bounds_something(self) -> "Limit":
        if self.min is None and self.max is None:
            raise ValueError("a limit needs min or max")
        return self

    @property
    def quantity(self) -> Quantity:
        return Quantity(self.parameter, self.form, self.basis, self.unit)

    @property
    def bounds_text(self) -> str:
        """ "120", "at least 6.5", "6.5–9.0"."""
        if self.min is None:
            return str(self.max)
        return f"at least {self.min}" if self.max is None else f"{self.min}–{self.max}"


class LimitSet(Part):
    """A set of limits with its edition."""

    id: Key
    edition: Short
    title: Short
    note: Line
    limits: tuple[Limit, ...] = Field(min_length=1)

    def of(self, quantity: Quantity) -> tuple[Limit, ...]:
        """The limits for this parameter and form, in the set's order."""
        return tuple(
            limit
            for limit in self.limits
            if (limit.parameter, limit.form) == (quantity.parameter, quantity.form)
        )

    def of_all(self, quantities: Iterable[Quantity]) -> tuple[Limit, ...]:
        """The limits for any of these, each once."""
        return tuple(dict.fromkeys(limit for q in quantities for limit in self.of(q)))


@cache
def limit_sets() -> dict[str, LimitSet]:
    """Every shipped set by its id."""
    found = {}
    for entry in sorted(_FOLDER.iterdir(), key=lambda entry: entry.name):
        if entry.name.endswith(".yaml"):
            loaded = LimitSet.model_validate(yaml.safe_load(entry.read_text("utf-8")))
            found[loaded.id] = loaded
    return found


def limit_set(key: str) -> LimitSet:
    """The shipped set with this id; raises UnknownName with those that exist."""
    try:
        return limit_sets()[key]
    except KeyError:
        known = ", ".join(limit_sets())
        raise UnknownName(f"There is no limit set {key!r}.", remedy=f"Known: {known}.") from None
