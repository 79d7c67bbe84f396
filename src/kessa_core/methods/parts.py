"""The parts of a method document. Descriptions here become the published JSON Schema."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, field_validator, model_validator

from kessa_core.documents import Amount, Figure, Key, Line, Measurand, Part, Short, Signed
from kessa_core.errors import NoConversion
from kessa_core.quantities import conversion
from kessa_core.quantities.parameters import parameters

Who = Literal["blank", "standard", "reference", "sample", "spike", "diluted"]
Date = Annotated[str, StringConstraints(pattern=r"^\d{4}-\d{2}-\d{2}$")]


class Window(Part):
    """From low to high, both included."""

    low: Signed
    high: Signed

    @model_validator(mode="after")
    def _rising(self) -> "Window":
        if float(self.low) >= float(self.high):
            raise ValueError("low must lie below high")
        return self


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
        if minutes < 120:
            return f"{minutes} min"
        return f"{minutes / 60:g} h" if minutes < 4320 else f"{minutes / 1440:g} days"


class Glass(Part):
    """A vessel and how it is filled."""

    name: Short
    holds_ml: float | None = Field(default=None, gt=0, le=5000)
    mark: Literal["bottom of the curve", "brim, no bubble", "dome", "line"]


class Reagent(Part):
    """What is used up. each_ml or amount a determination; lot: its lot belongs to the result."""

    name: Short
    form: Literal[
        "drops", "tablets", "powder", "scoop", "pipetted", "solution", "ampoule", "strip", "sensor"
    ]
    amount: Amount = Field(description="For one determination; a titrant's is what it takes.")
    unit: Short
    lot: bool = Field(default=False, description="Its lot is noted with every result.")


class Answer(Part):
    """One answer to a check and what follows from it."""

    id: Key
    label: Short
    then: Literal["next", "again", "end", "absent"] = Field(
        description="next step; the determination again; the run ends without a result; or what "
        "is looked for is absent and the determination is done."
    )
    flag: Line | None = Field(default=None, description="Travels with the result.")
    cause: Line | None = Field(default=None, description="Why the determination or run ends.")


class Band(Part):
    """Up to this figure of an earlier stage, this many seconds."""

    up_to: Figure
    seconds: int = Field(ge=0, le=86_400)


class Wait(Part):
    """A clock. It begins with the act that `starts` names, else with the step before it."""

    rule: Literal["exactly", "at-least", "at-most", "between", "until", "instrument", "computed"]
    seconds: int | None = Field(default=None, ge=1, le=86_400)
    to_seconds: int | None = Field(default=None, ge=1, le=86_400, description="between: the end.")
    starts: Key | None = Field(default=None, description="The step whose doing starts it.")
    until: Line | None = Field(default=None, description="The condition that ends it.")
    dark: bool = False
    attended: bool = Field(default=False, description="Hands are busy (shaking, swirling).")
    late: Literal["matters", "fine"] | None = Field(
        default=None,
        description="Else it matters where the rule has an end, and is fine without.",
    )
    reads_itself: bool = Field(
        default=False, description="instrument: it reads at the end without a press."
    )
    of_stage: Key | None = Field(default=None, description="computed: from this stage's result.")
    table: tuple[Band, ...] = Field(default=(), max_length=20)

    @property
    def late_matters(self) -> bool:
        """Whether going on too late is flagged."""
        if self.late is not None:
            return self.late == "matters"
        return self.rule in ("exactly", "at-most", "between")

    @model_validator(mode="after")
    def _says_what_it_needs(self) -> "Wait":
        timed = self.rule in ("exactly", "at-least", "at-most", "between", "instrument")
        if timed and self.seconds is None:
            raise ValueError(f"a wait {self.rule} needs seconds")
        if (self.rule == "between") != (self.to_seconds is not None):
            raise ValueError("to_seconds is given when, and only when, the rule is between")
        if self.to_seconds is not None and self.to_seconds <= (self.seconds or 0):
            raise ValueError("to_seconds must lie above seconds")
        if (self.rule == "until") != (self.until is not None):
            raise ValueError("until is given when, and only when, the rule is until")
        computed = self.rule == "computed"
        if computed != bool(self.table) or computed != (self.of_stage is not None):
            raise ValueError("of_stage and table are given when, and only when, it is computed")
        if any(float(b.up_to) <= float(a.up_to) for a, b in pairwise(self.table)):
            raise ValueError("table must rise")
        return self


AIDS = {
    "sunglasses-off": "sunglasses off",
    "shade": "in the shade, no glare",
    "north-light": "by north light",
    "white-behind": "white behind it",
    "look-down": "look straight down",
    "look-across": "look across",
    "eye-level": "at eye level",
    "second-eyes": "colour-blind: have a second pair of eyes",
    "dry-fingers": "dry fingers",
}
LEAVES = {
    "keep-sample": "Then keep the sample as it is, for what follows.",
    "discard-sample": "Then discard the sample; a further test takes a fresh portion.",
    "keep-sensor": "Then leave the sensor in.",
    "discard-sensor": "Then discard the sensor.",
}
Aid = Literal[
    "sunglasses-off", "shade", "north-light", "white-behind", "look-down", "look-across",
    "eye-level", "second-eyes", "dry-fingers",
]  # fmt: skip

Picture = Literal[
    "rinse", "fill", "reagent", "colour", "count", "ph", "tablet", "crush", "invert", "snap",
    "dip", "cell", "settle", "shake", "sensor", "zero", "instrument", "thermometer", "sachet",
    "scoop", "pipette", "probe", "timer", "brim", "dome", "bubble", "foot", "tap",
]  # fmt: skip


class Step(Part):
    """One thing the person does.

    tick: do it; check: answer; wait: a clock; count: add drops or tablets; read: one reading.
    """

    id: Key
    kind: Literal["tick", "check", "wait", "count", "read"]
    title: Short = Field(description="The imperative, short.")
    lead: Line | None = Field(default=None, description="How, in one line.")
    caution: Line | None = Field(default=None, description="Harm at this step, short.")
    gear: tuple[Short, ...] = Field(default=(), max_length=4, description="Worn at this step.")
    picture: Picture | None = None
    only: Who | tuple[Who, ...] | None = Field(
        default=None, description="Only in these determinations; sample counts spike and diluted."
    )
    times: int | None = Field(
        default=None, ge=1, le=50, description="Rinse, invert, fold: how often."
    )
    answers: tuple[Answer, ...] = Field(default=(), max_length=6)
    wait: Wait | None = None
    slot: Key | None = Field(default=None, description="read: which of the stage's readings.")
    hold_s: int | None = Field(
        default=None, ge=1, le=600, description="count: the end has to hold so long."
    )
    within_s: int | None = Field(
        default=None, ge=1, le=3600, description="read: at most so long after the last wait began."
    )
    aids: tuple[Aid, ...] = Field(default=(), max_length=5)
    seconds: int | None = Field(default=None, ge=1, le=3600, description="Seconds of hands.")
    holds: tuple[Short, ...] = Field(default=(), max_length=5, description="Single equipment.")
    leaves: Literal["keep-sample", "discard-sample", "keep-sensor", "discard-sensor"] | None = None

    @model_validator(mode="after")
    def _fits_its_kind(self) -> "Step":
        for name, kind in (("answers", "check"), ("wait", "wait"), ("slot", "read")):
            if bool(getattr(self, name)) != (self.kind == kind):
                raise ValueError(f"step {self.id}: {name} belongs to kind {kind}, and only to it")
        for name, kind in (("hold_s", "count"), ("within_s", "read")):
            if getattr(self, name) is not None and self.kind != kind:
                raise ValueError(f"step {self.id}: {name} belongs to kind {kind}")
        for answer in self.answers:
            if answer.then in ("again", "end") and not answer.cause:
                raise ValueError(f"answer {answer.id}: say the cause when the step does not pass")
        return self

    @property
    def for_whom(self) -> str:
        """The determinations it belongs to, in words."""
        named = (self.only,) if isinstance(self.only, str) else self.only or ()
        return ", ".join(named)

    def is_for(self, role: str, diluted: bool = False) -> bool:
        """Whether the step belongs to a determination of this role."""
        if self.only is None:
            return True
        named = (self.only,) if isinstance(self.only, str) else self.only
        if role in ("blank", "standard", "reference"):
            return role in named
        if diluted and "diluted" in named:
            return True
        return role in named if role == "spike" and "spike" in named else "sample" in named


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
    subtract: bool = Field(description="Whether it is subtracted from the sample's.")
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
