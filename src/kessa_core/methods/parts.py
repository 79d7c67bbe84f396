"""The parts of a method document. Descriptions here become the published JSON Schema."""

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, field_validator, model_validator

from kessa_core.documents import Amount, Figure, Key, Line, Measurand, Part, Short
from kessa_core.errors import NoConversion
from kessa_core.methods.steps import Only, Window, duration_words, names
from kessa_core.quantities import conversion
from kessa_core.quantities.parameters import parameters

Date = Annotated[str, StringConstraints(pattern=r"^\d{4}-\d{2}-\d{2}$")]


class Interference(Part):
    """Something else in the water that changes the reading, and from which level on."""

    what: Short
    above: Figure
    unit: Short
    does: Literal["reads high", "reads low", "hides the colour", "turns cloudy"]
    do: Line
    parameter: Key | None = Field(
        default=None, description="Its key in Kessa's list: a result of that day can then tell."
    )
    basis: str = Field(default="", description="Of above, where the parameter has bases.")

    @field_validator("parameter")
    @classmethod
    def _in_the_list(cls, key: str | None) -> str | None:
        if key is not None and key not in parameters():
            raise ValueError(f"parameter must be one of: {', '.join(parameters())}")
        return key


class Exclusion(Part):
    """A water that this method cannot be used for, and what to do instead."""

    water: Literal["glycol", "high-pressure boiler", "demineralised", "turbid", "coloured", "salt"]
    say: Line
    prepare: bool = Field(default=False, description="What say tells makes this sample fit.")


class SampleNeeds(Part):
    """What the sample has to be before reagents are used up."""

    volume_ml: float = Field(gt=0, le=5000, description="For one determination, rinses included.")
    start_within_min: int | None = Field(default=None, ge=0, le=600_000)
    perishable: int = Field(default=3, ge=1, le=5, description="1 has to be done first.")
    temperature_c: Window | None = None
    ph: Window | None = None
    preparation: tuple[
        Literal["filtered", "digested", "warmed", "acidified", "settled", "cooled"], ...
    ] = Field(default=(), max_length=6)
    not_for: tuple[Exclusion, ...] = Field(default=(), max_length=6)
    interferes: tuple[Interference, ...] = Field(default=(), max_length=20)

    @property
    def start_words(self) -> str:
        """How soon to start, in minutes, hours or days."""
        minutes = self.start_within_min or 0
        return duration_words(60 * minutes)


class Glass(Part):
    """A vessel and how it is filled."""

    name: Short
    holds_ml: float | None = Field(default=None, gt=0, le=5000)
    mark: Literal["bottom of the curve", "brim, no bubble", "dome", "line"]


class Reagent(Part):
    """What is used up, and where. A titrant is counted down by what was dispensed."""

    name: Short
    form: Literal[
        "drops", "tablets", "powder", "scoop", "pipetted", "solution", "ampoule", "strip", "sensor",
        "bottle", "buffer",
    ]  # fmt: skip
    amount: Amount = Field(description="For one determination; a titrant's is what it takes.")
    unit: Short
    lot: bool = Field(default=False, description="Its lot is noted with every result.")
    stages: tuple[Key, ...] = Field(
        default=(), max_length=8,
        description="Whose determinations use it up; else the first one's, and a titrant's own.",
    )  # fmt: skip
    only: Only = Field(
        default=(), description="Used up only in these determinations, such as the standard's."
    )
    per: Literal["determination", "preparation"] = Field(
        default="determination", description="preparation: once for all that share it."
    )

    def is_for(self, role: str) -> bool:
        """Whether a determination of this role uses it up."""
        return not self.only or names(self.only, role)


class Suspect(Part):
    """A possible cause of a failed blank and what to do about it."""

    what: Short
    do: Line


class Blank(Part):
    """The blank before the sample."""

    water: Short
    passes_at_most: int = Field(
        ge=0, le=9999, description="Drops, or steps of the scale, at which it still passes."
    )
    subtract: bool = Field(default=False, description="Whether it is subtracted from the sample's.")
    suspects: tuple[Suspect, ...] = Field(min_length=1, max_length=8)


class Standard(Part):
    """A standard of known concentration through the whole test."""

    value: Amount = Field(description="In the stage's unit and basis.")
    low_percent: int = Field(ge=1, le=200)
    high_percent: int = Field(ge=1, le=200)
    name: Short


class Reference(Part):
    """Another water beside the sample; what counts is the difference."""

    water: Short


class Spike(Part):
    """A known amount added to the sample, after it has been determined."""

    added: Amount = Field(description="What was added, in the stage's unit and basis.")
    low_percent: int = Field(ge=1, le=200)
    high_percent: int = Field(ge=1, le=200)


