"""./kessa bench fill [RESULTS [PROGRAMMES]]: a database with so many results, by COPY.

A programme is made through the services with one real result of each of a few methods; every
further result is a copy of one of them with its own visit, sample, run, events, evaluation,
verdicts and sealed audit entries, and its own time and figure.
"""

import json
import random
import re
import sys
import time
import uuid
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from datetime import datetime, timedelta
from decimal import Decimal
from hashlib import sha256
from itertools import count
from typing import Any

from django.core.management import call_command
from django.db import connection, models, transaction
from django.utils import timezone
from tests.builders.people import Room
from tests.builders.runs import Taps

from kessa.flows.rebuilding import rebuild_latest, rebuild_uses
from kessa.flows.receiving import keep
from kessa.places.models import Point
from kessa.places.services import make_point, make_water
from kessa.platform.hashes import plain
from kessa.platform.models import AuditChain, AuditEntry, Programme
from kessa.platform.registry import registry
from kessa.results.models import Evaluation, Result
from kessa.runs.models import Event, Run, RunLot
from kessa.verdicts.models import Verdict
from kessa.visits.models import Sample, TestAsked, Visit, VisitEvent
from kessa.visits.projection import as_plain

METHODS = ("ph-meter", "conductivity-meter", "thermometer", "chloride-drops-15ml")
WATERS, POINTS_EACH = 4, 5
DAYS = 540
BEFORE = (Visit, Sample, TestAsked, VisitEvent, Run, RunLot, Event, Result, Evaluation, Verdict)
TABLES = (*BEFORE, AuditEntry)
SEALED = (Visit, VisitEvent, Run, RunLot, Event, Evaluation, Verdict)
FIGURES = ("number", "low", "high", "figure", "reported")
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
        taps.read(*[example.get(method, "54")] * len(taps.stage.reader().reading_fields))
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
    return {
        model: [{f.attname: getattr(row, f.attname) for f in model._meta.concrete_fields}
                for row in some]
        for model, some in rows.items()
    }  # fmt: skip


class Mould:
    """A template as text: the lines of COPY and what is hashed, with a place for everything that
    each copy has of its own."""

    def __init__(self, rows: dict[type[models.Model], list[dict[str, Any]]]) -> None:
        self.taken = rows[Sample][0]["taken_at"]
        self.keys = [
            (m, row["id"], isinstance(row["id"], uuid.UUID)) for m in BEFORE for row in rows[m]
        ]
        self.events = sorted(str(row["id"]) for row in rows[Event])
        self.names = {(m, pk): f"k{n}" for n, (m, pk, _) in enumerate(self.keys)}
        self.names |= {(Event, pk): f"e{n}" for n, pk in enumerate(self.events)}
        self.times: dict[datetime, str] = {}
        self.figures = [row for row in rows[Evaluation] if row["number"] is not None]
        self.lines = {
            model: "".join(self.line(model, row) + "\n" for row in rows[model]) for model in BEFORE
        }
        self.hashed = {model: self.canonical(model, rows[model]) for model in SEALED if rows[model]}
        self.ids = {m: [self.names[m, row["id"]] for row in rows[m]] for m in SEALED if rows[m]}
        self.run = self.names[Run, rows[Run][0]["id"]]
        self.person = rows[Run][0]["opened_by_id"]
        self.last = self.time(rows[Evaluation][0]["made_at"])

    def time(self, at: datetime) -> str:
        return self.times.setdefault(at, f"t{len(self.times)}")

    def place(self, model: type[models.Model], row: dict[str, Any], field: Any) -> str | None:
        """The place of a column that each copy has of its own; None for one that stays."""
        name, value = field.attname, row[field.attname]
        target = model if field.primary_key else field.related_model
        if target and (target, value) in self.names:
            return self.names[target, value]
        if name == "point_id":
            return "point"
        if name == "batch" and model is Event:
            return "batch"
        if isinstance(value, datetime):
            return self.time(value)
        if model is Evaluation and row in self.figures and name in FIGURES:
            return None if value is None else f"{name}{self.figures.index(row)}"
        return None

    def line(self, model: type[models.Model], row: dict[str, Any]) -> str:
        """A line of COPY."""
        cells = []
        for field in model._meta.concrete_fields:
            if place := self.place(model, row, field):
                cells.append(f"%({place})s")
                continue
            value = row[field.attname]
            if value is None:
                cells.append("\\N")
                continue
            json_column = field.get_internal_type() == "JSONField"
            text = json.dumps(value) if json_column else str(value)
            for raw, escaped in (("\\", "\\\\"), ("\t", "\\t"), ("\n", "\\n"), ("%", "%%")):
                text = text.replace(raw, escaped)
            cells.append(own_data(text) if model is VisitEvent and json_column else text)
        return "\t".join(cells)

    def canonical(self, model: type[models.Model], rows: list[dict[str, Any]]) -> str:
        """What sha_of_rows() hashes of the copies of these rows."""
        fields = {field.attname: field for field in model._meta.concrete_fields}
        texts = []
        for row in sorted(rows, key=lambda one: one["id"]):
            cells = []
            for name in registry.sealed[model._meta.label][-1]:
                value = row[name]
                place = self.place(model, row, fields[name])
                quoted = isinstance(value, str | datetime | uuid.UUID | Decimal)
                cell = f"%({place})s" if place else dumps(plain(value)).replace("%", "%%")
                if model is VisitEvent and name == "data":
                    cell = own_data(cell)
                cells.append(f'"{name}":' + (f'"{cell}"' if place and quoted else cell))
            key = f"%({self.names[model, row['id']]})s"
            key = f'"{key}"' if model in (Event, Run) else key
            texts.append(f"[{key},{{{','.join(cells)}}}]")
        return f"[{','.join(texts)}]"


