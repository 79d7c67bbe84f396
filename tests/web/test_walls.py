"""The schema holds the wall: SQL cannot tie one programme's object to another's."""

from django.apps import apps
from django.db import DatabaseError, IntegrityError, connection, transaction
from django.test import TestCase

from kessa.flows.correcting import correct_sample
from kessa.flows.reviewing import decide
from kessa.library.equipment import note_instrument
from kessa.library.models import Instrument
from kessa.people.device_tokens import allow
from kessa.people.models import Invitation
from kessa.places.models import LimitAttachment, Point
from kessa.places.services import attach_limits
from kessa.platform.models import AuditEntry, Membership, SettingRevision
from kessa.results.models import Evaluation, LatestResult, Result, Review
from kessa.runs.models import Event, Run, RunDecision, RunInstrument, RunLot
from kessa.runs.services import hand_over
from kessa.verdicts.models import JudgedLimit, Verdict
from kessa.visits.models import Sample, TestAsked, VisitEvent
from tests.builders.people import Room

FACTS = (
    Event, RunLot, RunInstrument, RunDecision, VisitEvent, Evaluation, Review, Verdict, JudgedLimit,
    LimitAttachment, SettingRevision, AuditEntry,
)  # fmt: skip


class Walls(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.ours, cls.theirs = Room(), Room("south-room")
        cls.our, cls.their = cls.ours.finished(), cls.theirs.finished()
        for room, result in ((cls.ours, cls.our), (cls.theirs, cls.their)):
            note_instrument(room.programme, None, name="meter", kinds=["pocket pH meter"])
            room.new_run(method="ph-meter")
            decide(result, room.people["reviewer"], "accept", "", result.current_id)
            correct_sample(result.run.sample, room.people["reviewer"], {"note": "x"}, "forgotten")
            allow(result.run.sample.visit, room.monitor, "device-1", "tablet")
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
            for model in FACTS:
                cursor.execute(f"ALTER TABLE {model._meta.db_table} DISABLE TRIGGER USER")

    def test_no_reference_crosses(self) -> None:
        """Every reference within a programme, set to the other's object, is refused."""
        their_run = self.their.run
        their_meter = Instrument.objects.get(programme=self.theirs.programme)
        for model, column, target in (
            (Point, "water_id", self.theirs.water.pk),
            (Point, "pair_id", self.theirs.point.pk),
            (Sample, "visit_id", their_run.sample.visit_id),
            (Sample, "point_id", self.theirs.point.pk),
            (Run, "sample_id", their_run.sample_id),
            (Run, "version_id", their_run.version_id),
            (RunLot, "run_id", their_run.pk),
            (RunLot, "lot_id", their_run.lots[0].pk),
            (RunInstrument, "run_id", their_run.pk),
            (RunInstrument, "instrument_id", their_meter.pk),
            (Run, "continues_id", their_run.pk),
            (Event, "run_id", their_run.pk),
            (Result, "point_id", self.theirs.point.pk),
            (Result, "current_id", self.their.current_id),
            (Evaluation, "result_id", self.their.pk),
            (Review, "result_id", self.their.pk),
            (Review, "evaluation_id", self.their.current_id),
            (VisitEvent, "sample_id", their_run.sample_id),
            (TestAsked, "sample_id", their_run.sample_id),
            (LatestResult, "result_id", self.their.pk),
            (LimitAttachment, "water_id", self.theirs.water.pk),
            (Verdict, "evaluation_id", self.their.current_id),
            (Verdict, "limit_id", self.their.current.verdicts.first().limit_id),
        ):
            ours = model.objects.filter(programme=self.ours.programme).first().pk
            with (
                self.subTest(model=model.__name__, column=column),
                self.assertRaisesMessage(IntegrityError, "same_programme"),
                transaction.atomic(),
                connection.cursor() as cursor,
            ):
                cursor.execute(
                    f'UPDATE {model._meta.db_table} SET "{column}" = %s WHERE id = %s',
                    [target, ours],
                )
                cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")

    def test_every_owned_table_carries_its_programme(self) -> None:
        """And each of its references to an owned table is a composite key with the programme."""
        owned = {m for m in apps.get_models() if hasattr(m, "programme")} - {Membership, Invitation}
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT conname FROM pg_constraint WHERE contype = 'f' "
                "AND conname LIKE '%same_programme'"
            )
            walls = {name for (name,) in cursor.fetchall()}
        for model in owned:
            for field in model._meta.concrete_fields:
                if field.related_model in owned:
                    wall = f"{model._meta.db_table}_{field.attname}_same_programme"
                    self.assertIn(wall, walls)


class Firm(TestCase):
    def test_what_is_inserted_is_never_changed(self) -> None:
        """The database itself refuses to update or delete evidence and audit."""
        room = Room()
        result = room.finished()
        note_instrument(room.programme, None, name="meter", kinds=["pocket pH meter"])
        room.new_run(method="ph-meter")
        decide(result, Room("other").people["reviewer"], "accept", "", result.current_id)
        attach_limits(result.point.water, None, "")
        hand_over(result.run, result.run.opened_by, result.run.opened_by)
        for model in FACTS:
            table = model._meta.db_table
            for change in (f"UPDATE {table} SET id = id", f"DELETE FROM {table}"):
                with (
                    self.subTest(change=change),
                    self.assertRaisesMessage(DatabaseError, "Cannot update or delete rows"),
                    transaction.atomic(),
                    connection.cursor() as cursor,
                ):
                    cursor.execute(change)
