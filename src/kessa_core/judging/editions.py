"""Two editions of a limit set beside each other."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from kessa_core.judging.limit_sets import LimitSet
from kessa_core.judging.limits import Limit

WORDS = {
    "name": "name",
    "parameter": "parameter",
    "form": "form",
    "basis": "basis",
    "unit": "unit",
    "min": "at least",
    "max": "at most",
    "formula": "formula",
    "tier": "kind",
    "statistic": "applies to",
    "rounding": "rounding",
    "document": "document",
    "condition": "condition",
    "parts": "parts of the water",
    "having": "only for water that",
    "lacking": "not for water that",
    "fair_min": "fair from",
    "fair_max": "fair up to",
    "fair": "said of fair",
    "months": "months",
    "begins": "first day",
    "ends": "last day",
    "within": "said within it",
    "beyond": "said outside it",
    "above": "said above it",
    "below": "said below it",
}
"""The fields of a limit as people say them, in the order in which they are compared."""


@dataclass(frozen=True)
class FieldChange:
    """One field that differs, in words; empty where it says nothing."""

    name: str
    before: str
    after: str


@dataclass(frozen=True)
class LimitChange:
    """A limit that was added, taken out, or says something else. before, after: None where it is
    not in that edition."""

    before: Limit | None
    after: Limit | None
    fields: tuple[FieldChange, ...] = ()

    @property
    def kind(self) -> Literal["added", "removed", "changed"]:
        """What happened to it."""
        if self.before is None:
            return "added"
        return "removed" if self.after is None else "changed"

    @property
    def limit(self) -> Limit:
        """The limit, in the newer edition where it is in both."""
        found = self.after or self.before
        if found is None:
            raise ValueError("a change has a limit")
        return found


def compare(older: LimitSet, newer: LimitSet) -> tuple[LimitChange, ...]:
    """What differs in *newer*, limit by limit, matched by their ids: in the newer set's order, then
    what is no longer in it."""
    before = {limit.id: limit for limit in older.limits}
    found = [_change(before.get(limit.id), limit) for limit in newer.limits]
    kept = {limit.id for limit in newer.limits}
    found += [_change(limit, None) for limit in older.limits if limit.id not in kept]
    return tuple(one for one in found if one is not None)


def _change(before: Limit | None, after: Limit | None) -> LimitChange | None:
    if before is None or after is None:
        return LimitChange(before, after)
    fields = tuple(
        FieldChange(words, _said(before, name), _said(after, name))
        for name, words in WORDS.items()
        if getattr(before, name) != getattr(after, name)
    )
    return LimitChange(before, after, fields) if fields else None


def _said(limit: Limit, name: str) -> str:
    found = getattr(limit, name)
    if isinstance(found, Sequence) and not isinstance(found, str):
        return ", ".join(str(one) for one in found)
    return "" if found is None else str(found)
