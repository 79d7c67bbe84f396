"""Text -> document. A stranger's document is untrusted: limits first, then shape, then meaning."""

import difflib
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, TypeVar, get_args

import yaml
from pydantic import BaseModel, ValidationError

from kessa_core.errors import CoreError

MAX_BYTES = 600_000
MAX_DEPTH = 12
MAX_NODES = 20_000

Path = tuple[str | int, ...]
Document = TypeVar("Document", bound=BaseModel)


@dataclass(frozen=True)
class Problem:
    """One error of a document: line (1-based), path, what is wrong, what is allowed."""

    line: int
    path: str
    what: str
    remedy: str

    def __str__(self) -> str:
        where = f"line {self.line}, {self.path}" if self.path else f"line {self.line}"
        return f"{where}: {self.what} {self.remedy}".strip()


class InvalidDocument(CoreError):
    """A document that cannot be used, with every problem found."""

    def __init__(self, problems: Sequence[Problem]) -> None:
        self.problems = tuple(problems)
        super().__init__("\n".join(str(problem) for problem in problems))


def read(text: str, model: type[Document]) -> Document:
    """The document of this *model* in YAML *text*.

    Raises BadDocument naming, for each problem, line, path, what is wrong and what is allowed.
    """
    data, lines = _mapping(text)
    try:
        return model.model_validate(data)
    except ValidationError as error:
        found = [item for item in error.errors() if not _empty_because_of_its_parts(item)]
        raise InvalidDocument([_problem(item, lines, model) for item in found]) from None


def read_plain(text: str) -> dict[str, Any]:
    """The document in YAML *text* as plain data, of any model or none. Raises as read()."""
    return _mapping(text)[0]


def _mapping(text: str) -> tuple[dict[str, Any], dict[Path, int]]:
    """Plain data and the line of every path."""
    if len(text.encode("utf-8", "replace")) > MAX_BYTES:
        raise InvalidDocument(
            [Problem(1, "", "The document is too large.", f"At most {MAX_BYTES} bytes.")]
        )
    root = _composed(text)
    lines: dict[Path, int] = {}
    data = _plain(root, (), lines)
    if not isinstance(data, dict):
        raise InvalidDocument(
            [Problem(1, "", "The document is not a mapping.", "Begin with a key.")]
        )
    return data, lines


def _empty_because_of_its_parts(item: Any) -> bool:
    """A list counts as too short where its parts are wrong; they have said so themselves."""
    return item["type"] == "too_short" and bool(item.get("input"))


def _composed(text: str) -> yaml.Node:
    try:
        _refuse_aliases_and_depth(text)
        node = yaml.compose(text, Loader=yaml.CSafeLoader)
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        line = mark.line + 1 if mark else 1
        what = f"This is not YAML: {error.problem or error.context}."
        raise InvalidDocument(
            [Problem(line, "", what, "Check indentation, quotes and colons.")]
        ) from None
    except (yaml.YAMLError, RecursionError) as error:
        what = f"This is not YAML: {type(error).__name__}."
        raise InvalidDocument([Problem(1, "", what, "Use plain text in UTF-8.")]) from None
    if node is None:
        raise InvalidDocument([Problem(1, "", "The document is empty.", "Begin with format:")])
    return node


def _refuse_aliases_and_depth(text: str) -> None:
    """Looks at the text event by event, before anything is built of it."""
    depth = 0
    for event in yaml.parse(text, Loader=yaml.CSafeLoader):
        line = event.start_mark.line + 1 if event.start_mark else 1
        if isinstance(event, yaml.AliasEvent):
            raise InvalidDocument([Problem(line, "", "Aliases are not allowed.", "Write it out.")])
        if isinstance(event, yaml.CollectionStartEvent):
            depth += 1
        elif isinstance(event, yaml.CollectionEndEvent):
            depth -= 1
        if depth > MAX_DEPTH + 1:
            raise InvalidDocument([Problem(line, "", "Too deep or too many parts.", "Simplify.")])


def _plain(node: yaml.Node, path: Path, lines: dict[Path, int]) -> Any:
    """Plain data, with the line of every path; refuses depth, size and doubled keys."""
    line = node.start_mark.line + 1
    lines.setdefault(path, line)
    if len(path) > MAX_DEPTH or len(lines) > MAX_NODES:
        raise InvalidDocument(
            [Problem(line, _dotted(path), "Too deep or too many parts.", "Simplify.")]
        )
    if isinstance(node, yaml.MappingNode):
        found: dict[str, Any] = {}
        for key_node, value_node in node.value:
            key = str(key_node.value)
            inner = (*path, key)
            if key in found:
                at = key_node.start_mark.line + 1
                raise InvalidDocument(
                    [Problem(at, _dotted(inner), "This key stands twice.", "Keep one.")]
                )
            lines[inner] = key_node.start_mark.line + 1
            found[key] = _plain(value_node, inner, lines)
        return found
    if isinstance(node, yaml.SequenceNode):
        return [_plain(item, (*path, index), lines) for index, item in enumerate(node.value)]
    return _scalar(node, path, line)