class Agree(Part):
    """How closely two determinations agree: in steps of the scale, or relative.

    Relative agreement means nothing near zero: two readings that differ by no more than
    *floor_steps* agree all the same. Without it: the repeatability limit of the stage's own scatter
    at its foot.
    """

    steps: int | None = Field(default=None, ge=0, le=9999)
    relative_percent: float | None = Field(default=None, gt=0, le=100)
    floor_steps: int | None = Field(default=None, ge=0, le=9999)

    @model_validator(mode="after")
    def _one_way(self) -> "Agree":
        if (self.steps is None) == (self.relative_percent is None):
            raise ValueError("give steps or relative_percent, one of them")
        if self.floor_steps is not None and self.relative_percent is None:
            raise ValueError("floor_steps belongs to relative_percent")
        return self


class Repeats(Part):
    """How many determinations there are, when two agree, and what happens when they do not."""

    least: Literal[1, 2] = Field(default=2, description="1: a single determination is enough.")
    agree: Agree
    report: Literal["mean", "first", "all"] = Field(
        default="mean", description="Of those that agree; the first; or of all, once two agree."
    )
    third: Literal["closest-two"] = Field(
        default="closest-two", description="The two closest, if those agree."
    )
    tie: Literal["all"] = Field(
        default="all", description="Two pairs equally close: the mean of all three."
    )
    causes: tuple[Short, ...] = Field(default=(), max_length=8, description="Of no agreement.")


class Beyond(Part):
    """What to do where the scale ends."""

    then: Literal["method", "dilute", "longer-cell", "report"] = Field(
        description="Another portion or kit, dilution, a longer cell; or the bound is the result."
    )
    method: Key | None = Field(default=None, description="The method that goes on.")
    by: tuple[int, ...] = Field(default=(), max_length=4, description="Dilution factors offered.")
    sd: float = Field(default=0.02, gt=0, le=0.5, description="Relative sd of one dilution.")
    say: Line

    @model_validator(mode="after")
    def _leads_somewhere(self) -> "Beyond":
        if (self.then in ("method", "longer-cell")) != (self.method is not None):
            raise ValueError("method is named when, and only when, then is method or longer-cell")
        if self.by and self.then != "dilute":
            raise ValueError("by belongs to dilute")
        if any(not 2 <= factor <= 1000 for factor in self.by):
            raise ValueError("by: dilution factors from 2 to 1000")
        return self


ROUTES = {
    "drain": "down a drain",
    "acid": "acid waste",
    "heavy-metal": "heavy-metal waste",
    "azide": "azide and cyanide waste",
    "glass": "broken glass",
    "strips": "used strips",
    "bucket": "the waste bucket",
    "home": "carried home",
}


class Predilution(Part):
    """Every sample is diluted so before its determination; the result is multiplied back."""

    times: int = Field(ge=2, le=1000, description="The volume after, by the volume before.")
    sd: float = Field(default=0.01, gt=0, le=0.5, description="Relative sd of the dilution.")
    say: Line = Field(description="From what to what, with which water and glass.")


class Waste(Part):
    """One part of the waste and where it goes."""

    what: Short
    route: Literal["drain", "acid", "heavy-metal", "azide", "glass", "strips", "bucket", "home"]
    ml: float = Field(default=0, ge=0, le=5000)
    say: Line


class Derived(Part):
    """A quantity that two stages give by difference."""

    id: Key
    title: Short
    measures: Measurand
    less: tuple[Key, Key] = Field(description="The first stage's result less the second's.")
    times: tuple[Amount, Amount] | None = Field(
        default=None,
        description="What each counts in the difference, where that does not follow from its basis "
        "(chlorine read by an iodide reagent, as ClO2).",
    )

    def counts(self, measures: Sequence[Measurand]) -> tuple[float, float]:
        """What one of each stage's unit and basis counts in the difference.

        Raises NoConversion where its unit or basis does not fit the difference's.
        """
        mine, found = self.measures, []
        for at, one in enumerate(measures):
            basis = one.basis if self.times else mine.basis
            factor, shift = conversion.line(
                one.parameter, (one.basis, one.unit), (basis, mine.unit)
            )
            if shift:
                raise NoConversion(f"{one.unit} and {mine.unit} are not subtracted.", field="unit")
            found.append(factor * (float(self.times[at]) if self.times else 1.0))
        return found[0], found[1]


class Change(Part):
    """One version's entry: date and what changed and why."""

    version: int = Field(ge=1)
    date: Date
    what: Line
