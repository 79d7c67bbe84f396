"""What a draft lacks or says wrongly, in sentences, with the field that mends it."""

from dataclasses import dataclass
from math import isfinite
from typing import Any

import yaml

from kessa_core.documents.load import InvalidDocument, Problem, read_plain
from kessa_core.drafts.fields import label_of, reading_model
from kessa_core.drafts.starts import Draft
from kessa_core.methods import Method, load

FIRST_ISSUE = "First issue."
NO_DATE = "2000-01-01"
MODELS = {
    "measures": "Measurand", "reading": "", "steps": "Step", "prepare": "Step", "before": "Step",
    "waste": "Waste", "sample": "SampleNeeds", "repeats": "Repeats", "above": "Beyond",
    "below": "Beyond", "blank": "Blank", "influences": "UncertaintySource", "stages": "Stage",
    "wait": "Wait", "answers": "Answer", "shades": "Shade", "rows": "TableRow",
    "reagents": "Reagent", "glass": "Glass", "defines": "OwnParameter", "derived": "Derived",
}  # fmt: skip


SAID = {
    "minus belongs to offset: given, and is needed there": (
        "minus", "The amount that the formula takes off is missing.",
    ),
}  # fmt: skip
"""Rules between fields, in the words of the form, and the field that mends them."""


@dataclass(frozen=True)
class Missing:
    """One thing that is missing or wrong. path: the field, dotted; sentence: what to do."""

    path: str
    sentence: str

    @property
    def anchor(self) -> str:
        """The id of its field on a page."""
        return "f-" + self.path.replace(".", "-").replace("_", "-")


def text_of(draft: Draft) -> str:
    """The draft as the text of a document."""
    return yaml.dump(draft, Dumper=yaml.CSafeDumper, sort_keys=False, allow_unicode=True, width=100)


def plain(text: str) -> Draft | None:
    """The document in this text as plain data, whatever it lacks; None where it is no mapping, or
    breaks a limit that every document keeps."""
    try:
        return {str(key): storable(value) for key, value in read_plain(text).items()}
    except InvalidDocument:
        return None


def storable(value: Any) -> Any:
    """Plain data without what no record can hold: numbers that are none, half characters."""
    if isinstance(value, dict):
        return {storable(str(key)): storable(one) for key, one in value.items()}
    if isinstance(value, list):
        return [storable(one) for one in value]
    if isinstance(value, str):
        return value.encode("utf-8", "replace").decode().replace("\x00", "\ufffd")
    return value if not isinstance(value, float) or isfinite(value) else str(value)


def finished(draft: Draft, what: str = FIRST_ISSUE, date: str = NO_DATE) -> Draft:
    """The draft with an entry that says what changed in its version."""
    version = draft.get("version", 1)
    older = [one for one in draft.get("changes", []) if one.get("version") != version]
    return draft | {"changes": [{"version": version, "date": date, "what": what}, *older]}


def method_of(draft: Draft) -> Method:
    """The method that the draft makes. Raises InvalidDocument with every problem."""
    return load(text_of(finished(draft)))


def read_method(text: str) -> Method:
    """The method in a file that somebody brings along. Raises InvalidDocument."""
    return load(text)


def read_draft(text: str) -> Method:
    """The method that a draft's text makes, whatever it says of changes. Raises InvalidDocument
    with the lines of the text as it is."""
    data = read_plain(text)
    if not data.get("changes"):
        head = f"changes: [{{version: {data.get('version', 1)}, date: {NO_DATE!r}, what: x}}]"
        lines = [line for line in text.splitlines() if not line.startswith("changes:")]
        text = "\n".join([*lines, head])
    return load(text)


def problems_of(draft: Draft) -> tuple[Missing, ...]:
    """What is missing or wrong, each thing once; nothing where the draft can be published."""
    try:
        method_of(draft)
    except InvalidDocument as wrong:
        said = [_said(problem, draft) for problem in wrong.problems]
        return tuple({one.sentence: one for one in said}.values())
    return ()


def _said(problem: Problem, draft: Draft) -> Missing:
    path = problem.path.replace("[", ".").replace("]", "")
    parts = path.split(".") if path else []
    if not parts:
        return Missing("", f"{problem.what} {problem.remedy}".strip())
    if problem.what.rstrip(".") in SAID:
        key, sentence = SAID[problem.what.rstrip(".")]
        return Missing(f"{path}.{key}", sentence)
    if path == "waste":
        return Missing(path, "Say where the waste goes.")
    label = label_of(_model_at(parts[:-1], draft), parts[-1])[0] if not parts[-1].isdigit() else ""
    where = _where(parts[:-1], draft)
    if problem.what == "This key is missing.":
        return Missing(path, f"{where}{label} is missing.")
    if label and problem.what.startswith(("'", '"', "This ")):
        remedy = f" {problem.remedy}" if problem.remedy else ""
        return Missing(path, f"{where}{label}: {problem.what}{remedy}")
    named = f"{where}{label}: " if label else where
    return Missing(path, f"{named}{problem.what} {problem.remedy}".strip())


def _model_at(parts: list[str], draft: Draft) -> str:
    """The part that a path leads to."""
    names = [part for part in parts if not part.isdigit()]
    if not names:
        return "Method"
    if names[-1] == "reading":
        at = int(parts[1]) if len(parts) > 1 and parts[1].isdigit() else 0
        found = reading_model(draft, at)
        return found.__name__ if found else ""
    return MODELS.get(names[-1], "")


def _where(parts: list[str], draft: Draft) -> str:
    """Which step, shade or stage it belongs to, as people count."""
    said = []
    here: Any = draft
    for at, part in enumerate(parts):
        if isinstance(here, list) and part.isdigit() and int(part) < len(here):
            here = here[int(part)]
            name = parts[at - 1]
            if name == "stages" and len(draft.get("stages", [])) == 1:
                continue
            word = {"stages": "Stage", "steps": "Step", "before": "First step"}.get(
                name, label_of("any", name)[0].removesuffix("s")
            )
            said.append(f"{word} {int(part) + 1}")
        elif isinstance(here, dict):
            here = here.get(part)
    return f"{', '.join(said)}: " if said else ""
