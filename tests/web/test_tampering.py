"""Every change past the application's services is named by the audit, or refused by the database:
as the owner of the tables with every trigger off, and as the application's own role."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.apps import apps
from django.conf import settings
from django.db import DatabaseError, connection, transaction
from django.test import TestCase

from kessa.flows.correcting import correct_sample
from kessa.flows.reviewing import decide
from kessa.library.equipment import note_instrument
from kessa.places.services import attach_limits
from kessa.platform.models import Programme
from kessa.platform.verify import find_errors
from kessa.runs.services import hand_over
from tests.builders.people import Room

CHANGES = {
    "a result's status": "UPDATE results_result SET status = 'provisional', waits_for = 'reviewer'",
    "whom a result waits for": "UPDATE results_result SET waits_for = 'analyst'",
    "an older evaluation made current": "UPDATE results_result SET current_id = "
    "(SELECT min(id) FROM results_evaluation WHERE result_id = results_result.id)",
    "a result's leading verdict": "UPDATE results_result SET outcome_code = 'beyond'",
    "when a result was sampled": "UPDATE results_result SET sampled_at = now()",
    "where a result was sampled": "UPDATE results_result SET point_id = "
    "(SELECT id FROM places_point WHERE id <> results_result.point_id LIMIT 1)",
    "what a result is of": "UPDATE results_result SET parameter = 'nitrate'",
    "a decision changed": "UPDATE results_review SET decision = 'reject'",
    "a decision deleted": "DELETE FROM results_review",
    "a decision forged": "INSERT INTO results_review (programme_id, result_id, evaluation_id, at, "
    "decision, reason, batch) SELECT programme_id, id, current_id, now(), 'accept', '', '' "
    "FROM results_result",
    "a value": "UPDATE results_evaluation SET number = number / 10",
    "an evaluation deleted": "DELETE FROM verdicts_verdict; UPDATE results_result SET current_id = "
    "NULL; DELETE FROM results_review; DELETE FROM results_evaluation",
    "a verdict": "UPDATE verdicts_verdict SET code = 'beyond'",
    "a limit as it stood": "UPDATE verdicts_judgedlimit SET data = data || '{\"high\": 9000}'",
    "a sample's note": "UPDATE visits_sample SET note = 'clear'",
    "a sample's time": "UPDATE visits_sample SET taken_at = taken_at - interval '1 day'",
    "who took a sample": "UPDATE visits_sample SET taken_by_id = "
    "(SELECT max(id) FROM platform_person)",
    "what the search finds": "UPDATE visits_sample SET words = ''",
    "a test that was asked for": "UPDATE visits_testasked SET state = 'cancelled'",
    "an event of a visit": "UPDATE visits_visitevent SET data = '{}'",
    "a visit's begin": "UPDATE visits_visit SET begun_at = begun_at - interval '1 hour'",
    "an act": "UPDATE runs_event SET act = 'take-back' WHERE act = 'drop'",
    "an act deleted": "DELETE FROM runs_event WHERE act = 'drop'",
    "when an act was received": "UPDATE runs_event SET received_at = now()",
    "who tested": "UPDATE runs_run SET opened_by_id = (SELECT max(id) FROM platform_person)",
    "how a run ended": "UPDATE runs_run SET finish = 'not-repeatable'",
    "who continues a run": "UPDATE runs_run SET kept_by_id = (SELECT max(id) FROM platform_person)",
    "the lot of a run": "DELETE FROM runs_runlot",
    "the instrument of a run": "UPDATE runs_runinstrument SET noted = '{}'",
    "to whom a run was handed over": "UPDATE runs_rundecision SET to_id = by_id",
    "a method's document": "UPDATE library_methodversion SET document = "
    "replace(document, '35.45', '35.46')",
    "a method's document deleted": "DELETE FROM library_methodversion WHERE NOT EXISTS "
    "(SELECT FROM runs_run WHERE version_id = library_methodversion.id)",
    "a lot's number": "UPDATE library_lot SET number = 'L-2'",
    "a lot forged": "INSERT INTO library_lot (programme_id, reagent, number, \"table\", in_use, "
    "revision, unit, storage, content_unit, prepared) "
    "SELECT id, 'starch', 'X', '[]', true, 1, '', '[]', '', '' FROM platform_programme",
    "an instrument's check": "UPDATE library_instrument SET check_due = '2030-01-01'",
    "a role": "UPDATE platform_membership SET role = 'manager' WHERE role = 'viewer'",
    "a membership deleted": "DELETE FROM platform_membership WHERE role = 'viewer'",
    "a membership forged": "INSERT INTO platform_membership (programme_id, person_id, role, since) "
    "SELECT p.id, u.id, 'manager', now() FROM platform_programme p, platform_person u WHERE NOT "
    "EXISTS (SELECT FROM platform_membership m WHERE m.person_id = u.id AND m.programme_id = p.id)",
    "a member's name": "UPDATE platform_person SET shown_name = 'Somebody Else'",
    "a member's sign-in name": "UPDATE platform_person SET username = username || 'x'",
    "a programme's name": "UPDATE platform_programme SET name = 'Other'",
    "own review": "UPDATE platform_programme SET own_review = true",
    "a water's traits": "UPDATE places_water SET traits = '[\"salt\"]'",
    "a point's name": "UPDATE places_point SET name = 'elsewhere'",
    "limits at a water": "UPDATE places_limitattachment SET limit_set = ''",
    "what a setting said": "UPDATE platform_settingrevision SET data = '{}'",
    "a setting's revision deleted": "DELETE FROM platform_settingrevision",
    "the newest value": "UPDATE results_latestresult SET count = 9",
    "the newest value removed": "DELETE FROM results_latestresult",
    "an entry of the audit": "UPDATE platform_auditentry SET person_id = NULL",
    "an entry deleted": "DELETE FROM platform_auditentry WHERE number = 3",
    "the end of the audit": "DELETE FROM platform_auditentry WHERE number = "
    "(SELECT max(number) FROM platform_auditentry)",
    "the head of the audit": "UPDATE platform_auditchain SET number = number - 1",
    "acts emptied": "TRUNCATE runs_event",
    "decisions emptied": "TRUNCATE results_review",
    "the audit emptied": "TRUNCATE platform_auditentry",
    "everything emptied": "TRUNCATE visits_visit CASCADE",
}  # fmt: skip
FOR_THE_OWNER_ALONE = {
    "a trigger": "ALTER TABLE runs_event DISABLE TRIGGER USER",
    "a table dropped": "DROP TABLE runs_event CASCADE",
    "a function": "DROP FUNCTION IF EXISTS nothing(); CREATE FUNCTION mine() RETURNS int "
    "LANGUAGE sql AS 'SELECT 1'",
    "a table": "CREATE TABLE mine (id int)",
    "triggers that look away": "SET session_replication_role = replica",
    "another role": "ALTER ROLE kessa_app SUPERUSER",
}


class Rollback(Exception):
    """Ends a block whose changes are not to stay."""


@contextmanager
def undone() -> Iterator[None]:
    """What happens in the block does not stay."""
    try:
        with transaction.atomic():
            yield
            raise Rollback
    except Rollback:
        pass


class Tampering(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.room = room = Room()
        room.finished(days_ago=3)
        result = room.finished()
        reviewer = room.people["reviewer"]
        decide(result, reviewer, "accept", "", result.current_id)
        correct_sample(result.run.sample, reviewer, {"note": "brown"}, "forgotten")
        result.refresh_from_db()
        decide(result, room.people["manager"], "accept", "", result.current_id)
        attach_limits(room.water, None, "")
        note_instrument(room.programme, None, name="meter", kinds=["pocket pH meter"])
        hand_over(room.new_run(method="ph-meter"), room.monitor, reviewer)
        Room("south-room")

    def errors(self) -> list[str]:
        return [one.what for one in find_errors(self.room.programme)]

    def test_untouched_it_holds(self) -> None:
        for programme in Programme.objects.all():
            self.assertEqual(list(find_errors(programme)), [])

    def test_as_the_owner_each_change_is_named(self) -> None:
        """With every trigger off and every constraint as it is."""
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
            for model in apps.get_models():
                cursor.execute(f'ALTER TABLE "{model._meta.db_table}" DISABLE TRIGGER USER')
            cursor.execute("SET CONSTRAINTS ALL DEFERRED")
        for what, statement in CHANGES.items():
            with self.subTest(what), undone(), connection.cursor() as cursor:
                cursor.execute(statement)
                self.assertNotEqual(self.errors(), [])

    def test_as_the_application_each_is_refused_or_named(self) -> None:
        """The application's role has no right to change what was kept; what it may change
        (settings, and what pages read) is named."""
        refused = []
        for what, statement in CHANGES.items():
            with self.subTest(what), undone(), connection.cursor() as cursor:
                cursor.execute(f"SET ROLE {settings.APPLICATION_ROLE}")
                try:
                    with transaction.atomic():
                        cursor.execute(statement)
                except DatabaseError as error:
                    self.assertIn("permission denied", str(error))
                    refused.append(what)
                else:
                    self.assertNotEqual(self.errors(), [])
        self.assertGreaterEqual(len(refused), 28)

    def test_the_application_cannot_touch_triggers_functions_or_tables(self) -> None:
        for what, statement in FOR_THE_OWNER_ALONE.items():
            with self.subTest(what), undone(), connection.cursor() as cursor:
                cursor.execute(f"SET ROLE {settings.APPLICATION_ROLE}")
                with self.assertRaises(DatabaseError), transaction.atomic():
                    cursor.execute(statement)
