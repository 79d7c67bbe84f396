"""What each act carries: a model an act, told apart by its name, and its words for a record.

A field is read once, here; the machine (kessa_core.runs.acts) gets it typed. Whatever else an act
carries is kept with its event and means nothing.
"""

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal, get_args

from pydantic import (
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    TypeAdapter,
    ValidationError,
    model_validator,
)

from kessa_core.errors import BadEvent
from kessa_core.methods.steps import LONGEST_WAIT_S, Step
from kessa_core.runs.state import WITHOUT_FIGURE

Steps = Mapping[str, Step]
"""The steps of a method, by id."""


def _count(least: int, most: int = 999) -> BeforeValidator:
    """A whole number between two others; a truth value is none."""

    def check(value: object) -> object:
        if isinstance(value, bool) or not isinstance(value, int) or not least <= value <= most:
            raise ValueError(f"must be a whole number from {least} to {most}")
        return value

    return BeforeValidator(check)


Words = Annotated[str, BeforeValidator(lambda value: "" if value is None else str(value))]
"""Free words; what is not given is empty."""
Raw = Annotated[str, BeforeValidator(str)]
"""A reading as it was typed or set."""
Sure = Annotated[bool, BeforeValidator(bool)]
"""Whether a doubtful figure was asked about and confirmed."""


class Act(BaseModel):
    """words: what was done, for a list of acts; an act at a step says its step's title."""

    model_config = ConfigDict(frozen=True)
    words: ClassVar[str] = ""

    def said(self, steps: Steps) -> str:
        """What was done, in words."""
        return self.words


class _AtStep(Act):
    """An act that names the step it does."""

    step: str

    def said(self, steps: Steps) -> str:
        step = steps.get(self.step)
        return self._said_of(step) if step else self.step

    def _said_of(self, step: Step) -> str:
        return step.title


class _WithCause(Act):
    """An act that may say why."""

    cause: Words = ""

    def said(self, steps: Steps) -> str:
        return f"{self.words}: {self.cause}" if self.cause else self.words


class Begin(Act):
    """continues, method: the run that this one continues from, where it does."""

    act: Literal["begin"]
    words = "test started"
    continues: Words = ""
    method: Words = ""


class Tick(_AtStep):
    """A step is done."""

    act: Literal["tick"]


class Time(_AtStep):
    """A wait is over."""

    act: Literal["time"]

    def _said_of(self, step: Step) -> str:
        return f"{step.title}: over"


class Answer(_AtStep):
    """A check is answered."""

    act: Literal["answer"]
    answer: str

    def _said_of(self, step: Step) -> str:
        chosen = next((one.label for one in step.answers if one.id == self.answer), "")
        return f"{step.title}: {chosen.lower()}" if chosen else step.title


class Read(_AtStep):
    """A scale or a display is read."""

    act: Literal["read"]
    raw: str
    sure: Sure = False

    def _said_of(self, step: Step) -> str:
        return f"{step.title}: read {self.raw.replace('|', ' ')}"


PhotoKey = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
"""A photograph, by the SHA-256 of the file as its device made it."""


class Photo(_AtStep):
    """What is to be read is photographed: to be read later, or beside a reading made now. twice: a
    second person is to read it too."""

    act: Literal["photo"]
    photo: PhotoKey
    later: Sure = False
    twice: Sure = False

    def _said_of(self, step: Step) -> str:
        return f"{step.title}: photographed{', to be read later' if self.later else ''}"


class ReadPhoto(Act):
    """A photograph is read, or cannot be. again: by a second person, who did not see the first
    reading; it stands beside the first and changes nothing."""

    act: Literal["read-photo"]
    determination: str
    slot: str
    raw: Raw = ""
    sure: Sure = False
    again: Sure = False
    unreadable: Words = ""

    def said(self, steps: Steps) -> str:
        if self.unreadable:
            return f"photograph of {self.determination} cannot be read: {self.unreadable}"
        once_more = " a second time" if self.again else ""
        return f"photograph of {self.determination} read{once_more}: {self.raw.replace('|', ' ')}"


