"""Write tests/data/release-VERSION.sql.gz: every kind of record, for later releases to migrate."""

import gzip
import uuid

from django.core.management import call_command
from tests.builders.people import Room
from tests.builders.runs import Taps

from kessa.accounts.members import invite, withdraw
from kessa.accounts.models import Membership
from kessa.log.correct import correct_reading, correct_sample
from kessa.log.review import decide
from kessa.sync.capability import allow
from kessa.sync.services import keep
from kessa.visits import services as visits
from kessa_core import VERSION
from kessa_core.methods import shipped
from kessa_launch.database import chosen
from kessa_launch.places import CLONE, places


def send(room: Room, taps: Taps) -> None:
    keep(room.programme, room.monitor, [event.as_json() for event in taps.events])


def runs(room: Room) -> None:
    """Every outcome a run can have so far."""
    for days, counts in ((40, (7, 8)), (30, (7, 12, 8)), (20, (13, 13)), (10, (7, 12, 17))):
        room.finished(counts, days_ago=days)
    failed = Taps(run=str(room.new_run(days_ago=8).pk)).before().count(3, "blank").act("again")
    send(room, failed.count(1, "blank").count(9, how="back-off").count(9, how="doubt"))
    beyond = room.new_run(days_ago=6)
    send(room, Taps(run=str(beyond.pk)).before().count(1, "blank").beyond())
    other = str(uuid.UUID(int=2, version=4))
    smaller = Taps(shipped("chloride-drops-5ml"), run=other).act("begin", continues=str(beyond.pk))
    send(room, smaller.before().count(1, "blank").count(11).count(12))
    undone = Taps(run=str(room.new_run(days_ago=5).pk)).before().count(1, "blank").count(7).count(8)
    send(room, undone.take_back().act("doubt").act("next"))
    handed = Taps(run=str(room.new_run(days_ago=2).pk)).before().count(1, "blank").steps("sample")
    send(room, handed.drops(3).on("device-2").act("take-over").drops(4))


def decisions(room: Room) -> None:
    """Reviews, corrections, people, a capability, a sample that was not taken."""
    reviewer = room.people["reviewer"]
    for decision, reason in (("accept", ""), ("return", "which bottle?"), ("reject", "spoiled")):
        result = room.finished((8, 8), days_ago=15)
        decide(result, reviewer, decision, reason, result.current_id)
    corrected = room.finished((7, 8), days_ago=12)
    correct_reading(corrected, room.monitor, "first-1", 8, "plain", "misread")
    correct_sample(corrected.run.sample, reviewer, {"note": "ice at the edge"}, "forgotten")
    invite(room.programme, room.people["manager"], "viewer", "Wren")
    viewer = Membership.objects.get(programme=room.programme, person=room.people["viewer"])
    withdraw(viewer, room.people["manager"])
    allow(corrected.run.sample.visit, room.monitor, "device-1", "Android, Chrome")
    sample = visits.begin(room.programme, room.monitor, room.point, "chloride-drops-15ml")
    visits.do_not_sample(sample, room.monitor, "ice")


if __name__ == "__main__":
    call_command("migrate", interactive=False, verbosity=0)
    room = Room("upland-room")
    runs(room)
    decisions(room)
    Room("downland-room").finished((5, 5), days_ago=3)
    target = CLONE / "tests" / "data" / f"release-{VERSION}.sql.gz"
    with chosen(places()) as database:
        dump = database.tool("pg_dump", "--no-owner", "--no-privileges", database.name).stdout
    target.write_bytes(gzip.compress(dump.encode(), 9, mtime=0))
    print(f"{target.relative_to(CLONE)}: {target.stat().st_size // 1000} kB")
