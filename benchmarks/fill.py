"""./kessa bench fill [RESULTS [PROGRAMMES]]: a database with so many results, by COPY.

A programme is made through the services with one real result of each of a few methods; every
further result is a copy of one of them with its own visit, sample, run, events, evaluation,
verdicts and sealed audit entries, and its own time and figure.
"""

import json
import sys
import time
import uuid
from collections import defaultdict
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from datetime import datetime, timedelta
from itertools import count
from typing import Any

import numpy as np
from django.core.management import call_command
from django.db import connection, models, transaction
from django.utils import timezone
from tests.builders.people import Room
from tests.builders.runs import Taps

from kessa.flows.rebuilding import rebuild_latest
from kessa.flows.receiving import keep
from kessa.library.models import MethodUse
from kessa.places.models import Point
from kessa.places.services import make_point, make_water
from kessa.platform.hashes import plain
from kessa.platform.models import AuditChain, AuditEntry, Programme
from kessa.platform.registry import registry
from kessa.results.models import Evaluation, Result
from kessa.runs.models import Event, Run, RunLot
from kessa.verdicts.models import Verdict
from kessa.visits.models import Sample, TestAsked, Visit, VisitEvent
from kessa_core.records import Entry, seal, sha

METHODS = ("ph-meter", "conductivity-meter", "thermometer", "sight-tube", "chloride-drops-15ml")
WATERS, POINTS_EACH = 4, 5
DAYS = 540
BEFORE = (Visit, Sample, TestAsked, VisitEvent, Run, RunLot, Event, Result, Evaluation, Verdict)
TABLES = (*BEFORE, AuditEntry)
AT_ONCE = 2000


def template(room: Room, method: str) -> dict[type[models.Model], list[dict[str, Any]]]:
    """The rows of one real result of *method*, by model."""
    run = room.new_run(method=method)
    taps = Taps(run.version.method, run=str(run.pk)).before()
    if taps.stage.reader().counts:
        taps.steps("blank").act("set", count=1).act("end").act("next")
        for _ in range(2):
            taps.steps("sample").act("set", count=8).act("end").act("next")
    else:
        example = {"ph-meter": "7.40", "conductivity-meter": "412", "thermometer": "11.5"}
        taps.read(*[example.get(method, "54")] * len(taps.stage.reader().slots_here))
    received = keep(room.programme, room.monitor, [e.as_json() for e in taps.events])
    if received.refused or not Result.objects.filter(run=run).exists():
        raise RuntimeError(f"{method} made no result: {received.refused}")
    sample = run.sample
    rows: dict[type[models.Model], list[Any]] = {
        Visit: [sample.visit],
        Sample: [Sample.objects.get(pk=sample.pk)],
        TestAsked: list(sample.tests.all()),
        VisitEvent: list(sample.events.all()),
        Run: [Run.objects.get(pk=run.pk)],
        RunLot: list(RunLot.objects.filter(run=run)),
        Event: list(Event.objects.filter(run=run)),
        Result: list(Result.objects.filter(run=run)),
        Evaluation: list(Evaluation.objects.filter(result__run=run)),
        Verdict: list(Verdict.objects.filter(evaluation__result__run=run)),
    }
    about = {f"{m._meta.model_name}:{r.pk}" for m, some in rows.items() for r in some}
    rows[AuditEntry] = list(AuditEntry.objects.filter(about__in=about).order_by("number"))
    return {
        model: [{f.attname: getattr(row, f.attname) for f in model._meta.concrete_fields}
                for row in some]
        for model, some in rows.items()
    }  # fmt: skip


