"""The parts of a document as fields of a form, from the same model that checks the document."""

import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from importlib import resources
from types import UnionType
from typing import Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel, StringConstraints
from pydantic.fields import FieldInfo

from kessa_core.documents import NamedColour
from kessa_core.drafts.edits import Path, dotted, get
from kessa_core.drafts.starts import Draft
from kessa_core.readings.registry import READERS

Kind = Literal[
    "text", "long", "whole", "number", "figure", "choice", "several", "yes", "lines", "colour",
    "group", "items", "photo",
]  # fmt: skip
Option = tuple[str, str]
RARE = {("Reagent", "stages"), ("Reagent", "only"), ("Reagent", "per"), ("Shade", "photo")}
"""Fields of list entries that few kits need: folded away."""
LONG = 120
"""From so many letters on a text has a field of several lines."""


@dataclass(frozen=True)
class Field:
    """One field. name: its path; value: what stands there, as it is typed; parts: the fields of a
    group, or of each entry of a list (entries); rare: folded away where it is empty."""

    name: str
    label: str
    hint: str
    kind: Kind
    value: Any = None
    options: tuple[Option, ...] = ()
    required: bool = False
    parts: tuple["Field", ...] = ()
    entries: tuple[tuple["Field", ...], ...] = ()
    length: int | None = None
    rare: bool = False

    @property
    def key(self) -> str:
        """The last part of its path."""
        return self.name.rpartition(".")[2]

    @property
    def is_number(self) -> bool:
        """Whether a phone offers its number keys."""
        return self.kind in ("whole", "number", "figure")

    @property
    def id(self) -> str:
        """Its id on a page."""
        return "f-" + self.name.replace(".", "-").replace("_", "-")

    @property
    def lines(self) -> str:
        """A list as it is typed: one a line."""
        return "\n".join(map(str, self.value or []))

    @property
    def given(self) -> bool:
        """Whether anything is said there."""
        return self.value not in (None, "", [], {})


@cache
def _labels() -> dict[str, dict[str, str]]:
    text = resources.files("kessa_core.drafts").joinpath("data", "labels.toml").read_text("utf-8")
    return tomllib.loads(text)


def label_of(model: str, key: str) -> tuple[str, str]:
    """Label and hint of a key of a part."""
    held = _labels()
    for name in (model, *_parents(model), "any"):
        if found := held.get(name, {}).get(key):
            label, _, hint = found.partition(" | ")
            return label, hint
    return key.replace("_", " ").capitalize(), ""


def _parents(model: str) -> tuple[str, ...]:
    """Parts whose labels another one shares: titrations say their colours alike."""
    titrated = ("BurettePart", "DigitalTitratorPart", "SyringePart")
    return ("DropCountPart",) if model in titrated else ()


def option_label(value: str, key: str = "") -> str:
    """An option in words; some are said otherwise for one key."""
    held = _labels()
    own = held.get(f"options-{key}", {})
    return own.get(value) or held["options"].get(value, value.replace("-", " "))


def fields(
    model: type[BaseModel],
    draft: Draft,
    path: Path = (),
    only: Sequence[str] = (),
    skip: Sequence[str] = (),
    options: Mapping[str, Sequence[Option]] | None = None,
) -> list[Field]:
    """The fields of a part that stands at *path* in the draft; *only* these or all but *skip*, with
    *options* for texts that are chosen from a list."""
    names = only or [name for name in model.model_fields if name not in skip]
    return [
        one(model, name, draft, path, options or {})
        for name in names
        if name in model.model_fields and name not in skip
    ]


def one(
    model: type[BaseModel],
    name: str,
    draft: Draft,
    path: Path = (),
    options: Mapping[str, Sequence[Option]] | None = None,
) -> Field:
    """One field of a part."""
    info, here = model.model_fields[name], (*path, name)
    value = _fitting(get(draft, here), _Shape.of(model.model_fields[name]).kind)
    label, hint = label_of(model.__name__, name)
    held = _Shape.of(info)
    chosen = (options or {}).get(name)
    kind: Kind = "choice" if chosen is not None and held.kind in ("text", "figure") else held.kind
    own = tuple((value, option_label(value, name)) for value, _ in held.options)
    listed = tuple(chosen) if chosen is not None else own
    parts: tuple[Field, ...] = ()
    entries: tuple[tuple[Field, ...], ...] = ()
    if held.model and kind == "group":
        parts = tuple(fields(held.model, draft, here, options=options))
    if held.model and kind == "items":
        entries = tuple(
            tuple(fields(held.model, draft, (*here, at), options=options))
            for at in range(len(value or []))
        )
    return Field(
        dotted(here), label, hint, kind, value, listed, info.is_required(), parts, entries,
        held.length, (model.__name__, name) in RARE,
    )  # fmt: skip