class AskAgain(Act):
    """A photograph that was read is to be read by a second person."""

    act: Literal["ask-again"]
    words = "second reading asked for"
    determination: str
    slot: str


class Reader(Act):
    """Who reads from now on, where that is not the person who tests; empty: they do."""

    act: Literal["reader"]
    name: Annotated[Words, Field(max_length=80)] = ""

    def said(self, steps: Steps) -> str:
        return f"read by {self.name}" if self.name else "read by who tests"


class Drop(Act):
    """One more is counted."""

    act: Literal["drop"]
    words = "drop added"


class SetCount(Act):
    """The count is typed."""

    act: Literal["set"]
    words = "count typed"
    count: Annotated[int, _count(0)]

    def said(self, steps: Steps) -> str:
        return f"{self.words}: {self.count}"


class End(Act):
    """The colour has turned and stays."""

    act: Literal["end"]
    words = "end count (colour stays)"


class Beyond(Act):
    """No change at the most that is counted."""

    act: Literal["beyond"]
    words = "no change at the maximum"


class Plain(Act):
    """Sure of the last drop."""

    act: Literal["plain"]
    words = "sure of the last drop"


class BackOff(Act):
    """The last drop was clearly one too many."""

    act: Literal["back-off"]
    words = "subtracted 1, too far"


class Doubt(Act):
    """The last drop and the one before are both defensible."""

    act: Literal["doubt"]
    words = "doubt between two counts"


class CheckDrop(Act):
    """One more, to see whether anything changes."""

    act: Literal["check-drop"]
    words = "check drop, not counted"


class Next(Act):
    """The reading is taken; on."""

    act: Literal["next"]
    words = "continued"


class Again(Act):
    """A blank that did not pass is done again."""

    act: Literal["again"]
    words = "blank again"


class Prepare(_WithCause):
    """What the determinations share is prepared again."""

    act: Literal["prepare"]
    words = "prepared again"


class Clock(_AtStep):
    """The seconds that an instrument shows for a wait."""

    act: Literal["clock"]
    seconds: Annotated[int, _count(1, LONGEST_WAIT_S)]

    def _said_of(self, step: Step) -> str:
        return f"{step.title}: {self.seconds} s shown"


class Reject(_WithCause):
    """The determination under way is rejected and begun again."""

    act: Literal["reject"]
    words = "measurement discarded"


class Stop(_WithCause):
    """The run is given up, or there is no test for this water."""

    act: Literal["stop"]
    words = "test ended"
    finish: Literal["not-tested", "not-applicable"] = "not-tested"

    def said(self, steps: Steps) -> str:
        given = "finish" in self.model_fields_set
        what = WITHOUT_FIGURE.get(self.finish, self.words) if given else self.words
        return f"{what}: {self.cause}" if self.cause else what


class Undo(Act):
    """An event is undone."""

    act: Literal["undo"]
    words = "undone"
    event: str


class Note(Act):
    """Words that travel with the run."""

    act: Literal["note"]
    words = "note"
    text: Words = ""

    def said(self, steps: Steps) -> str:
        return f"{self.words}: {self.text}" if self.text else self.words


class Flag(Act):
    """Something that a reviewer should know; it travels with the result."""

    act: Literal["flag"]
    words = "flagged"
    text: Annotated[str, Field(min_length=1)]

    def said(self, steps: Steps) -> str:
        return f"{self.words}: {self.text}"


class Stage(Act):
    """On to the next stage."""

    act: Literal["stage"]
    words = "on to the next stage"


class Dilute(Act):
    """The sample is diluted, so many times, and measured again."""

    act: Literal["dilute"]
    words = "diluted"
    by: Annotated[int, _count(2, 1000)]

    def said(self, steps: Steps) -> str:
        return f"{self.words} {self.by} times"


class TakeOver(Act):
    """This device continues with what another one holds."""

    act: Literal["take-over"]
    words = "taken over by another device"


