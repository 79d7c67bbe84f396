"""The schema holds the wall: SQL cannot tie one programme's object to another's."""

from django.db import IntegrityError, connection, transaction
from django.test import TestCase

from kessa.bench.models import Event, Run
from kessa.log.models import Evaluation, Result
from kessa.visits.models import Sample
from kessa.waters.models import Point
from tests.builders.people import Room


class Walls(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.ours, cls.theirs = Room(), Room("south-room")
        cls.our, cls.their = cls.ours.finished(), cls.theirs.finished()

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
            (Run, "lot_id", their_run.lot_id),
            (Run, "continues_id", their_run.pk),
            (Event, "run_id", their_run.pk),
            (Result, "point_id", self.theirs.point.pk),
            (Result, "current_id", self.their.current_id),
            (Evaluation, "result_id", self.their.pk),
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