class Copies:
    """Copies of templates within a programme. Numbers come from *first* on, one range a model."""

    def __init__(self, programme: Programme, points: list[int], first: int) -> None:
        self.programme, self.points = programme, points
        self.ids = {model: count(first) for model in TABLES}
        head = AuditChain.objects.get(programme=programme)
        self.number, self.head = head.number, head.hash
        self.rng = np.random.default_rng(first)
        self.out: dict[type[models.Model], list[list[Any]]] = defaultdict(list)

    def add(self, rows: dict[type[models.Model], list[dict[str, Any]]], at: datetime) -> None:
        """One more result, sampled at *at*."""
        shift = at - rows[Sample][0]["taken_at"]
        point = int(self.rng.choice(self.points))
        factor = float(self.rng.lognormal(0.0, 0.18))
        moved: dict[Any, Any] = {}
        batch = str(uuid.uuid4())
        for model in BEFORE:
            for row in rows[model]:
                key = (model, row["id"])
                uid = isinstance(row["id"], uuid.UUID)
                new = uuid.uuid4() if uid else next(self.ids[model])
                moved[key] = str(new) if model is Event else new
        for model in BEFORE:
            for row in rows[model]:
                made = self.copy(model, row, moved, shift)
                if "point_id" in made:
                    made["point_id"] = point
                if model is Event:
                    made["id"], made["batch"] = str(uuid.uuid4()), batch
                if model is Evaluation and made["number"] is not None:
                    for name in ("number", "low", "high"):
                        made[name] = None if made[name] is None else made[name] * factor
                self.keep(model, made)
                moved[(model, row["id"], "row")] = made
        self.audit(rows, moved, batch, shift)

    def copy(
        self,
        model: type[models.Model],
        row: dict[str, Any],
        moved: dict[Any, Any],
        shift: timedelta,
    ) -> dict[str, Any]:
        """A row with its own numbers and time."""
        made = dict(row)
        for field in model._meta.concrete_fields:
            value = made[field.attname]
            if isinstance(value, datetime):
                made[field.attname] = value + shift
            elif field.related_model and (field.related_model, value) in moved:
                made[field.attname] = moved[field.related_model, value]
        made["id"] = moved.get((model, row["id"]), row["id"])
        return made

    def audit(
        self,
        rows: dict[Any, list[dict[str, Any]]],
        moved: dict[Any, Any],
        batch: str,
        shift: timedelta,
    ) -> None:
        """The audit entries of the copy, sealed in the programme's own chain."""
        names = {model._meta.label: model for model in BEFORE}
        for entry in rows[AuditEntry]:
            data = json.loads(json.dumps(entry["data"]))
            for one in data.get("seals", ()):
                model = names[one["model"]]
                if "batch" in one:
                    sealed = [moved[model, r["id"], "row"] for r in rows[model]]
                    one["batch"] = batch
                else:
                    sealed = [
                        moved[model, r["id"], "row"]
                        for r in rows[model] if plain(r["id"]) in one["ids"]
                    ]  # fmt: skip
                    one["ids"] = [plain(row["id"]) for row in sealed]
                one["sha"] = sha_of(one["model"], sealed)
            name, _, was = entry["about"].partition(":")
            about = next(
                f"{name}:{moved[model, r['id']]}"
                for model in BEFORE for r in rows[model]
                if model._meta.model_name == name and str(r["id"]) == was
            )  # fmt: skip
            self.number += 1
            at = entry["at"] + shift
            sealed_entry = Entry(
                self.programme.slug, self.number, plain(at),
                entry["person_id"] or 0, entry["act"], about, data, self.head,
            )  # fmt: skip
            before, self.head = self.head, seal(sealed_entry)
            self.keep(AuditEntry, entry | {
                "id": next(self.ids[AuditEntry]), "number": self.number, "at": at, "about": about,
                "data": data, "before": before, "hash": self.head,
            })  # fmt: skip

    def keep(self, model: type[models.Model], row: dict[str, Any]) -> None:
        self.out[model].append(
            [json.dumps(v) if isinstance(v, dict | list) else v
             for v in (row[f.attname] for f in model._meta.concrete_fields)]
        )  # fmt: skip

    def write(self) -> None:
        """Everything that was added, by COPY."""
        with connection.cursor() as cursor:
            for model, rows in self.out.items():
                columns = ", ".join(f'"{f.column}"' for f in model._meta.concrete_fields)
                statement = f"COPY {model._meta.db_table} ({columns}) FROM STDIN"
                with cursor.copy(statement) as copy:
                    for row in rows:
                        copy.write_row(row)
        self.out.clear()
        AuditChain.objects.filter(programme=self.programme).update(
            number=self.number, hash=self.head
        )


