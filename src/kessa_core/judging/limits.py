"""Limit sets as data; each limit with its document, edition, statistic and tier."""

from calendar import month_name
from collections.abc import Iterable, Sequence
from datetime import date, datetime, timedelta
from functools import cache
from importlib import resources
from math import inf
from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from kessa_core.derived.deriving import Measured, Place
from kessa_core.documents import Figure, Key, Line, Part, Short, Signed
from kessa_core.documents.load import read
from kessa_core.errors import UnknownName
from kessa_core.judging.formulas import FORMULAS, FormulaName, compute
from kessa_core.methods.suitability import TRAITS
from kessa_core.quantities import Quantity, conversion, parameter, units

Statistic = Literal[
    "each sample",
    "long-term mean",
    "short-term exposure",
    "1-hour mean",
    "4-day mean",
    "30-day mean",
    "mean of the sample and its confirmation",
    "mean of three samples",
    "two days in a row",
    "running annual average",
    "90th percentile",
    "monthly share",
]
SAMPLE_OF: dict[str, str] = {
    "long-term mean": "long-term",
    "short-term exposure": "short-term",
    "1-hour mean": "1-hour",
    "4-day mean": "4-day",
    "30-day mean": "30-day",
}
"""Limits for a mean over a time, against which a single sample is compared as such."""
DECIDED_BY: dict[str, str] = {
    "mean of the sample and its confirmation": "the mean with a second sample decides",
    "mean of three samples": "the mean of three samples decides",
    "two days in a row": "the next day’s sample decides",
    "running annual average": "the running annual average decides",
    "90th percentile": "the 90th percentile of all samples decides",
    "monthly share": "the share of the month’s samples decides",
}
"""Limits that a single sample cannot be beyond; what decides."""
APPLIES_TO: dict[str, str] = {
    "each sample": "each sample",
    "long-term mean": "a long-term mean",
    "short-term exposure": "a short-term exposure",
    "1-hour mean": "a mean of 1 hour",
    "4-day mean": "a mean of 4 days",
    "30-day mean": "a mean of 30 days",
    "mean of the sample and its confirmation": "the mean of a sample and its confirmation",
    "mean of three samples": "the mean of three samples",
    "two days in a row": "samples of two days in a row",
    "running annual average": "a running annual average",
    "90th percentile": "the 90th percentile of all samples",
    "monthly share": "a share of a month’s samples",
}
FOUND_FOR_A_SAMPLE = ("computed", "max_low", "max_high")
"""Fields that a formula fills in for a sample; no document says them."""
TIERS_WITH_A_DOCUMENT = ("legal limit", "action level")
_FOLDER = resources.files("kessa_core.judging").joinpath("sets")


