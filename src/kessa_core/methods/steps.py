"""The steps of a method: what a person does, answers, waits for, counts and reads."""

from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, PlainSerializer, model_validator

from kessa_core.documents import Figure, Key, Line, Part, Photo, Short, Signed

Who = Literal["blank", "standard", "reference", "sample", "spike", "diluted"]


def _one_or_several(given: Any) -> Any:
    return (given,) if isinstance(given, str) else given


def _as_written(roles: tuple[Who, ...]) -> Who | tuple[Who, ...]:
    """One alone stands without a list, as most documents say it."""
    return roles[0] if len(roles) == 1 else roles


Only = Annotated[
    tuple[Who, ...],
    BeforeValidator(_one_or_several, json_schema_input_type=Who | tuple[Who, ...]),
    PlainSerializer(_as_written),
]
"""In which determinations; none where in all."""
WaterKind = Literal["stream", "lake", "well", "tap", "boiler", "cooling", "heating", "chilled"]
LONGEST_WAIT_S = 14 * 86_400


class Window(Part):
    """From low to high, both included."""

    low: Signed
    high: Signed

    @model_validator(mode="after")
    def _rising(self) -> "Window":
        if float(self.low) >= float(self.high):
            raise ValueError("low must lie below high")
        return self


def duration_words(seconds: float) -> str:
    """How long, in the unit that people would use: 45 s, 9 min, 24 h, 3 days."""
    for size, name, least in ((86_400, "days", 259_200), (3600, "h", 7200), (60, "min", 120)):
        if seconds >= least:
            return f"{round(seconds / size, 1):g} {name}"
    return f"{seconds:.0f} s"


class Answer(Part):
    """One answer to a check and what follows from it."""

    id: Key
    label: Short
    then: Literal["next", "again", "prepare", "end", "absent"] = Field(
        description="next step; the determination again, or the preparation before it; the run "
        "ends without a result; or what is looked for is absent and the determination is done."
    )
    flag: Line | None = Field(default=None, description="Travels with the result.")
    cause: Line | None = Field(default=None, description="Why the determination or run ends.")


class Band(Part):
    """Up to this figure of an earlier stage, this many seconds."""

    up_to: Figure
    seconds: int = Field(ge=0, le=86_400)


LONG_WAIT_S = 3600
"""From here on nobody stands beside a wait: it is listed, and ends with a reminder."""


class Wait(Part):
    """A clock. It begins with the act that `starts` names, else with the step before it."""

    rule: Literal[
        "exactly", "at-least", "at-most", "between", "until", "instrument", "computed", "typed"
    ]
    seconds: int | None = Field(default=None, ge=1, le=LONGEST_WAIT_S)
    to_seconds: int | None = Field(
        default=None, ge=1, le=LONGEST_WAIT_S, description="between: the end."
    )
    temperature_c: Window | None = Field(default=None, description="Kept so warm or cold, in °C.")
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
    def longest_s(self) -> int:
        """Seconds it is planned with: its own, else the longest of its table, else none."""
        return self.seconds or max((band.seconds for band in self.table), default=0)

    @property
    def is_long(self) -> bool:
        """Whether people go away meanwhile and are reminded."""
        return (self.seconds or 0) >= LONG_WAIT_S

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
    "bring-home": "Then take it down and bring it home.",
}
Aid = Literal[
    "sunglasses-off", "shade", "north-light", "white-behind", "look-down", "look-across",
    "eye-level", "second-eyes", "dry-fingers",
]  # fmt: skip

Picture = Literal[
    "rinse", "fill", "reagent", "colour", "count", "ph", "tablet", "crush", "invert", "snap",
    "dip", "cell", "settle", "shake", "sensor", "zero", "instrument", "thermometer", "sachet",
    "scoop", "pipette", "probe", "timer", "brim", "dome", "bubble", "foot", "tap", "incubate",
    "pour", "filter", "lamp",
]  # fmt: skip


class Wording(Part):
    """Other words or another picture for a step, in some measurements or some waters."""

    only: Only = ()
    waters: tuple[WaterKind, ...] = Field(default=(), max_length=8)
    title: Short | None = None
    lead: Line | None = None
    caution: Line | None = None
    picture: Picture | None = None

    @model_validator(mode="after")
    def _says_when_and_what(self) -> "Wording":
        if not self.only and not self.waters:
            raise ValueError("say only or waters: in which measurements or waters")
        if not self.words:
            raise ValueError("say what differs: title, lead, caution or picture")
        return self

    @property
    def words(self) -> dict[str, str]:
        """What differs."""
        said = self.model_dump(exclude_none=True)
        return {key: said[key] for key in said if key not in ("only", "waters")}


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
    photo: Photo | None = Field(default=None, description="One's own, in place of the picture.")
    only: Only = Field(
        default=(), description="Only in these determinations; sample counts spike and diluted."
    )
    waters: tuple[WaterKind, ...] = Field(
        default=(), max_length=8, description="Only in these kinds of water."
    )
    wording: tuple[Wording, ...] = Field(
        default=(), max_length=8, description="Other words in some measurements or waters."
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
    leaves: (
        Literal["keep-sample", "discard-sample", "keep-sensor", "discard-sensor", "bring-home"]
        | None
    ) = None

    @model_validator(mode="after")
    def _fits_its_kind(self) -> "Step":
        for name, kind in (("answers", "check"), ("wait", "wait"), ("slot", "read")):
            if bool(getattr(self, name)) != (self.kind == kind):
                raise ValueError(f"step {self.id}: {name} belongs to kind {kind}, and only to it")
        for name, kind in (("hold_s", "count"), ("within_s", "read")):
            if getattr(self, name) is not None and self.kind != kind:
                raise ValueError(f"step {self.id}: {name} belongs to kind {kind}")
        for answer in self.answers:
            if answer.then in ("again", "prepare", "end") and not answer.cause:
                raise ValueError(f"answer {answer.id}: say the cause when the step does not pass")
        return self

    @property
    def sentence(self) -> str:
        """Its title, how often, and a full stop where it needs one."""
        often = f", {self.times} times" if self.times else ""
        said = f"{self.title}{often}"
        return said if said[-1] in ".?!" else f"{said}."

    @property
    def for_whom(self) -> str:
        """The determinations it belongs to, in words."""
        return ", ".join(self.only)

    def is_for(self, role: str, diluted: bool = False) -> bool:
        """Whether the step belongs to a determination of this role."""
        return not self.only or names(self.only, role, diluted)

    def worded(self, role: str, diluted: bool = False) -> dict[str, str]:
        """What reads or looks differently in a determination of this role."""
        words: dict[str, str] = {}
        for one in self.wording:
            if one.only and names(one.only, role, diluted):
                words |= one.words
        return words

    def in_water(self, kind: str) -> "Step | None":
        """The step as it is in this kind of water; None where it does not belong there."""
        if kind and self.waters and kind not in self.waters:
            return None
        words: dict[str, str] = {}
        left = []
        for one in self.wording:
            if not one.waters:
                left.append(one)
            elif kind in one.waters and not one.only:
                words |= one.words
            elif kind in one.waters:
                left.append(one.model_copy(update={"waters": ()}))
        if not words and len(left) == len(self.wording) and not self.waters:
            return self
        return self.model_copy(update={**words, "wording": tuple(left), "waters": ()})


def names(only: tuple[Who, ...], role: str, diluted: bool = False) -> bool:
    """Whether *only* names a determination of this role."""
    if role in ("blank", "standard", "reference"):
        return role in only
    if diluted and "diluted" in only:
        return True
    return role in only if role == "spike" and "spike" in only else "sample" in only
