"""Limit sets as data; each limit with its document, edition, statistic and tier."""

from calendar import month_name
from collections.abc import Iterable, Sequence
from datetime import date, datetime
from math import inf
from typing import Annotated, Literal

from pydantic import Field, model_validator

from kessa_core.derived.deriving import Measured, Place
from kessa_core.documents import Key, Line, Part, Short, Signed
from kessa_core.judging.formulas import FORMULAS, FormulaName, compute
from kessa_core.methods.suitability import TRAITS
from kessa_core.quantities import Quantity, conversion, parameter, units
from kessa_core.quantities.rounding import span

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


class Limit(Part):
    """One limit. max and min are figures as the document prints them, in unit and basis.

    parts: of a water that it is for, such as the feed of a boiler; empty: all. having, lacking:
    what the water has to be known for, and must not be, to be judged by it. months: in which it
    holds; empty: all.
    fair_min, fair_max, fair: where a programme grades: within min and max is good, up to these
    fair, further poor.
    formula: computes max from what else was measured of the sample; computed, max_low, max_high:
    set where it was, with what, and between what max lies then; computed without max: why it could
    not be.
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
    fair_min: Signed | None = None
    fair_max: Signed | None = None
    fair: Line | None = Field(default=None, description="What it means to be graded fair.")
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
    def _grades_in_order(self) -> "Limit":
        if self.is_graded != bool(self.fair):
            raise ValueError("grading needs fair_min or fair_max, and what fair means")
        for fair, good, side in (
            (self.fair_max, self.max, 1), (self.fair_min, self.min, -1),
        ):  # fmt: skip
            if fair is not None and (good is None or side * (float(fair) - float(good)) <= 0):
                raise ValueError("fair reaches further: fair_min below min, fair_max above max")
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
            wanted = FORMULAS[self.formula].quantity
            if self.quantity != wanted:
                named = f"{wanted.form} {wanted.parameter} in {wanted.unit} as {wanted.basis}"
                raise ValueError(f"the formula is for {named}")
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
    def is_graded(self) -> bool:
        """Whether values are graded good, fair or poor."""
        return self.fair_min is not None or self.fair_max is not None

    @property
    def fair_band(self) -> "Limit":
        """A limit that is within wherever this one grades good or fair."""
        return self.model_copy(
            update={"min": self.fair_min or self.min, "max": self.fair_max or self.max}
        )

    @property
    def cannot_be_computed(self) -> str:
        """Why a formula gives no figure here; nothing where it does or there is none."""
        if not self.formula or self.max is not None:
            return ""
        depends = f"The {self.named} depends on {FORMULAS[self.formula].names}"
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
    def named(self) -> str:
        """What a sentence calls it: "long-term guideline", "guideline range"."""
        return self.name if self.tier in self.name else f"{self.name} {self.tier}"

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
        if self.is_graded:
            fair = self.fair_band
            said.append(f"Graded: good {self.bounds_text}, fair {fair.bounds_text}, else poor.")
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
        return f"at least {self.min}" if self.max is None else span(str(self.min), str(self.max))


def _months(numbers: Sequence[int]) -> str:
    """ "April to October", "June and July", "December, January and June"."""
    known = sorted(set(numbers))
    starts = [n for n in known if (n - 2) % 12 + 1 not in known]
    if len(starts) == 1 and len(known) > 1:
        last = (starts[0] + len(known) - 2) % 12 + 1
        return f"{month_name[starts[0]]} to {month_name[last]}"
    names = [month_name[n] for n in known]
    return " and ".join([*([", ".join(names[:-1])] if len(names) > 1 else []), names[-1]])