def _fitting(value: Any, kind: Kind) -> Any:
    """A value of the shape that its field has; another shape, which only text can say, is left to
    the text."""
    if kind == "several" and isinstance(value, str):
        return [value]
    if kind in ("items", "lines", "several"):
        return value if isinstance(value, list) else None
    if kind in ("group", "colour"):
        return value if isinstance(value, dict) else None
    return None if isinstance(value, dict | list) else value


@dataclass(frozen=True)
class _Shape:
    """What kind of field a model's annotation makes."""

    kind: Kind
    options: tuple[Option, ...] = ()
    model: type[BaseModel] | None = None
    length: int | None = None
    meta: tuple[Any, ...] = field(default=(), repr=False)

    @classmethod
    def of(cls, info: FieldInfo) -> "_Shape":
        return cls.of_annotation(info.annotation, tuple(info.metadata))

    @classmethod
    def of_annotation(cls, annotation: Any, meta: tuple[Any, ...] = ()) -> "_Shape":
        annotation, meta = _bare(annotation, meta)
        origin, args = get_origin(annotation), get_args(annotation)
        if origin is Literal:
            return cls("choice", tuple((str(a), option_label(str(a))) for a in args))
        if origin is tuple:
            return cls._of_list(args[0])
        if origin in (Union, UnionType):
            return cls._of_list(next(a for a in args if get_origin(_bare(a, ())[0]) is Literal))
        if isinstance(annotation, type) and issubclass(annotation, BaseModel):
            return cls("colour" if annotation is NamedColour else "group", model=annotation)
        if annotation is bool:
            return cls("yes")
        if annotation is int:
            return cls("whole")
        if annotation is float:
            return cls("number")
        return cls._of_text(meta)

    @classmethod
    def _of_list(cls, inner: Any) -> "_Shape":
        shape = cls.of_annotation(inner)
        if shape.model:
            return cls("items", model=shape.model)
        return cls("several", shape.options) if shape.kind == "choice" else cls("lines")

    @classmethod
    def _of_text(cls, meta: tuple[Any, ...]) -> "_Shape":
        rules = [rule for rule in meta if isinstance(rule, StringConstraints)]
        length = next((rule.max_length for rule in rules if rule.max_length), None)
        pattern = next((str(rule.pattern) for rule in rules if rule.pattern), "")
        if pattern.startswith(("^[0-9]", "^-?[0-9]")):
            return cls("figure")
        if pattern.startswith("^data:image/"):
            return cls("photo")
        return cls("long" if (length or 0) > LONG else "text", length=length)


def _bare(annotation: Any, meta: tuple[Any, ...]) -> tuple[Any, tuple[Any, ...]]:
    """The annotation without what is optional or annotated, and what it was annotated with."""
    while True:
        if hasattr(annotation, "__metadata__"):
            meta = (*meta, *annotation.__metadata__)
            annotation = annotation.__origin__
            continue
        args = get_args(annotation)
        if get_origin(annotation) in (Union, UnionType) and type(None) in args:
            rest = [arg for arg in args if arg is not type(None)]
            if len(rest) == 1:
                annotation = rest[0]
                continue
            several = [arg for arg in rest if get_origin(_bare(arg, ())[0]) is tuple]
            if several:
                annotation = several[0]
                continue
        return annotation, meta


def reading_model(draft: Draft, stage: int) -> type[BaseModel] | None:
    """The part that a stage's reading is; None where its type is not known."""
    by = get(draft, ("stages", stage, "reading", "by"))
    reader = READERS.get(str(by))
    return reader.document if reader else None


def typed(held: Field, raw: Sequence[str]) -> Any:
    """What was typed into a field as the document says it; what is no number stays as typed, so
    that it can be named as wrong. None where nothing was typed."""
    text = raw[-1].strip() if raw else ""
    if held.kind == "yes":
        return True if text else None
    if held.kind == "several":
        return [one for one in raw if one] or None
    if held.kind == "lines":
        return [line.strip() for line in text.splitlines() if line.strip()] or None
    if not text:
        return None
    if held.kind in ("whole", "number"):
        return _number(text)
    if held.kind == "choice" and isinstance(held.value, int) and text.isdigit():
        return int(text)
    return text.replace(",", ".") if held.kind == "figure" else " ".join(text.split())


def _number(text: str) -> Any:
    try:
        found = float(text.replace(",", "."))
    except ValueError:
        return text
    return int(found) if found.is_integer() else found
