"""Whether the record holds: every chain, and the events and evaluations that it seals."""

from collections import defaultdict
from collections.abc import Iterator
from itertools import islice
from typing import Any

from kessa.accounts.models import Programme
from kessa.bench.models import Event
from kessa.log.models import Evaluation
from kessa.records.models import Chain, Entry
from kessa.records.seals import sha_of_evaluation, sha_of_events
from kessa_core.records import Break, check

AT_ONCE = 500
"""Entries whose evidence is fetched together."""
SENDINGS = ("acts.kept", "acts.adopted")


def breaks(programme: Programme) -> Iterator[Break]:
    """Every entry that was changed or is missing, and all evidence that is not as it was sealed."""
    entries = Entry.objects.of(programme).in_order()
    head = Chain.objects.filter(programme=programme).values_list("number", "hash").first()
    chain = (entry.as_core(programme.slug) for entry in entries.iterator(chunk_size=2000))
    yield from check(chain, head or (0, ""))
    yield from _events(programme, entries.filter(act__in=SENDINGS))
    yield from _evaluations(programme, entries.filter(act="result.evaluated"))


def _events(programme: Programme, entries: Any) -> Iterator[Break]:
    kept = Event.objects.filter(programme=programme)
    sealed: set[str] = set()
    for some in _pieces(entries):
        by_batch = defaultdict(list)
        for event in kept.filter(batch__in=[entry.data["batch"] for entry in some]):
            by_batch[event.batch].append(event)
        for entry in some:
            events = by_batch[entry.data["batch"]]
            sealed.add(entry.data["batch"])
            if len(events) != entry.data["count"]:
                words = f"{entry.data['count']} acts were kept, {len(events)} are there"
                yield Break(entry.number, f"{entry.about}: {words}")
            elif sha_of_events(events) != entry.data["sha"]:
                yield Break(entry.number, f"{entry.about}: an act was changed after it was kept")
    for batch in set(kept.values_list("batch", flat=True).distinct()) - sealed:
        run = kept.filter(batch=batch).values_list("run_id", flat=True).first()
        yield Break(0, f"run:{run}: acts that were never entered in the audit")


def _evaluations(programme: Programme, entries: Any) -> Iterator[Break]:
    made = Evaluation.objects.filter(programme=programme)
    sealed: set[int] = set()
    for some in _pieces(entries):
        rows = made.in_bulk([entry.data["evaluation"] for entry in some])
        for entry in some:
            row = rows.get(entry.data["evaluation"])
            sealed.add(entry.data["evaluation"])
            if row is None:
                yield Break(entry.number, f"{entry.about}: its evaluation is missing")
            elif sha_of_evaluation(row, entry.data.get("seal", 1)) != entry.data["sha"]:
                yield Break(entry.number, f"{entry.about}: its evaluation was changed")
    for pk in sorted(set(made.values_list("pk", flat=True)) - sealed):
        yield Break(0, f"evaluation:{pk} was never entered in the audit")


def _pieces(entries: Any) -> Iterator[list[Entry]]:
    every = entries.iterator(chunk_size=AT_ONCE)
    while some := list(islice(every, AT_ONCE)):
        yield some
