"""A draft as the sections of the editor's page: what a kit of its kind needs first, the rest at
hand."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from kessa_core.documents import Measurand
from kessa_core.drafts import fields as f
from kessa_core.drafts.edits import get
from kessa_core.drafts.fields import Field, Option
from kessa_core.drafts.starts import Draft, Start, start_of, starts
from kessa_core.methods import Method
from kessa_core.methods.parts import SampleNeeds
from kessa_core.methods.stage import Stage
from kessa_core.methods.steps import Step, duration_words
from kessa_core.quantities import parameters
from kessa_core.quantities.units import units

BASIC_STEP = {
    "tick": ("title", "lead"),
    "check": ("title", "lead", "answers"),
    "wait": ("title", "wait"),
    "count": ("title", "lead"),
    "read": ("title", "lead", "slot"),
}
BASIC_WAIT = ("rule", "seconds", "to_seconds", "until")
BASIC_REPEATS = ("least", "agree")
OPTIONAL = ("blank", "standard", "reference", "spike", "predilution", "below")
NEEDED = {"minus": ("offset", "given")}
"""Fields that another one's choice makes necessary."""
KINDS = (
    ("tick", "a step"),
    ("wait", "a wait"),
    ("check", "a question"),
    ("read", "a reading"),
    ("count", "a count"),
)


@dataclass(frozen=True)
class StepRow:
    """A step as a row: its number, kind, the fields that its kind needs, and all others."""

    path: str
    number: int
    kind: str
    title: str
    detail: str
    basic: tuple[Field, ...]
    more: tuple[Field, ...]

    @property
    def kind_word(self) -> str:
        """Its kind in a word."""
        return f.option_label(self.kind)


@dataclass(frozen=True)
class StageSection:
    """A stage: what is held, measured, read and done."""

    at: int
    path: str
    start: str
    title: Field
    measures: tuple[Field, ...]
    measures_more: tuple[Field, ...]
    reading: tuple[Field, ...]
    reading_more: tuple[Field, ...]
    steps: tuple[StepRow, ...]
    prepare: tuple[StepRow, ...]
    repeats: tuple[Field, ...]
    repeats_more: tuple[Field, ...]
    above: Field
    given: tuple[Field, ...]
    not_given: tuple[Field, ...]
    influences: Field
    pasted: str

    @property
    def start_label(self) -> str:
        """What is held, in words; empty where it is of no kind that is offered."""
        found = starts().get(self.start)
        return found.label if found else ""


@dataclass(frozen=True)
class Page:
    """Everything that the form holds."""

    name: tuple[Field, ...]
    stages: tuple[StageSection, ...]
    safety: tuple[Field, ...]
    waste: Field
    reagents: Field
    sample: tuple[Field, ...]
    before: tuple[StepRow, ...]
    more: tuple[Field, ...]
    starts: tuple[Start, ...]

    def every(self) -> list[Field]:
        """Each field that can be typed into, once."""
        found: list[Field] = [*self.name, *self.safety, *self.sample, *self.more]
        found += [self.waste, self.reagents]
        for row in self.before:
            found += [*row.basic, *row.more]
        for stage in self.stages:
            found += [
                stage.title,
                *stage.measures,
                *stage.measures_more,
                *stage.reading,
                *stage.reading_more,
                *stage.repeats,
                *stage.repeats_more,
                stage.above,
                *stage.given,
                stage.influences,
            ]
            for row in (*stage.steps, *stage.prepare):
                found += [*row.basic, *row.more]
        flat = [leaf for one in found for leaf in leaves(one)]
        return list({one.name: one for one in flat}.values())


def leaves(field: Field) -> list[Field]:
    """The fields below a group or a list that are typed into."""
    if field.kind == "colour":
        path = field.name
        value = field.value or {}
        return [
            Field(f"{path}.name", "Name", "", "text", value.get("name")),
            Field(f"{path}.hex", "Colour", "", "text", value.get("hex")),
        ]
    if field.kind == "group":
        return [leaf for part in field.parts for leaf in leaves(part)]
    if field.kind == "items":
        return [leaf for entry in field.entries for part in entry for leaf in leaves(part)]
    return [field]


def page_of(draft: Draft) -> Page:
    """The draft as a form."""
    stages = get(draft, ("stages",))
    count = len(stages) if isinstance(stages, list) else 0
    rest = ("glass", "derived", "defines")
    return Page(
        tuple(f.fields(Method, draft, only=("title", "kit", "short"))),
        tuple(_stage(draft, at) for at in range(count)),
        tuple(f.fields(Method, draft, only=("hazards", "gear"))),
        f.one(Method, "waste", draft),
        f.one(Method, "reagents", draft),
        tuple(f.fields(SampleNeeds, draft, ("sample",))),
        tuple(_rows(draft, ("before",), 0)),
        (f.one(Method, "id", draft), *f.fields(Method, draft, only=rest)),
        tuple(starts().values()),
    )


