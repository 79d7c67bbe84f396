"""Limit sets as data; each limit with its document, edition, statistic and tier."""

from collections.abc import Iterable
from functools import cache
from importlib import resources
from typing import Literal

from pydantic import Field, field_validator, model_validator

from kessa_core.documents import Figure, Key, Line, Part, Short
from kessa_core.documents.load import read
from kessa_core.errors import UnknownName
from kessa_core.quantities import Quantity, conversion, parameter, units

Statistic = Literal[
    "each sample",
    "long-term mean",
    "short-term exposure",
    "1-hour mean",
    "4-day mean",
    "mean of the sample and its confirmation",
    "running annual average",
    "90th percentile",
    "monthly share",
]
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
    statistic: Statistic = Field(description="What the number applies to.")
    document: Line
    within: Line = Field(description="What it means for fish, pipes or people, on the good side.")
    beyond: Line
    above: Line | None = Field(default=None, description="Said of a value above the maximum.")
    below: Line | None = Field(default=None, description="Said of a value below the minimum.")

    @model_validator(mode="after")
    def _bounds_something(self) -> "Limit":
        if self.min is None and self.max is None:
            raise ValueError("a limit needs min or max")
        if self.min is not None and self.max is not None and float(self.min) > float(self.max):
            raise ValueError(f"min {self.min} lies above max {self.max}")
        return self

    @model_validator(mode="after")
    def _of_something_in_the_list(self) -> "Limit":
        known = parameter(self.parameter)
        if self.form not in known.forms:
            raise ValueError(f"form must be one of: {', '.join(known.forms)}")
        if self.basis not in known.bases:
            bases = ", ".join(known.bases) if any(known.bases) else "left empty"
            raise ValueError(f"basis must be one of: {bases}")
        if units.unit(self.unit) is not units.unit(known.unit) and self.unit not in known.beside:
            conversion.line(self.parameter, (self.basis, self.unit), (self.basis, known.unit))
        return self

    def side(self, above: bool) -> str:
        """What it means to be beyond it on that side."""
        return (self.above if above else self.below) or self.beyond

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

    @field_validator("limits")
    @classmethod
    def _ids_differ(cls, limits: tuple[Limit, ...]) -> tuple[Limit, ...]:
        ids = [limit.id for limit in limits]
        if twice := sorted({name for name in ids if ids.count(name) > 1}):
            raise ValueError(f"ids must differ; used twice: {', '.join(twice)}")
        return limits

    def of(self, quantity: Quantity) -> tuple[Limit, ...]:
        """The limits for this parameter and form, in the set's order."""
        return tuple(
            limit
            for limit in self.limits
            if (limit.parameter, limit.form) == (quantity.parameter, quantity.form)
        )

    def of_all(self, quantities: Iterable[Quantity]) -> tuple[Limit, ...]:
        """The limits for any of these parameters, each once; one that cannot be applied to a value
        says so when it is judged."""
        named = {quantity.parameter for quantity in quantities}
        return tuple(limit for limit in self.limits if limit.parameter in named)


def load_limits(text: str) -> LimitSet:
    """The set in this YAML *text*.

    Raises BadDocument naming, for each problem, line, path, what is wrong and what is allowed.
    """
    return read(text, LimitSet)


@cache
def limit_sets() -> dict[str, LimitSet]:
    """Every shipped set by its id."""
    found = {}
    for entry in sorted(_FOLDER.iterdir(), key=lambda entry: entry.name):
        if entry.name.endswith(".yaml"):
            loaded = load_limits(entry.read_text("utf-8"))
            found[loaded.id] = loaded
    return found


def limit_set(key: str) -> LimitSet:
    """The shipped set with this id; raises UnknownName with those that exist."""
    try:
        return limit_sets()[key]
    except KeyError:
        known = ", ".join(limit_sets())
        raise UnknownName(f"There is no limit set {key!r}.", remedy=f"Known: {known}.") from None