class Accept(Act):
    """What spoke against the sample was corrected, or it is tested all the same."""

    act: Literal["accept"]
    words = "accepted"
    concern: str
    what: str
    how: Literal["done", "anyway"]

    def said(self, steps: Steps) -> str:
        how = "Corrected." if self.how == "done" else "Tested all the same."
        return f"{self.what} {how}"


class Correct(Act):
    """A reading is corrected, or struck, afterwards: counted drops, or the raw text of a slot."""

    act: Literal["correct"]
    words = "reading corrected"
    determination: str
    why: str
    drops: Annotated[int, _count(0)] = 0
    kind: Literal["plain", "backed-off", "doubt", "struck"]
    raw: Raw = ""
    slot: Words = ""
    sure: Sure = False

    @model_validator(mode="after")
    def _says_what_and_why(self) -> "Correct":
        if not self.has("drops") and not self.has("raw") and self.kind != "struck":
            raise ValueError("data.drops must be a whole number from 0 to 999.")
        if not self.why.strip():
            raise ValueError("A correction needs a reason.")
        return self

    def has(self, field: str) -> bool:
        """Whether this was given."""
        return field in self.model_fields_set

    def said(self, steps: Steps) -> str:
        return f"{self.words}: {self.determination}, {self.why}"


class Enter(Act):
    """A measurement that was written down, typed in afterwards: its steps and clocks are not known.

    role: of the sample, or what comes before it. stage: which one; the one at hand without it.
    drops, kind: of a count. raw: of each reading in its order, ";" between them. last: no further
    measurement of this role was written down.
    """

    act: Literal["enter"]
    words = "entered from paper"
    role: Literal["sample", "blank", "standard", "reference", "spike"] = "sample"
    stage: Words = ""
    drops: Annotated[int, _count(0)] = 0
    kind: Literal["plain", "backed-off", "doubt", "absent", "beyond"] = "plain"
    raw: Raw = ""
    last: Sure = False

    def said(self, steps: Steps) -> str:
        seen = self.raw.replace("|", " ").replace(";", " / ") if self.raw else f"{self.drops}"
        return f"{self.words}: {self.role} {seen}"


AnyAct = Annotated[
    Begin | Tick | Answer | Drop | SetCount | End | Beyond | Plain | BackOff | Doubt | CheckDrop
    | Next | Again | Reject | Stop | Undo | Note | Flag | TakeOver | Correct | Time | Read | Stage
    | Dilute | Accept | Prepare | Clock | Enter | Photo | ReadPhoto | AskAgain | Reader,
    Field(discriminator="act"),
]  # fmt: skip
ACTS: dict[str, type[Act]] = {
    get_args(model.model_fields["act"].annotation)[0]: model
    for model in get_args(get_args(AnyAct)[0])
}
"""The model of each act, by its name."""
_READER: TypeAdapter[AnyAct] = TypeAdapter(AnyAct)


def read_act(act: str, data: Mapping[str, Any]) -> AnyAct:
    """What an act carries, typed.

    Raises BadEvent with the act's name or the field that is wrong, and what it must be.
    """
    if act not in ACTS:
        raise BadEvent(
            "This action is not known.", field="act", remedy=f"One of {', '.join(ACTS)}."
        )
    try:
        return _READER.validate_python({**data, "act": act})
    except ValidationError as error:
        raise BadEvent(_sentence(error), field="data") from None


def _sentence(error: ValidationError) -> str:
    """The first thing that is wrong, as one sentence."""
    first = error.errors(include_url=False)[0]
    name = f"data.{first['loc'][-1]}" if len(first["loc"]) > 1 else ""
    context = first.get("ctx", {})
    if first["type"] == "value_error":
        told = str(context["error"])
        return f"{name} {told}." if name else told
    if first["type"] == "literal_error":
        return f"{name} must be one of {str(context['expected']).replace(chr(39), '')}."
    return f"{name} is missing."
