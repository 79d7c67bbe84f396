"""The audit trail's entries as a page lists them: what happened, about what, and its page."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from django.core.exceptions import ValidationError
from django.utils import timezone

from kessa.pages.audit.words import details, link_of, sentence
from kessa.platform.days import short_day
from kessa.platform.models import AuditEntry, Programme
from kessa.platform.registry import registry


@dataclass(frozen=True)
class AuditRow:
    """An entry in words; link: the page of what it is about, where there is one."""

    entry: AuditEntry
    day: str
    time: str
    sentence: str
    details: str
    about: str
    link: str


def audit_rows(programme: Programme, entries: Iterable[AuditEntry]) -> list[AuditRow]:
    """The rows of a page; what they are about is named in one query for each kind."""
    listed = list(entries)
    names = names_of(programme, {entry.about for entry in listed})
    return [
        AuditRow(
            entry,
            short_day(entry.at),
            f"{timezone.localtime(entry.at):%H:%M:%S}",
            sentence(entry.act),
            details(entry.data),
            names.get(entry.about, entry.about),
            link_of(programme.slug, entry.about),
        )
        for entry in listed
    ]


def names_of(programme: Programme, abouts: Iterable[str]) -> Mapping[str, str]:
    """What people call the objects of these marks: {"sample:88": "sample of 11 November, ..."}."""
    found: dict[str, str] = {}
    by_model: dict[str, list[Any]] = {}
    for about in abouts:
        model, _, number = about.partition(":")
        if model in registry.names and (key := _key(model, number)) is not None:
            by_model.setdefault(model, []).append(key)
    for model, keys in by_model.items():
        kind, naming, related = registry.names[model]
        if kind is Programme:
            found[f"{model}:{programme.pk}"] = naming(programme)
            continue
        rows = kind._base_manager.filter(programme=programme, pk__in=keys)
        for row in rows.select_related(*related):
            found[f"{model}:{row.pk}"] = naming(row)
    return found


def _key(model: str, number: str) -> Any:
    """The number of a row as its table holds it; None where it is none."""
    try:
        key = registry.names[model][0]._meta.pk.to_python(number)
    except ValidationError:
        return None
    return None if isinstance(key, int) and not 0 < key < 2**63 else key