def _scalar(node: yaml.Node, path: Path, line: int) -> Any:
    if node.tag == "tag:yaml.org,2002:str":
        return node.value
    try:
        value = yaml.constructor.SafeConstructor().construct_object(node)
    except (yaml.YAMLError, ValueError):
        what = f"{_shown(node.value)} cannot be read."
        raise InvalidDocument([Problem(line, _dotted(path), what, "Put it in quotes.")]) from None
    return value if isinstance(value, str | int | float | bool | None) else str(node.value)


def _problem(item: Any, lines: dict[Path, int], root: type[BaseModel]) -> Problem:
    path, model = _followed(tuple(item["loc"]), root)
    place = path
    while place not in lines and place:
        place = place[:-1]
    line, kind, context = lines.get(place, 1), item["type"], item.get("ctx", {})
    given = item.get("input")
    if kind == "extra_forbidden":
        allowed = list(model.model_fields) if model else []
        hint = _meant(str(path[-1]), allowed)
        return Problem(
            line, _dotted(path), "This key is unknown.", f"{hint}Allowed: {', '.join(allowed)}."
        )
    if kind == "missing":
        return Problem(line, _dotted(path), "This key is missing.", "Add it.")
    if kind == "literal_error":
        hint = _meant(str(given), _words(context["expected"]))
        remedy = f"{hint}Allowed: {context['expected']}."
        return Problem(line, _dotted(path), f"{_shown(given)} is not allowed.", remedy)
    if kind in ("union_tag_invalid", "union_tag_not_found"):
        named = given.get("by") if isinstance(given, dict) else None
        known = _words(context.get("expected_tags", "")) if named else []
        hint = _meant(str(named), known)
        what = f"{_shown(named)} is not a principle." if named else "by is missing."
        allowed_tags = f"Allowed: {', '.join(known)}." if known else "Say how it is read."
        return Problem(line, _dotted((*path, "by")), what, f"{hint}{allowed_tags}")
    if kind in ("too_short", "too_long"):
        count = context["min_length" if kind == "too_short" else "max_length"]
        what = f"At least {count} needed." if kind == "too_short" else f"At most {count} allowed."
        return Problem(line, _dotted(path), what, "")
    if kind == "value_error":
        return Problem(line, _dotted(path), f"{str(item['ctx']['error']).strip()}.", "")
    return Problem(line, _dotted(path), f"{_shown(given)} is not allowed.", f"{item['msg']}.")


SHOWN = 60
"""Characters of a value that a message repeats."""


def _shown(given: Any) -> str:
    if not isinstance(given, str | int | float | bool):
        return "This"
    text = ascii(given) if not str(given).isprintable() else repr(given)
    return text if len(text) <= SHOWN else f"{text[:SHOWN]}…"


def _meant(given: str, known: Sequence[str]) -> str:
    """What was probably meant, as a question; nothing where nothing is near."""
    close = difflib.get_close_matches(given, known, n=1)
    return f"Did you mean {close[0]}? " if close else ""


def _words(expected: str) -> list[str]:
    return [word.strip(" '") for word in expected.replace(" or ", ",").split(",")]


def _dotted(path: Path) -> str:
    text = ""
    for part in path:
        text += f"[{part}]" if isinstance(part, int) else f".{part}"
    return text.lstrip(".")


def _followed(loc: Path, root: type[BaseModel]) -> tuple[Path, type[BaseModel] | None]:
    """The path as it stands in the document, and the model that its last key belongs to.

    The tag of a union (the name of a principle after reading) stands in the location of an error
    but is no key of the document.
    """
    kept: list[str | int] = []
    model: type[BaseModel] | None = root
    choices: dict[str, type[BaseModel]] = {}
    for at, part in enumerate(loc):
        if isinstance(part, int):
            kept.append(part)
        elif part in choices:
            model, choices = choices[part], {}
        else:
            kept.append(part)
            if model is None or part not in model.model_fields or at + 1 == len(loc):
                continue
            found = _models_in(model.model_fields[part].annotation)
            choices = {_tag(one): one for one in found} if len(found) > 1 else {}
            model = found[0] if len(found) == 1 else None
    return tuple(kept), model


def _models_in(annotation: Any) -> list[type[BaseModel]]:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return [annotation]
    return [found for a in get_args(annotation) for found in _models_in(a)]


def _tag(model: type[BaseModel]) -> str:
    return str(get_args(model.model_fields["by"].annotation)[0])
