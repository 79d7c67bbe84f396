"""What was kept before the audit began is entered in it, so that it is sealed from now on."""

import uuid
from collections import defaultdict
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

from django.db import migrations

from kessa.records.seals import sha_of_evaluation, sha_of_events
from kessa_core.records import Entry, seal


def adopt(apps: Any, _schema: Any) -> None:
    """Number and seal every programme's events and evaluations; results await their review."""
    for programme in apps.get_model("accounts", "Programme").objects.order_by("pk"):
        chain = _Chain(apps, programme)
        _events(apps, programme, chain)
        _evaluations(apps, programme, chain)
        chain.close()
    results = apps.get_model("log", "Result").objects.filter(status="provisional")
    results.exclude(current=None).update(waits_for="reviewer")


class _Chain:
    def __init__(self, apps: Any, programme: Any) -> None:
        self.apps, self.programme = apps, programme
        self.number, self.hash = 0, ""

    def add(self, act: str, about: str, data: dict[str, Any]) -> None:
        now = datetime.now(UTC)
        at = now.isoformat(timespec="microseconds")
        entry = Entry(self.programme.slug, self.number + 1, at, 0, act, about, data, self.hash)
        entry = replace(entry, hash=seal(entry))
        self.apps.get_model("records", "Entry").objects.create(
            programme=self.programme,
            number=entry.number,
            at=now,
            act=act,
            about=about,
            data=data,
            before=entry.before,
            hash=entry.hash,
        )
        self.number, self.hash = entry.number, entry.hash

    def close(self) -> None:
        if self.number:
            self.apps.get_model("records", "Chain").objects.create(
                programme=self.programme, number=self.number, hash=self.hash
            )


def _events(apps: Any, programme: Any, chain: _Chain) -> None:
    model = apps.get_model("bench", "Event")
    by_run: dict[Any, list[Any]] = defaultdict(list)
    for event in model.objects.filter(programme=programme).order_by("received_at", "lamport"):
        by_run[event.run_id].append(event)
    for run_id, events in by_run.items():
        batch = str(uuid.uuid4())
        for number, event in enumerate(events, 1):
            event.arrival, event.batch = number, batch
        model.objects.bulk_update(events, ["arrival", "batch"])
        data = {"batch": batch, "count": len(events), "sha": sha_of_events(events)}
        chain.add("acts.adopted", f"run:{run_id}", data)


def _evaluations(apps: Any, programme: Any, chain: _Chain) -> None:
    model = apps.get_model("log", "Evaluation")
    made = model.objects.filter(programme=programme).select_related("result__run__sample")
    for evaluation in made.order_by("pk"):
        evaluation.context = _context(evaluation.result.run.sample)
        evaluation.save(update_fields=["context"])
        data = {"evaluation": evaluation.pk, "sha": sha_of_evaluation(evaluation)}
        chain.add("result.evaluated", f"result:{evaluation.result_id}", data)


def _context(sample: Any) -> dict[str, Any]:
    degrees = {
        n: None if (v := getattr(sample, n)) is None else str(v) for n in ("water_c", "air_c")
    }
    return {
        "point_id": sample.point_id,
        "taken_at": sample.taken_at.astimezone(UTC).isoformat(timespec="seconds"),
        "weather_now": sample.weather_now,
        "weather_before": sample.weather_before,
        "seen": sample.seen,
        "note": sample.note,
        **degrees,
    }


class Migration(migrations.Migration):
    dependencies = [
        ("records", "0001_initial"),
        ("accounts", "0002_people"),
        ("bench", "0003_arrival"),
        ("log", "0003_review"),
        ("visits", "0003_correction"),
    ]
    operations = [migrations.RunPython(adopt, migrations.RunPython.noop)]
