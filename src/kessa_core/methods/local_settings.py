"""Where practitioners differ: a programme's own choices on a method, kept in its document.

The kit's document says which option it takes. A programme may take another: that makes a
document of its own, with what was chosen, by whom, when and why, so that a result can always be
computed again from one document and its acts.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal

import yaml
from pydantic import Field

from kessa_core.documents import Key, Line, Part, Short
from kessa_core.errors import CoreError
from kessa_core.methods.stage import Stage
from kessa_core.quantities import parameter

if TYPE_CHECKING:
    from kessa_core.methods.document import Method

Matter = Literal["reading", "blank", "determinations", "agreement", "report", "bases"]

TITLES: dict[Matter, str] = {
    "reading": "What is read",
    "blank": "The blank",
    "determinations": "Determinations",
    "agreement": "Two agree within",
    "report": "What is reported",
    "bases": "Also reported in other bases",
}
BLANK = {"pass": "only has to pass", "subtract": "is subtracted from the sample"}
LEAST = {"1": "one is enough", "2": "two that agree"}
REPORT = {
    "mean": "the mean of those that agree",
    "first": "the first, once another agrees",
    "all": "the mean of all, once two agree",
}


class Choice(Part):
    """One choice at one stage: the option that the programme takes, and the kit's."""

    stage: Key
    matter: Matter
    option: str = Field(max_length=60)
    kit: str = Field(max_length=60)


class LocalSettings(Part):
    """A programme's own choices. number: 1 for its first set on this version of the kit's."""

    by: Short
    number: int = Field(ge=1, le=9999)
    date: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}$")
    why: Line
    choices: tuple[Choice, ...] = Field(default=(), max_length=48)

    @property
    def wanted(self) -> dict[tuple[str, str], str]:
        """The options by (stage, matter)."""
        return {(one.stage, one.matter): one.option for one in self.choices}


class BadChoice(CoreError):
    """An option that this method does not know. matter: (stage, matter) it was said of."""

    def __init__(self, what: str, stage: str, matter: Matter) -> None:
        self.at = (stage, matter)
        super().__init__(what)


@dataclass(frozen=True)
class Question:
    """One matter of one stage. options: value and words; none where it is written freely."""

    stage: str
    matter: Matter
    title: str
    options: tuple[tuple[str, str], ...]
    current: str
    several: bool = False

    @property
    def words(self) -> str:
        """What is set now, in words."""
        return said(self, self.current)


def said(question: Question, option: str) -> str:
    """An option of this matter in words."""
    if question.matter == "agreement":
        kind, _, size = option.partition(" ")
        return f"{size} %" if kind == "percent" else f"{size} {'step' if size == '1' else 'steps'}"
    known = dict(question.options)
    named = option.split(",") if question.several else [option]
    return ", ".join(known.get(one, one) for one in named if one) or "no other"


def questions(method: "Method") -> tuple[Question, ...]:
    """Every matter in which a programme may take an option of its own, stage by stage. A titration
    that continues in one flask has one determination."""
    carried = {stage.continues for stage in method.stages} - {None}
    return tuple(
        found
        for stage in method.stages
        for found in _of_stage(stage)
        if not (found.matter == "determinations" and (stage.continues or stage.id in carried))
    )


def validation_error(method: "Method") -> str:
    """What is wrong with the choices a document names, as one sentence; else nothing."""
    if not method.local_settings:
        return ""
    current = {(q.stage, q.matter): q.current for q in questions(method)}
    for one in method.local_settings.choices:
        if current.get((one.stage, one.matter)) != one.option:
            return f"local_settings: stage {one.stage} does not say {one.option!r} on {one.matter}"
    return ""


def lines(method: "Method") -> list[str]:
    """What a programme chose on this method, a line each, with what the kit says."""
    if not method.local_settings:
        return []
    asked = {(q.stage, q.matter): q for q in questions(method)}
    titles = {stage.id: stage.title for stage in method.stages}
    found = []
    for choice in method.local_settings.choices:
        question = asked[choice.stage, choice.matter]
        title = f"{titles[choice.stage]}: " if len(titles) > 1 else ""
        kit = said(question, choice.kit)
        found.append(f"{title}{question.title}: {question.words} (the kit: {kit})")
    return found