class Limit(Part):
    """One limit. max and min are figures as the document prints them, in unit and basis.

    parts: of a water that it is for, such as the feed of a boiler; empty: all. having, lacking:
    what the water has to be known for, and must not be, to be judged by it. months: in which it
    holds; empty: all. formula: computes max from what else was measured of the sample; computed,
    max_low, max_high: set where it was, with what, and between what max lies then; computed without
    max: why it could not be.
    """

    id: Key
    name: Short
    parameter: Key
    form: Key
    basis: str
    unit: str
    min: Signed | None = None
    max: Signed | None = None
    formula: FormulaName | None = None
    computed: str = ""
    max_low: float | None = None
    max_high: float | None = None
    tier: Literal["legal limit", "action level", "guideline", "treatment target", "alert"]
    statistic: Statistic = Field(description="What the number applies to.")
    rounding: Literal["as reported", "figures of the limit"] = Field(
        default="as reported",
        description="How the rule rounds a value before it compares.",
    )
    document: Line | None = None
    condition: Line | None = Field(
        default=None, description="When it applies, where Kessa cannot tell."
    )
    parts: tuple[Key, ...] = ()
    having: tuple[str, ...] = ()
    lacking: tuple[str, ...] = ()
    months: tuple[Annotated[int, Field(ge=1, le=12)], ...] = ()
    begins: date | None = Field(default=None, description="The first day on which it holds.")
    ends: date | None = Field(default=None, description="The last day on which it holds.")
    within: Line = Field(description="What it means for fish, pipes or people, on the good side.")
    beyond: Line
    above: Line | None = Field(default=None, description="Said of a value above the maximum.")
    below: Line | None = Field(default=None, description="Said of a value below the minimum.")

    @model_validator(mode="after")
    def _bounds_something(self) -> "Limit":
        if self.formula:
            if not self.computed and (self.min is not None or self.max is not None):
                raise ValueError("a formula computes max; leave min and max out")
            return self
        if self.min is None and self.max is None:
            raise ValueError("a limit needs min, max or a formula")
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
        if self.formula:
            wanted = FORMULAS[self.formula]
            if (self.unit, self.basis) != (wanted.unit, wanted.basis):
                raise ValueError(f"the formula gives {wanted.unit} as {wanted.basis}")
        if units.unit(self.unit) is not units.unit(known.unit) and self.unit not in known.beside:
            conversion.line(self.parameter, (self.basis, self.unit), (self.basis, known.unit))
        return self

    @model_validator(mode="after")
    def _has_a_document_where_it_binds(self) -> "Limit":
        if self.tier in TIERS_WITH_A_DOCUMENT and not self.document:
            raise ValueError(f"a {self.tier} needs its document")
        if self.begins and self.ends and self.begins > self.ends:
            raise ValueError("it ends before it begins")
        if strange := [one for one in (*self.having, *self.lacking) if one not in TRAITS]:
            raise ValueError(f"not known of any water: {', '.join(strange)}")
        return self

    def holds(self, day: date, part: str, traits: Iterable[str], month: int = 0) -> bool:
        """Whether it is for a sample of this day, from this part of a water with these traits. A
        point whose part nobody has said is judged by what is for all parts. *month*: the sample's,
        where it is not that of the day."""
        known = set(traits)
        return (
            (self.begins is None or self.begins <= day)
            and (self.ends is None or day <= self.ends)
            and (not self.months or (month or day.month) in self.months)
            and (not self.parts or part in self.parts)
            and known.issuperset(self.having)
            and known.isdisjoint(self.lacking)
        )

    def for_sample(self, measured: Sequence[Measured], at: datetime, place: Place) -> "Limit":
        """The limit as it is for a sample taken at *at* of which this was measured: with its figure
        where a formula computes it."""
        if not self.formula:
            return self
        found = compute(self.formula, measured, at, place)
        if found.reason:
            return self.model_copy(update={"computed": found.reason})
        return self.model_copy(
            update={
                "max": found.figure,
                "computed": found.words,
                "max_low": min(found.low, float(found.figure)),
                "max_high": max(found.high, float(found.figure)),
            }
        )

    @property
    def cannot_be_computed(self) -> str:
        """Why a formula gives no figure here; nothing where it does or there is none."""
        if not self.formula or self.max is not None:
            return ""
        depends = f"The {self.name} {self.tier} depends on {FORMULAS[self.formula].names}"
        return f"{depends}: {self.computed}." if self.computed else f"{depends}."

    @property
    def most(self) -> tuple[float, float]:
        """Between what its maximum lies: twice the same, but for one that was computed; infinite
        without one."""
        if self.max is None:
            return inf, inf
        number = float(self.max)
        return (
            number if self.max_low is None else self.max_low,
            number if self.max_high is None else self.max_high,
        )

    def side(self, above: bool) -> str:
        """What it means to be beyond it on that side."""
        return (self.above if above else self.below) or self.beyond

    @property
    def applies_to(self) -> str:
        """What its number is for: "each sample", "a mean of 4 days"."""
        return APPLIES_TO[self.statistic]

    @property
    def conditions(self) -> tuple[str, ...]:
        """When it applies, each as a sentence; nothing where it always does."""
        said = [self.condition] if self.condition else []
        said += [f"For water that {TRAITS[one]}." for one in self.having]
        said += [f"Not for water that {TRAITS[one]}." for one in self.lacking]
        if self.months:
            said.append(f"For samples of {_months(self.months)}.")
        if self.begins:
            said.append(f"From {self.begins:%-d %B %Y}.")
        if self.ends:
            said.append(f"Until {self.ends:%-d %B %Y}.")
        if self.rounding == "figures of the limit":
            said.append("The rule rounds a value to as many figures as the limit has.")
        if self.statistic in DECIDED_BY:
            said.append(f"One sample alone cannot be above it: {DECIDED_BY[self.statistic]}.")
        return tuple(said)

    @property
    def quantity(self) -> Quantity:
        return Quantity(self.parameter, self.form, self.basis, self.unit)

    @property
    def bounds_text(self) -> str:
        """ "120", "at least 6.5", "6.5–9.0"."""
        if self.min is None and self.max is None:
            return f"by {FORMULAS[self.formula].names}" if self.formula else ""
        if self.min is None:
            return str(self.max)
        return f"at least {self.min}" if self.max is None else f"{self.min}–{self.max}"


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


def _months(numbers: Sequence[int]) -> str:
    """ "April to October", "June and July", "December, January and June"."""
    known = sorted(set(numbers))
    starts = [n for n in known if (n - 2) % 12 + 1 not in known]
    if len(starts) == 1 and len(known) > 1:
        last = (starts[0] + len(known) - 2) % 12 + 1
        return f"{month_name[starts[0]]} to {month_name[last]}"
    names = [month_name[n] for n in known]
    return " and ".join([*([", ".join(names[:-1])] if len(names) > 1 else []), names[-1]])


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