def own_data(text: str) -> str:
    """What an event of a visit says, with places for where and when it was sampled."""
    text = re.sub(r'("point": ?)\d+', r"\1%(point)s", text)
    return re.sub(r'("taken_at": ?)"[^"]*"', r'\1"%(taken)s"', text)


class Copies:
    """Copies of moulds within a programme. Numbers come from *first* on, one range a model."""

    def __init__(self, programme: Programme, points: list[int], first: int) -> None:
        self.programme, self.points = programme, points
        self.ids = {model: count(first) for model in TABLES}
        head = AuditChain.objects.get(programme=programme)
        self.number, self.head = head.number, head.hash
        self.rng = random.Random(first)
        self.out: dict[type[models.Model], list[str]] = defaultdict(list)

    def add(self, mould: Mould, at: datetime) -> None:
        """One more result, sampled at *at*."""
        rng, own = self.rng, {}
        shift = at - mould.taken
        for moment, place in mould.times.items():
            own[place] = (moment + shift).isoformat(timespec="microseconds")
        for model, pk, unique in mould.keys:
            if model is not Event:
                new = str(uuid.UUID(int=rng.getrandbits(128))) if unique else next(self.ids[model])
                own[mould.names[model, pk]] = new
        prefix = f"{rng.getrandbits(112):028x}"
        for number in range(len(mould.events)):
            own[f"e{number}"] = str(uuid.UUID(f"{prefix}{number:04x}"))
        own["batch"] = str(uuid.UUID(int=rng.getrandbits(128)))
        own["point"], own["taken"] = rng.choice(self.points), as_plain(at)
        factor = rng.lognormvariate(0.0, 0.18)
        for number, row in enumerate(mould.figures):
            for name in ("number", "low", "high"):
                if row[name] is not None:
                    own[f"{name}{number}"] = repr(row[name] * factor)
            said = f"{row['number'] * factor:.{row['decimals']}f}"
            own[f"figure{number}"], own[f"reported{number}"] = (
                said,
                f"{Decimal(said).normalize():f}",
            )
        for model, lines in mould.lines.items():
            self.out[model].append(lines % own)
        self.seal(mould, own)

    def seal(self, mould: Mould, own: dict[str, Any]) -> None:
        """One audit entry that seals the copy, in the programme's own chain."""
        seals = []
        for model, text in mould.hashed.items():
            one = {"model": model._meta.label, "sha": sha256((text % own).encode()).hexdigest()}
            if model is Event:
                one |= {"batch": own["batch"], "count": len(mould.events)}
            else:
                one["ids"] = [own[place] for place in mould.ids[model]]
            if version := len(registry.sealed[one["model"]]) - 1:
                one["version"] = version
            seals.append(one)
        self.number += 1
        about, at = f"run:{own[mould.run]}", own[mould.last]
        data = dumps({"count": len(mould.events), "seals": seals})
        before = self.head
        sealed = (
            f'{{"about":"{about}","act":"acts.kept","at":"{at}","before":"{before}",'
            f'"chain":"{self.programme.slug}","data":{data},"number":{self.number},'
            f'"person":{mould.person}}}'
        )
        self.head = sha256(sealed.encode()).hexdigest()
        cells = {
            "id": next(self.ids[AuditEntry]), "programme_id": self.programme.pk,
            "number": self.number, "at": at, "person_id": mould.person, "act": "acts.kept",
            "about": about, "data": data.replace("\\", "\\\\"), "before": before,
            "hash": self.head,
        }  # fmt: skip
        fields = AuditEntry._meta.concrete_fields
        self.out[AuditEntry].append("\t".join(str(cells[f.attname]) for f in fields) + "\n")

    def write(self) -> None:
        """Everything that was added, by COPY."""
        with connection.cursor() as cursor:
            for model, lines in self.out.items():
                columns = ", ".join(f'"{f.column}"' for f in model._meta.concrete_fields)
                with cursor.copy(f"COPY {model._meta.db_table} ({columns}) FROM STDIN") as copy:
                    copy.write("".join(lines))
        self.out.clear()
        AuditChain.objects.filter(programme=self.programme).update(
            number=self.number, hash=self.head
        )


