"""Limit sets as documents: with their edition, what of them holds on a day, and those shipped."""

from collections.abc import Iterable
from datetime import date, timedelta
from functools import cache
from importlib import resources
from math import inf

from pydantic import Field, field_validator

from kessa_core.documents import Figure, Key, Line, Part, Short
from kessa_core.documents.load import read
from kessa_core.errors import UnknownName
from kessa_core.judging.limits import FOUND_FOR_A_SAMPLE, Limit
from kessa_core.quantities import Quantity

_FOLDER = resources.files("kessa_core.judging").joinpath("sets")


class LimitSet(Part):
    """A set of limits with its edition. place: where its documents are in force. bar_above,
    bar_up_to: the operating pressures of a boiler that it is for."""

    id: Key
    edition: Short
    title: Short
    place: Short | None = None
    bar_above: Figure | None = None
    bar_up_to: Figure | None = None
    note: Line
    limits: tuple[Limit, ...] = Field(min_length=1)

    @field_validator("limits")
    @classmethod
    def _ids_differ(cls, limits: tuple[Limit, ...]) -> tuple[Limit, ...]:
        ids = [limit.id for limit in limits]
        if twice := sorted({name for name in ids if ids.count(name) > 1}):
            raise ValueError(f"ids must differ; used twice: {', '.join(twice)}")
        return limits

    @field_validator("limits")
    @classmethod
    def _of_a_document(cls, limits: tuple[Limit, ...]) -> tuple[Limit, ...]:
        for limit in limits:
            if any(getattr(limit, name) for name in FOUND_FOR_A_SAMPLE):
                raise ValueError(f"{limit.id}: {', '.join(FOUND_FOR_A_SAMPLE)} are not written")
        return limits

    def holding(self, day: date, part: str, traits: Iterable[str], month: int = 0) -> "LimitSet":
        """The same set with only those of its limits that hold on this day (in *month*, where it is
        given) for this part of a water with these traits; it may be left without a limit."""
        known = set(traits)
        kept = tuple(limit for limit in self.limits if limit.holds(day, part, known, month))
        return self.model_copy(update={"limits": kept})

    @property
    def seasons(self) -> tuple[tuple[int, ...], ...]:
        """The months of the year in groups during which the same of its limits hold; empty where
        none is for some months only."""
        bound = [limit.months for limit in self.limits if limit.months]
        if not bound:
            return ()
        groups: dict[tuple[bool, ...], list[int]] = {}
        for month in range(1, 13):
            groups.setdefault(tuple(month in one for one in bound), []).append(month)
        return tuple(tuple(months) for months in groups.values())

    def is_for_pressure(self, bar: float) -> bool:
        """Whether it is for a boiler at this operating pressure."""
        low = float(self.bar_above) if self.bar_above else -inf
        high = float(self.bar_up_to) if self.bar_up_to else inf
        return low < bar <= high

    @property
    def pressures(self) -> str:
        """For which operating pressures: "up to 10 bar"; nothing where it is for all."""
        said = []
        if self.bar_above:
            said.append(f"above {self.bar_above} bar")
        if self.bar_up_to:
            said.append(f"up to {self.bar_up_to} bar")
        return ", ".join(said)

    @property
    def turns(self) -> tuple[date, ...]:
        """The days from which on another of its limits holds."""
        ended = {limit.ends + timedelta(days=1) for limit in self.limits if limit.ends}
        return tuple(sorted(ended | {limit.begins for limit in self.limits if limit.begins}))

    @property
    def tells_parts_apart(self) -> bool:
        """Whether some of its limits are for one part of a water only."""
        return any(limit.parts for limit in self.limits)

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
