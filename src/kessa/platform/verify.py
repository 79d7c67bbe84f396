"""Whether the record holds: every audit trail, and the rows that its entries seal."""

from collections import defaultdict
from collections.abc import Iterator
from itertools import islice
from typing import Any

from django.apps import apps
from django.db.models import Model, QuerySet

from kessa.platform.hashes import digest_of, plain, sha_of_said
from kessa.platform.models import AuditChain, AuditEntry, Programme
from kessa.platform.registry import registry
from kessa.platform.revisions import differing
from kessa_core.records import Break, check

Row = dict[str, Any]
"""A row as it was read: "pk", and every column that its seal covers."""
AT_ONCE = 500
"""Entries whose rows are fetched together."""


def find_errors(programme: Programme) -> Iterator[Break]:
    """Every entry that was changed or is missing, and every row that is not as it was sealed."""
    entries = AuditEntry.objects.of(programme).oldest_first()
    head = AuditChain.objects.filter(programme=programme).values_list("number", "hash").first()
    chain = (entry.as_core(programme.slug) for entry in entries.iterator(chunk_size=2000))
    yield from check(chain, head or (0, ""))
    sealed: dict[str, set[Any]] = defaultdict(set)
    every = entries.filter(data__has_key="seals").iterator(chunk_size=AT_ONCE)
    while some := list(islice(every, AT_ONCE)):
        yield from _check(programme, some, sealed)
    for label in registry.sealed:
        yield from _never_sealed(programme, label, sealed[label])
    yield from differing(programme)
    for comparison in registry.comparisons:
        yield from comparison(programme)


def unsealed_rows(programme: Programme) -> Iterator[tuple[str, list[Any]]]:
    """Each sealed model with the numbers of those of its rows that no entry seals. Rows that came
    with a batch were sealed in every release."""
    sealed: dict[str, set[Any]] = defaultdict(set)
    entries = AuditEntry.objects.of(programme).filter(data__has_key="seals")
    for seals in entries.values_list("data__seals", flat=True).iterator(chunk_size=AT_ONCE):
        for one in seals:
            sealed[one["model"]].update(one.get("ids", ()))
    for label in registry.sealed:
        numbers = _without_batch(programme, label).values_list("pk", flat=True)
        every = numbers.order_by("pk").iterator(chunk_size=2000)
        yield label, [number for number in every if plain(number) not in sealed[label]]


def _check(
    programme: Programme, entries: list[AuditEntry], sealed: dict[str, set[Any]]
) -> Iterator[Break]:
    """Compare the rows of these entries with their seals; note what was sealed."""
    for label in registry.sealed:
        seals = [(entry, one) for entry in entries for one in entry.data["seals"]]
        seals = [(entry, one) for entry, one in seals if one["model"] == label]
        found = _rows(programme, label, [one for _, one in seals if "digest" not in one])
        for entry, one in seals:
            keys = [one["batch"]] if "batch" in one else one["ids"]
            sealed[label].update(keys)
            if "digest" in one:
                yield from _check_digest(programme, entry, one)
                continue
            rows = [row for key in keys for row in found[key]]
            wanted = one.get("count", len(keys))
            if len(rows) != wanted:
                words = f"{wanted} rows of {label} were kept, {len(rows)} are there"
                yield Break(entry.number, f"{entry.about}: {words}")
            elif _sha(rows, label, one.get("version", 0)) != one["sha"]:
                yield Break(entry.number, f"{entry.about}: a row of {label} was changed")
            elif _filled_later(rows, label, one.get("version", 0)):
                words = f"a row of {label} holds what no column had when it was sealed"
                yield Break(entry.number, f"{entry.about}: {words}")


def _sha(rows: list[Row], label: str, version: int) -> str:
    columns = registry.sealed[label][version]
    return sha_of_said((row["pk"], {name: row[name] for name in columns}) for row in rows)


def _filled_later(rows: list[Row], label: str, version: int) -> bool:
    """Whether a row that was sealed by an earlier version of its table says something in a column
    that was added since."""
    versions = registry.sealed[label]
    added = set(versions[-1]) - set(versions[version])
    fields = {one.attname: one for one in apps.get_model(label)._meta.concrete_fields}
    return any(row[name] != fields[name].get_default() for row in rows for name in added)


def _check_digest(programme: Programme, entry: AuditEntry, one: dict[str, Any]) -> Iterator[Break]:
    """Rows that the database itself had hashed."""
    version = one.get("version", 0)
    count, digest = digest_of(one["model"], programme.pk, one["batch"], version)
    if count != one["count"]:
        words = f"{one['count']} rows of {one['model']} were kept, {count} are there"
        yield Break(entry.number, f"{entry.about}: {words}")
    elif digest != one["digest"]:
        yield Break(entry.number, f"{entry.about}: a row of {one['model']} was changed")


def _rows(programme: Programme, label: str, seals: list[dict[str, Any]]) -> dict[Any, list[Row]]:
    """The rows that these seals are of, by their number or by their batch."""
    found: dict[Any, list[Row]] = defaultdict(list)
    model = apps.get_model(label)
    rows = model._base_manager.filter(programme=programme).order_by()
    kept = rows.values("pk", *registry.sealed[label][-1])
    batches = [one["batch"] for one in seals if "batch" in one]
    numbers = [key for one in seals if "ids" in one for key in one["ids"]]
    if batches:
        for row in kept.filter(batch__in=batches):
            found[row["batch"]].append(row)
    if numbers:
        for row in kept.filter(pk__in=numbers):
            found[plain(row["pk"])].append(row)
    return found


def _never_sealed(programme: Programme, label: str, sealed: set[Any]) -> Iterator[Break]:
    """Rows that no entry seals, by their batch or, without one, by their number."""
    model = apps.get_model(label)
    if _has_batches(model):
        kept = model._base_manager.filter(programme=programme).exclude(batch="").order_by()
        yield from _unknown(model, kept.values_list("batch", flat=True).distinct(), sealed)
    yield from _unknown(
        model, _without_batch(programme, label).values_list("pk", flat=True), sealed
    )


def _has_batches(model: type[Model]) -> bool:
    return "batch" in {column.name for column in model._meta.concrete_fields}


def _without_batch(programme: Programme, label: str) -> "QuerySet[Any]":
    """The rows of a model that are sealed by their number."""
    model = apps.get_model(label)
    rows: QuerySet[Any] = model._base_manager.filter(programme=programme).order_by()
    return rows.filter(batch="") if _has_batches(model) else rows


def _unknown(model: type[Model], keys: Any, sealed: set[Any]) -> Iterator[Break]:
    for one in keys.iterator(chunk_size=2000):
        if plain(one) not in sealed:
            yield Break(0, f"{model._meta.model_name}:{one} was never entered in the audit")
