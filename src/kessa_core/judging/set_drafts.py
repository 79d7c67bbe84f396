"""Writing a limit set: plain data, limit by limit, until it is in order and can be published."""

from typing import Any

from kessa_core.documents.load import InvalidDocument, Problem
from kessa_core.drafts.problems import text_of
from kessa_core.errors import CoreError, UnknownName
from kessa_core.judging.formulas import FORMULAS
from kessa_core.judging.limit_sets import LimitSet, load_limits
from kessa_core.judging.limits import Limit
from kessa_core.quantities import conversion, parameter
from kessa_core.quantities.units import units

Draft = dict[str, Any]
HEAD = ("title", "edition", "place", "bar_above", "bar_up_to", "note")
MOST_LIMITS = 400
NOTE = "Written by your programme. The rule in force locally decides."


def blank(title: str) -> Draft:
    """A set without a limit yet."""
    return {"id": "draft", "edition": "1", "title": title[:80], "note": NOTE, "limits": []}


def copy_of(held: LimitSet, title: str) -> Draft:
    """A draft that says what a set says, under another title."""
    said = held.model_dump(mode="json", exclude_defaults=True)
    return said | {"id": "draft", "title": title[:80]}


def set_of(draft: Draft, key: str) -> LimitSet:
    """The set that a draft makes. Raises InvalidDocument with every problem."""
    return load_limits(document_of(draft, key))


def document_of(draft: Draft, key: str) -> str:
    """The draft as the text of a document with this id."""
    return text_of({name: value for name, value in (draft | {"id": key}).items() if value != ""})


def problems(draft: Draft) -> tuple[Problem, ...]:
    """What is missing or wrong before it can be published."""
    try:
        set_of(draft, "draft")
    except InvalidDocument as error:
        return error.problems
    return ()


def new_limit(draft: Draft, key: str) -> Draft:
    """A limit for a parameter as a form begins with it; it has no figure yet. Raises
    UnknownName."""
    known = parameter(key)
    return {
        "id": _free_id(draft, key),
        "name": "limit",
        "parameter": key,
        "form": known.forms[0],
        "basis": known.bases[0] if known.bases else "",
        "unit": known.unit,
        "tier": "guideline",
        "statistic": "each sample",
        "within": "Within the limit.",
        "beyond": "Outside the limit.",
    }


def put_limit(draft: Draft, said: Draft) -> Draft:
    """The draft with this limit in the place of the one with its id, or after the others. Raises
    ValidationError where the limit is not in order, InvalidDocument where there are too many."""
    Limit.model_validate(said)
    kept = list(draft["limits"])
    at = next((n for n, one in enumerate(kept) if one.get("id") == said["id"]), len(kept))
    kept[at : at + 1] = [said]
    if len(kept) > MOST_LIMITS:
        what = f"A set has at most {MOST_LIMITS} limits."
        raise InvalidDocument([Problem(1, "limits", what, "Make a second set.")])
    return draft | {"limits": kept}


def without_limit(draft: Draft, key: str) -> Draft:
    """The draft without the limit of this id."""
    return draft | {"limits": [one for one in draft["limits"] if one.get("id") != key]}


def limit_in(draft: Draft, key: str) -> Draft:
    """What the draft says of a limit. Raises UnknownName."""
    found: Draft | None = next((one for one in draft["limits"] if one.get("id") == key), None)
    if found is None:
        raise UnknownName(f"There is no limit {key!r} in this draft.")
    return found


def units_for(key: str, basis: str) -> list[str]:
    """The units in which a limit of a parameter can be written, its own first. Raises
    UnknownName."""
    known = parameter(key)
    fitting = [
        symbol for symbol in units() if symbol == known.unit or _converts(key, basis, symbol)
    ]
    return sorted({*fitting, *known.beside}, key=lambda one: (one != known.unit, one))


def _converts(key: str, basis: str, symbol: str) -> bool:
    try:
        conversion.line(key, (basis, symbol), (basis, parameter(key).unit))
    except CoreError:
        return False
    return True


def formulas_for(key: str) -> list[str]:
    """The formulas that compute a limit of this parameter, in any of its forms."""
    return [name for name, one in FORMULAS.items() if one.quantity.parameter == key]


def _free_id(draft: Draft, key: str) -> str:
    taken = {one.get("id") for one in draft["limits"]}
    names = [key[:50], *(f"{key[:50]}-{number}" for number in range(2, MOST_LIMITS + 2))]
    return next(name for name in names if name not in taken)
