"""Settings as revisions: what a water, a point, a lot, a membership or a programme said from a day
on."""

from collections.abc import Iterator
from datetime import datetime
from typing import Any

from django.apps import apps
from django.db.models import QuerySet

from kessa.platform import clock
from kessa.platform.audit import about
from kessa.platform.hashes import plain, seal_of
from kessa.platform.models import Membership, Person, Programme, SettingRevision
from kessa.platform.registry import registry
from kessa_core.records import Break

SETTINGS = (
    "name",
    "slug",
    "timezone",
    "own_review",
    "second_factor",
    "depth_rule",
    "depth_cm",
    "waste",
)
"""Of a programme."""


def revise(
    setting: Any, by: Person | None, data: dict[str, Any], valid_from: datetime | None
) -> dict[str, Any]:
    """Keep what *setting* says from *valid_from* on (None: it has always said so); what the audit
    seals of it."""
    made = SettingRevision.objects.create(
        programme_id=setting.pk if isinstance(setting, Programme) else setting.programme_id,
        about=about(setting),
        valid_from=valid_from,
        made_by=by,
        data=data,
    )
    return seal_of([made])


def differing(programme: Programme) -> Iterator[Break]:
    """Settings that do not say what their newest revision says, were never entered, or are gone."""
    newest = _newest(programme)
    for row, said in _settings(programme):
        name = about(row)
        if name not in newest:
            yield Break(0, f"{name} was never entered in the audit")
        elif wrong := _wrong(newest.pop(name), said):
            yield Break(0, f"{name} was changed without an entry: {', '.join(wrong)}")
    for name in newest:
        yield Break(0, f"{name} was removed")


def revise_all(programme: Programme, by: Person | None) -> list[dict[str, Any]]:
    """Keep every setting as it is now that has no revision, or another one; what the audit seals
    of them."""
    newest = _newest(programme)
    return [
        revise(row, by, said, None if about(row) not in newest else clock.now())
        for row, said in _settings(programme)
        if about(row) not in newest
        or said.keys() - newest[about(row)].keys()
        or _wrong(newest[about(row)], said)
    ]


def _newest(programme: Programme) -> dict[str, dict[str, Any]]:
    """What each setting said last, by its name in the audit."""
    kept = SettingRevision.objects.of(programme).order_by("about", "-pk").distinct("about")
    return dict(kept.values_list("about", "data"))


def _settings(programme: Programme) -> Iterator[tuple[Any, dict[str, Any]]]:
    """Every setting with what it says now."""
    for label, said in registry.revised.items():
        for row in _rows(label, programme):
            yield row, {name: plain(value) for name, value in said(row).items()}


def _wrong(then: dict[str, Any], now: dict[str, Any]) -> list[str]:
    """What it says now that its newest revision said otherwise."""
    return [name for name in then if name in now and then[name] != now[name]]


def _rows(label: str, programme: Programme) -> "QuerySet[Any]":
    model = apps.get_model(label)
    if model is Programme:
        return Programme._base_manager.filter(pk=programme.pk)
    rows: QuerySet[Any] = model._base_manager.filter(programme=programme).order_by("pk")
    return rows


def said_of_membership(membership: Membership) -> dict[str, Any]:
    """A person's role, whether it has ended, and the name that results carry, hashed with a key
    that goes when the name goes."""
    person = membership.person
    said = {"person": person.pk, "role": membership.role}
    said |= {"ended": membership.ended_at is not None}
    return said | ({} if person.pseudonymised_at else {"name": person.name_hash})


def said_of_programme(programme: Programme) -> dict[str, Any]:
    """A programme's settings."""
    return {name: getattr(programme, name) for name in SETTINGS}


def revise_membership(membership: Membership, by: Person | None) -> dict[str, Any]:
    """Keep a person's role as it is from now on, or that it has ended."""
    return revise(membership, by, said_of_membership(membership), clock.now())


def revise_programme(programme: Programme, by: Person | None) -> dict[str, Any]:
    """Keep a programme's settings as they are from now on."""
    return revise(programme, by, said_of_programme(programme), clock.now())
