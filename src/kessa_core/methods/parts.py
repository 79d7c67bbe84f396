"""The parts of a method document. Descriptions here become the published JSON Schema."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

Key = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]{0,59}$")]
Short = Annotated[str, StringConstraints(min_length=1, max_length=80)]
Line = Annotated[str, StringConstraints(min_length=1, max_length=240)]
Figure = Annotated[str, StringConstraints(pattern=r"^\d{1,6}(\.\d{1,6})?$")]
Colour = Annotated[str, StringConstraints(pattern=r"^#[0-9A-Fa-f]{6}$")]
Who = Literal["blank", "sample"]


class Part(BaseModel):
    """A part of the document: unknown keys are errors, values do not change."""

    model_config = ConfigDict(extra="forbid", frozen=True, str_strip_whitespace=True)


class Measures(Part):
    """What the method measures and how it reports it."""

    parameter: Key = Field(description="Key of a parameter in Kessa's list.")
    form: Key = Field(description="total, dissolved ...")
    basis: str = Field(description="Species the figure is expressed as, e.g. Cl.")
    unit: str = Field(description="Unit of the figure, e.g. mg/L.")
    decimals: int = Field(ge=-2, le=6, description="Decimals that the step of the method allows.")
    rounding: Literal["half-up", "half-even"] = Field(description="How halves are rounded.")


class NamedColour(Part):
    """A colour with its name; a colour is never told by colour alone."""

    name: Short
    hex: Colour


class Titration(Part):
    """Drop count titration: what one drop stands for and where to stop."""

    portion_ml: float = Field(gt=0, le=1000, description="Test portion, mL.")
    titrant: Short
    normality_eq_l: float = Field(gt=0, le=20, description="Titrant, eq/L.")
    drop_ml: float = Field(gt=0, le=1, description="Volume of one drop, mL.")
    equivalent_weight_mg_meq: float = Field(gt=0, le=1000, description="mg/meq.")
    factor: Figure = Field(description="mg/L a drop as printed on the kit, in quotes.")
    max_drops: int = Field(ge=1, le=60, description="No change here: stop.")
    start_colour: NamedColour
    end_colour: NamedColour
    endpoint: Line = Field(description="When the count ends, as the person is told.")


class Answer(Part):
    """One answer to a check and what follows from it."""

    id: Key
    label: Short
    then: Literal["next", "again", "end"] = Field(
        description="next step; the determination again; or the run ends without a result."
    )
    flag: Line | None = Field(default=None, description="Travels with the result.")
    cause: Line | None = Field(default=None, description="Why the determination or run ends.")


class Step(Part):
    """One thing the person does. kind tick: do it; check: answer; count: add drops."""

    id: Key
    kind: Literal["tick", "check", "count"]
    title: Short = Field(description="The imperative, short.")
    lead: Line | None = Field(default=None, description="How, in one line.")
    caution: Line | None = Field(default=None, description="Harm at this step, short.")
    picture: Literal["rinse", "fill", "reagent", "colour", "count", "ph"] | None = None
    only: Who | None = Field(default=None, description="Only in the blank, or only in samples.")
    answers: tuple[Answer, ...] = Field(default=(), max_length=5)


class Steps(Part):
    """before: once a run; each: in every determination, ending with the count."""

    before: tuple[Step, ...] = Field(default=(), max_length=20)
    each: tuple[Step, ...] = Field(min_length=1, max_length=30)


class Suspect(Part):
    """A possible cause of a failed blank and what to do about it."""

    what: Short
    do: Line


class Blank(Part):
    """The blank before the sample."""

    water: Short
    passes_at_most: int = Field(ge=1, le=20, description="Drops at which it still passes.")
    subtract: bool = Field(description="Whether its drops are taken off the sample's.")
    suspects: tuple[Suspect, ...] = Field(min_length=1, max_length=8)


class Repeats(Part):
    """When two determinations agree, and what happens when they do not."""

    agree_within_drops: int = Field(ge=0, le=10)
    third: Literal["closest-two"] = Field(description="The two closest, if those agree.")
    tie: Literal["all"] = Field(description="Two pairs equally close: the mean of all three.")
    causes: tuple[Short, ...] = Field(default=(), max_length=8, description="Of no agreement.")


class OutOfRange(Part):
    """What to do when nothing turns at the maximum count."""

    then: Literal["method", "dilute"]
    method: Key | None = Field(default=None, description="The method with the smaller portion.")
    say: Line


class Influence(Part):
    """One thing that makes a reading differ from the truth.

    of: strength and drop-size scale the value; each-drop and portion scatter it; eye is the
    person's own step; colour-need is the titrant that the colour itself takes.
    """

    of: Literal["strength", "drop-size", "each-drop", "portion", "eye", "colour-need"]
    distribution: Literal["normal", "uniform"]
    sd: float | None = Field(default=None, gt=0, le=1, description="Relative sd; eye: in drops.")
    low: float | None = Field(default=None, ge=0, le=10, description="uniform: in drops.")
    high: float | None = Field(default=None, gt=0, le=10, description="uniform: in drops.")
    scope: Literal["shared", "determination"]
    key: Literal["titrant-lot", "bottle", "portion", "none"] = Field(
        description="Who shares it: the same lot, the same dropper bottle, the same portion."
    )
    source: Literal["maker", "replicates", "default"] = Field(
        description="Whose figure it is: the maker's, own replicates', Kessa's default."
    )


class Change(Part):
    """One version's entry: date and what changed and why."""

    version: int = Field(ge=1)
    date: Annotated[str, StringConstraints(pattern=r"^\d{4}-\d{2}-\d{2}$")]
    what: Line
