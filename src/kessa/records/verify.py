"""Whether the record holds: every chain, and the events and evaluations that it seals."""

from collections.abc import Iterator

from kessa.accounts.models import Programme
from kessa.bench.models import Event
from kessa.log.models import Evaluation
from kessa.records.models import Chain, Entry
from kessa.records.seals import sha_of_evaluation, sha_of_events
from kessa_core.records import Break, check


def breaks(programme: Programme) -> Iterator[Break]:
    """Every entry that was changed or is missing, and all evidence that is not as it was sealed."""
    entries = Entry.objects.of(programme).in_order()
    head = Chain.objects.filter(programme=programme).values_list("number", "hash").first()
    chain = (entry.as_core(programme.slug) for entry in entries.iterator(chunk_size=2000))
    yield from check(chain, head or (0, ""))
    yield from _evidence(programme)


def _evidence(programme: Programme) -> Iterator[Break]:
    sealed = Entry.objects.of(programme).in_order()
    batches: set[str] = set()
    for entry in sealed.filter(act__in=("acts.kept", "acts.adopted")).iterator(chunk_size=500):
        events = list(Event.objects.filter(programme=programme, batch=entry.data["batch"]))
        batches.add(entry.data["batch"])
        if len(events) != entry.data["count"]:
            yield Break(entry.number, f"{entry.about}: {_missing(entry, len(events))}")
        elif sha_of_events(events) != entry.data["sha"]:
            yield Break(entry.number, f"{entry.about}: an act was changed after it was kept")
    unknown = Event.objects.filter(programme=programme).exclude(batch__in=batches)
    for event in unknown[:20]:
        yield Break(0, f"run:{event.run_id}: act {event.pk} was never entered in the audit")
    known: set[int] = set()
    evaluated = sealed.filter(act="result.evaluated")
    for entry in evaluated.iterator(chunk_size=500):
        row = Evaluation.objects.filter(programme=programme, pk=entry.data["evaluation"]).first()
        known.add(entry.data["evaluation"])
        if row is None:
            yield Break(entry.number, f"{entry.about}: its evaluation is missing")
        elif sha_of_evaluation(row) != entry.data["sha"]:
            yield Break(entry.number, f"{entry.about}: its evaluation was changed")
    for pk in Evaluation.objects.filter(programme=programme).values_list("pk", flat=True):
        if pk not in known:
            yield Break(0, f"evaluation:{pk} was never entered in the audit")


def _missing(entry: Entry, found: int) -> str:
    return f"{entry.data['count']} acts were kept, {found} are there"
