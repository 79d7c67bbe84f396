"""The schema holds the wall: SQL cannot tie one programme's object to another's."""

from django.apps import apps
from django.db import IntegrityError, ProgrammingError, connection, transaction
from django.test import TestCase

from kessa.accounts.models import Invitation, Membership
from kessa.bench.models import Event, Run, RunLot
from kessa.log.correct import correct_sample
from kessa.log.models import Evaluation, Result, Review
from kessa.log.review import decide
from kessa.sync.capability import allow
from kessa.sync.models import Capability
from kessa.visits.models import Sample, SampleCorrection
from kessa.waters.models import Point
from tests.builders.people import Room

FIRM = ("bench_event", "log_evaluation", "log_review", "visits_samplecorrection")


class Walls(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.ours, cls.theirs = Room(), Room("south-room")
        cls.our, cls.their = cls.ours.finished(), cls.theirs.finished()
        for room, result in ((cls.ours, cls.our), (cls.theirs, cls.their)):
            decide(result, room.people["reviewer"], "accept", "", result.current_id)
            correct_sample(result.run.sample, room.people["reviewer"], {"note": "x"}, "forgotten")
            allow(result.run.sample.visit, room.monitor, "device-1", "tablet")
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
            for table in FIRM:
                cursor.execute(f"ALTER TABLE {table} DISABLE TRIGGER {table}_firm")

    def test_no_reference_crosses(self) -> None:
        """Every reference within a programme, set to the other's object, is refused."""
        their_run = self.their.run
        for model, column, target in (
            (Point, "water_id", self.theirs.water.pk),
            (Point, "pair_id", self.theirs.point.pk),
            (Sample, "visit_id", their_run.sample.visit_id),
            (Sample, "point_id", self.theirs.point.pk),
            (Run, "sample_id", their_run.sample_id),
            (Run, "version_id", their_run.version_id),
            (RunLot, "run_id", their_run.pk),
            (RunLot, "lot_id", their_run.lots[0].pk),
            (Run, "continues_id", their_run.pk),
            (Event, "run_id", their_run.pk),
            (Result, "point_id", self.theirs.point.pk),
            (Result, "current_id", self.their.current_id),
            (Evaluation, "result_id", self.their.pk),
            (Review, "result_id", self.their.pk),
            (Review, "evaluation_id", self.their.current_id),
            (SampleCorrection, "sample_id", their_run.sample_id),
            (Capability, "visit_id", their_run.sample.visit_id),
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
        result = Room().finished()
        decide(result, Room("other").people["reviewer"], "accept", "", result.current_id)
        for table in ("records_entry", *FIRM[:3]):
            for change in (f"UPDATE {table} SET id = id", f"DELETE FROM {table}"):
                with (
                    self.subTest(change=change),
                    self.assertRaisesMessage(ProgrammingError, "are never changed or deleted"),
                    transaction.atomic(),
                    connection.cursor() as cursor,
                ):
                    cursor.execute(change)