def _of_stage(stage: Stage) -> list[Question]:
    reader, rule = stage.reader(), stage.repeats
    made = []

    def ask(
        matter: Matter, options: Mapping[str, str], current: str, several: bool = False
    ) -> None:
        title = reader.option_title if matter == "reading" else TITLES[matter]
        made.append(Question(stage.id, matter, title, tuple(options.items()), current, several))

    if reader.option_field:
        ask("reading", reader.options, reader.option_in_use)
    if stage.blank:
        ask("blank", BLANK, "subtract" if stage.blank.subtract else "pass")
    ask("determinations", LEAST, str(rule.least))
    by_steps = rule.agree.steps is not None
    agree = f"steps {rule.agree.steps}" if by_steps else f"percent {rule.agree.relative_percent:g}"
    ask("agreement", {}, agree)
    ask("report", REPORT, rule.report)
    measured = stage.measures
    known = parameter(measured.parameter)
    others = [b for b in known.bases if b and b != measured.basis]
    if others:
        bases = {basis: f"as {known.species(basis).label}" for basis in others}
        ask("bases", bases, ",".join(measured.also), several=True)
    return made


def with_local_settings(
    kit: "Method",
    wanted: Mapping[tuple[str, str], str],
    by: str,
    number: int,
    date: str,
    why: str,
) -> str:
    """The text of *kit*'s document with the options *wanted*, by (stage, matter).

    What equals the kit's is left out of the choices. *kit* is the document without choices.
    Raises BadChoice for an option that does not exist; what is offered makes a document that loads.
    """
    data = kit.model_dump(mode="json", exclude_defaults=True)
    choices = []
    for question in questions(kit):
        option = wanted.get((question.stage, question.matter), question.current)
        if question.matter == "agreement":
            option = _agreement(question, option)
        if option == question.current:
            continue
        at = next(i for i, stage in enumerate(kit.stages) if stage.id == question.stage)
        _write(data["stages"][at], kit.stages[at], question, option)
        choices.append(
            {
                "stage": question.stage,
                "matter": question.matter,
                "option": option,
                "kit": question.current,
            }
        )
    said_by = {"by": by, "number": number, "date": date, "why": why}
    data["local_settings"] = said_by | {"choices": choices}
    return yaml.dump(data, Dumper=yaml.CSafeDumper, sort_keys=False, allow_unicode=True, width=100)


def _write(data: dict[str, Any], stage: Stage, question: Question, option: str) -> None:
    """Put one option where the document says it."""
    named = option.split(",") if question.several else [option]
    offered = dict(question.options)
    if question.options and any(one and one not in offered for one in named):
        raise BadChoice(f"{question.title}: choose one of the options offered.", *_at(question))
    repeats = data["repeats"]
    match question.matter:
        case "reading":
            data["reading"][stage.reader().option_field] = option
        case "blank":
            data["blank"]["subtract"] = option == "subtract"
        case "determinations":
            repeats["least"] = int(option)
        case "agreement":
            kind, _, size = option.partition(" ")
            agree: dict[str, float] = {"relative_percent": float(size)}
            repeats["agree"] = {"steps": int(size)} if kind == "steps" else agree
        case "report":
            repeats["report"] = option
        case "bases":
            data["measures"]["also"] = [one for one in named if one]


def _agreement(question: Question, option: str) -> str:
    """An agreement as documents say it: "steps 2", "percent 5", however it was typed."""
    kind, _, size = option.partition(" ")
    try:
        if kind == "steps" and 0 <= int(size) <= 9999:
            return f"steps {int(size)}"
        if kind == "percent" and 0 < float(f"{float(size):g}") <= 100:
            return f"percent {float(size):g}"
    except ValueError:
        pass
    what = "Two agree within a whole number of steps, or within 0 to 100 %."
    raise BadChoice(what, *_at(question))


def _at(question: Question) -> tuple[str, Matter]:
    return question.stage, question.matter