def sha_of(label: str, rows: list[dict[str, Any]]) -> str:
    """As kessa.platform.hashes.sha_of_rows, of rows that are not yet in the database."""
    columns = registry.sealed[label]
    held = [[plain(row["id"]), {name: plain(row[name]) for name in columns}] for row in rows]
    return sha(sorted(held, key=lambda one: str(one[0])))


def fill_programme(slug: str, results: int, first: int) -> int:
    """The results of one programme; run in a process of its own."""
    connection.close()
    with connection.cursor() as cursor:
        cursor.execute("SET synchronous_commit = off")
    programme = Programme.objects.get(slug=slug)
    points = list(Point.objects.of(programme).values_list("pk", flat=True))
    templates = _TEMPLATES[slug]
    copies = Copies(programme, points, first)
    end = timezone.now() - timedelta(days=1)
    step = timedelta(days=DAYS) / max(results, 1)
    for number in range(results):
        copies.add(templates[number % len(templates)], end - step * (results - number))
        if number % AT_ONCE == AT_ONCE - 1:
            copies.write()
    copies.write()
    MethodUse.objects.of(programme).update(count=results // len(templates))
    rebuild_latest(programme)
    return results


_TEMPLATES: dict[str, list[dict[Any, list[dict[str, Any]]]]] = {}


def make_programme(slug: str) -> None:
    """A programme with its people, waters and points, and one real result of each method."""
    room = Room(slug)
    for number in range(1, WATERS):
        water = make_water(
            room.programme, None, "ccme-freshwater", name=f"Stream {number + 1}", kind="stream"
        )
        for point in range(POINTS_EACH):
            make_point(water, None, name=f"mark {point + 1}", place=f"bridge {point + 1}")
    for number in range(POINTS_EACH - 2):
        room.new_point(f"stone {number + 1}")
    _TEMPLATES[slug] = [template(room, method) for method in METHODS]


def foreign_keys() -> Iterator[tuple[str, str, str]]:
    """Table, name and definition of every foreign key."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT conrelid::regclass::text, conname, pg_get_constraintdef(oid) "
            "FROM pg_constraint WHERE contype = 'f'"
        )
        yield from cursor.fetchall()


def fill(results: int, programmes: int) -> None:
    """Make the database anew and fill it."""
    call_command("migrate", interactive=False, verbosity=0)
    begun = time.perf_counter()
    slugs = [f"bench-{number:02}" for number in range(programmes)]
    with transaction.atomic():
        for slug in slugs:
            make_programme(slug)
    keys = list(foreign_keys())
    with connection.cursor() as cursor:
        for table, name, _ in keys:
            cursor.execute(f'ALTER TABLE {table} DROP CONSTRAINT "{name}"')
    connection.close()
    each = results // programmes
    with ProcessPoolExecutor(2) as pool:
        firsts = [10_000_000 + number * (each + 1) * 20 for number in range(programmes)]
        for done, _ in enumerate(pool.map(fill_programme, slugs, [each] * programmes, firsts), 1):
            print(f"{done * each:>9,} results, {time.perf_counter() - begun:.0f} s", flush=True)
    with connection.cursor() as cursor:
        for table, name, definition in keys:
            cursor.execute(f'ALTER TABLE {table} ADD CONSTRAINT "{name}" {definition}')
        for model in TABLES:
            if model._meta.pk.get_internal_type() == "BigAutoField":
                table = model._meta.db_table
                cursor.execute(
                    f"SELECT setval(pg_get_serial_sequence('{table}', 'id'), "
                    f"(SELECT max(id) FROM {table}))"
                )
    with connection.cursor() as cursor:
        cursor.execute("VACUUM ANALYZE")
        cursor.execute("SELECT pg_size_pretty(pg_database_size(current_database()))")
        size = cursor.fetchone()[0]
    print(f"{each * programmes:,} results, {time.perf_counter() - begun:.0f} s, {size}")


if __name__ == "__main__":
    wanted = [int(text.replace("_", "")) for text in sys.argv[1:]]
    fill(*(wanted + [200_000, 20][len(wanted) :]))