def dumps(content: Any) -> str:
    """Canonical JSON, as what is hashed."""
    return json.dumps(content, sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def fill_programme(slug: str, results: int, first: int) -> int:
    """The results of one programme; run in a process of its own."""
    connection.close()
    with connection.cursor() as cursor:
        cursor.execute("SET synchronous_commit = off")
    programme = Programme.objects.get(slug=slug)
    points = list(Point.objects.of(programme).values_list("pk", flat=True))
    templates = [Mould(rows) for rows in _TEMPLATES[slug]]
    copies = Copies(programme, points, first)
    end = timezone.now() - timedelta(days=1)
    step = timedelta(days=DAYS) / max(results, 1)
    for number in range(results):
        copies.add(templates[number % len(templates)], end - step * (results - number))
        if number % AT_ONCE == AT_ONCE - 1:
            copies.write()
    copies.write()
    return results


def project_programme(slug: str) -> None:
    """What pages read of a programme, from its facts."""
    connection.close()
    programme = Programme.objects.get(slug=slug)
    rebuild_latest(programme)
    rebuild_uses(programme)


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


def dropped() -> list[str]:
    """Drop every foreign key, and the keys and indexes of the tables that are filled; what makes
    them again, in order."""
    tables = tuple(model._meta.db_table for model in TABLES)
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT conrelid::regclass::text, conname, pg_get_constraintdef(oid), contype "
            "FROM pg_constraint WHERE contype = 'f' "
            "OR contype = 'u' AND conrelid::regclass::text = ANY(%s)",
            [list(tables)],
        )
        keys = sorted(cursor.fetchall(), key=lambda row: row[3] == "f")
        for table, name, _, _ in reversed(keys):
            cursor.execute(f'ALTER TABLE {table} DROP CONSTRAINT "{name}"')
        cursor.execute(
            "SELECT indexname, indexdef FROM pg_indexes WHERE tablename = ANY(%s) "
            "AND indexname NOT LIKE '%%_pkey'",
            [list(tables)],
        )
        indexes = cursor.fetchall()
        for name, _ in indexes:
            cursor.execute(f'DROP INDEX "{name}"')
    unique = [f'ALTER TABLE {t} ADD CONSTRAINT "{n}" {d}' for t, n, d, kind in keys if kind == "u"]
    foreign = [f'ALTER TABLE {t} ADD CONSTRAINT "{n}" {d}' for t, n, d, kind in keys if kind == "f"]
    return [definition for _, definition in indexes] + unique + foreign


def fill(results: int, programmes: int) -> None:
    """Make the database anew and fill it."""
    call_command("upgrade")
    begun = time.perf_counter()
    slugs = [f"bench-{number:02}" for number in range(programmes)]
    with transaction.atomic():
        for slug in slugs:
            make_programme(slug)
    make_again = dropped()
    connection.close()
    each = results // programmes
    with ProcessPoolExecutor(2) as pool:
        firsts = [100_000_000 + number * (each + 1) * 8 for number in range(programmes)]
        for done, _ in enumerate(pool.map(fill_programme, slugs, [each] * programmes, firsts), 1):
            print(f"{done * each:>9,} results, {time.perf_counter() - begun:.0f} s", flush=True)
    print(f"indexes and keys, from {time.perf_counter() - begun:.0f} s on", flush=True)
    with connection.cursor() as cursor:
        cursor.execute("SET maintenance_work_mem = '512MB'")
        for statement in make_again:
            cursor.execute(statement)
        for model in TABLES:
            if model._meta.pk.get_internal_type() == "BigAutoField":
                table = model._meta.db_table
                cursor.execute(
                    f"SELECT setval(pg_get_serial_sequence('{table}', 'id'), "
                    f"(SELECT max(id) FROM {table}))"
                )
        cursor.execute("VACUUM ANALYZE")
    connection.close()
    with ProcessPoolExecutor(2) as pool:
        list(pool.map(project_programme, slugs))
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_size_pretty(pg_database_size(current_database()))")
        size = cursor.fetchone()[0]
    print(f"{each * programmes:,} results, {time.perf_counter() - begun:.0f} s, {size}")


if __name__ == "__main__":
    wanted = [int(text.replace("_", "")) for text in sys.argv[1:]]
    fill(*(wanted + [200_000, 20][len(wanted) :]))