def _stage(draft: Draft, at: int) -> StageSection:
    path = ("stages", at)
    model = f.reading_model(draft, at)
    reading = f.fields(model, draft, (*path, "reading"), skip=("by",)) if model else []
    wanted = {key for key, (on, value) in NEEDED.items() if _says(reading, on, value)}
    asked = [one for one in reading if one.required or one.key in wanted]
    measured = f.fields(Measurand, draft, (*path, "measures"), options=_measure_options(draft, at))
    repeats = [one for one in f.one(Stage, "repeats", draft, path).parts if _asks(one)]
    optional = [f.one(Stage, name, draft, path) for name in OPTIONAL]
    return StageSection(
        at,
        f"stages.{at}",
        start_of(draft, at),
        f.one(Stage, "title", draft, path),
        tuple(one for one in measured if one.key not in ("also", "rounding")),
        tuple(one for one in measured if one.key in ("also", "rounding")),
        tuple(asked),
        tuple(one for one in reading if one not in asked),
        tuple(_rows(draft, (*path, "steps"), at)),
        tuple(_rows(draft, (*path, "prepare"), at)),
        tuple(one for one in repeats if one.key in BASIC_REPEATS),
        tuple(one for one in repeats if one.key not in BASIC_REPEATS),
        f.one(Stage, "above", draft, path),
        tuple(one for one in optional if one.given),
        tuple(one for one in optional if not one.given),
        f.one(Stage, "influences", draft, path),
        _pasted(draft, at),
    )


def _says(reading: Sequence[Field], key: str, value: str) -> bool:
    """Whether this choice was made."""
    return any(one.key == key and one.value == value for one in reading)


def _asks(field: Field) -> bool:
    """Whether there is anything to choose."""
    return field.kind != "choice" or len(field.options) > 1


def _measure_options(draft: Draft, at: int) -> dict[str, Sequence[Option]]:
    """What can be chosen for what is measured; what follows from the parameter follows from it."""
    defined = get(draft, ("defines",))
    own = [one for one in defined if isinstance(one, dict)] if isinstance(defined, list) else []
    listed = [(key, f"{p.name} ({p.formula})") for key, p in parameters().items()]
    listed += [(str(o.get("key")), f"{o.get('name')} ({o.get('formula')})") for o in own]
    chosen = get(draft, ("stages", at, "measures", "parameter"))
    known = parameters().get(str(chosen))
    mine = next((o for o in own if o.get("key") == chosen), {})
    forms = known.forms if known else mine.get("forms") or ["total"]
    bases = known.bases if known else [b.get("formula", "") for b in mine.get("bases") or []]
    said = {b: (f"as {known.species(b).label}" if known and b else b or "nothing") for b in bases}
    unit_names = [*units(), *([mine["unit"]] if mine.get("unit") not in (None, *units()) else [])]
    return {
        "parameter": [("", "Choose …"), *sorted(listed, key=lambda one: one[1].lower())],
        "form": [(form, form) for form in forms],
        "basis": list(said.items()),
        "unit": [(one, one) for one in unit_names],
    }


def _rows(draft: Draft, path: tuple[str | int, ...], stage: int) -> list[StepRow]:
    steps = get(draft, path)
    if not isinstance(steps, list):
        return []
    options = {"slot": _slots(draft, stage), "starts": _earlier(draft)}
    return [
        _row(draft, (*path, at), at, options)
        for at, step in enumerate(steps)
        if isinstance(step, dict)
    ]


def _row(
    draft: Draft, path: tuple[str | int, ...], at: int, options: Mapping[str, Sequence[Option]]
) -> StepRow:
    step = get(draft, path)
    kind = str(step.get("kind", "tick"))
    every = {one.key: one for one in f.fields(Step, draft, path, skip=("kind",), options=options)}
    basic = BASIC_STEP.get(kind, ("title",))
    hidden = {
        "answers": "check",
        "wait": "wait",
        "slot": "read",
        "hold_s": "count",
        "within_s": "read",
    }
    more = [
        one
        for key, one in every.items()
        if key not in basic and hidden.get(key, kind) == kind and key != "id"
    ]
    return StepRow(
        ".".join(map(str, path)),
        at + 1,
        kind,
        str(step.get("title") or "…"),
        _detail(step),
        tuple(every[key] for key in basic if key in every),
        (*more, every["id"]),
    )


def _detail(step: dict[str, Any]) -> str:
    """What the row says at its end: how long."""
    wait = step.get("wait")
    if isinstance(wait, dict):
        seconds, until = wait.get("seconds"), wait.get("until")
        if isinstance(seconds, int):
            return f"{f.option_label(str(wait.get('rule')))} {duration_words(seconds)}"
        return f"until {until}" if until else str(wait.get("rule") or "")
    seconds = step.get("seconds")
    return f"{seconds} s" if isinstance(seconds, int) else ""


def _slots(draft: Draft, stage: int) -> list[Option]:
    """The readings that a stage of this kind asks for."""
    named = [
        "reading",
        "start",
        "end",
        "refills",
        "first",
        "second",
        "temperature",
        "vanishes",
        "returns",
        "uncertainty",
        "across",
    ]
    return [(name, name) for name in named]


def _earlier(draft: Draft) -> list[Option]:
    """Every step by its title, for a wait to begin with."""
    found: list[Option] = [("", "the step before it")]
    stages = get(draft, ("stages",))
    lists = [get(draft, ("before",))]
    for at in range(len(stages) if isinstance(stages, list) else 0):
        lists += [get(draft, ("stages", at, "prepare")), get(draft, ("stages", at, "steps"))]
    for steps in lists:
        for step in steps if isinstance(steps, list) else []:
            if isinstance(step, dict) and step.get("id"):
                found.append((str(step["id"]), str(step.get("title") or step["id"])))
    return found


def _pasted(draft: Draft, at: int) -> str:
    """Which table of the reading can be pasted."""
    model = f.reading_model(draft, at)
    names = model.model_fields if model else {}
    return next((name for name in ("shades", "rows", "example") if name in names), "")
