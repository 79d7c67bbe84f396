"""Instruments of a run, and lots that are corrected."""

from datetime import date, timedelta

from django.db import connection
from django.utils import timezone

from kessa.flows.desk import desk_acts
from kessa.flows.jobs import evaluation_of_lot
from kessa.flows.lots import correct_lot
from kessa.flows.reviewing import decide
from kessa.library.equipment import change_instrument, note_instrument
from kessa.library.models import Instrument, Lot
from kessa.pages.log.review_warnings import review_warnings
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.hashes import sha_of_rows
from kessa.platform.models import AuditEntry, SettingRevision
from kessa.platform.verify import find_errors
from kessa.results.models import Result
from kessa.runs.instruments import choose_instrument
from kessa.runs.models import Run, RunInstrument
from kessa.runs.services import open_run
from tests.builders.jobs import run_jobs
from tests.builders.people import Room
from tests.builders.rooms import RoomTest

PH, KIND = "ph-meter", "pocket pH meter"


class Instruments(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def note(self, name: str = "pH meter 1", **described: object) -> Instrument:
        described = {"kinds": [KIND], "number": "N-1"} | described
        return note_instrument(self.room.programme, self.room.monitor, name=name, **described)

    def ended(self, run: Run) -> Result:
        """The run ends without a figure; its result."""
        why = {"cause": "spilt", "finish": "not-tested"}
        desk_acts(run, self.room.monitor, ("stop", why))
        return Result.objects.get(run=run)

    def run_with(self, run: Run) -> str:
        return run.instruments[KIND].instrument.name

    def test_a_test_takes_the_instrument_its_analyst_used_last(self) -> None:
        """The newest one first, then the one that was chosen; another person starts afresh."""
        first, second = self.note("pH meter 1"), self.note("pH meter 2")
        run = self.room.new_run(method=PH)
        self.assertEqual(self.run_with(run), "pH meter 2")
        self.client.post(
            self.room.url(f"bench/{run.pk}/instrument/"), {"kind": KIND, "instrument": first.pk}
        )
        run = Run.objects.get(pk=run.pk)
        self.assertEqual(self.run_with(run), "pH meter 1")
        self.assertEqual(self.run_with(self.room.new_run(method=PH)), "pH meter 1")
        change_instrument(first, self.room.monitor, in_use=False)
        self.assertEqual(self.run_with(self.room.new_run(method=PH)), "pH meter 2")
        self.assertEqual(second.revision, 1)
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_one_whose_check_is_overdue_is_not_proposed(self) -> None:
        """Unless there is no other; the bench says so then."""
        today = timezone.localdate()
        good = self.note("good", check_due=today)
        self.note("overdue", check_due=today - timedelta(days=1))
        run = self.room.new_run(method=PH)
        self.assertEqual(self.run_with(run), "good")
        page = self.room.url(f"bench/{run.pk}/")
        self.assertNotContains(self.client.get(page), "check overdue")
        change_instrument(good, self.room.monitor, in_use=False)
        other = self.room.people["reviewer"]
        run = open_run(self.room.new_sample(method=PH), other)
        self.assertEqual(self.run_with(run), "overdue")
        self.client.force_login(other)
        self.assertContains(self.client.get(self.room.url(f"bench/{run.pk}/")), "check overdue")

    def test_a_method_without_instrument_takes_none(self) -> None:
        self.note()
        self.assertEqual(self.room.new_run().instruments, {})
        self.assertEqual(RunInstrument.objects.count(), 0)

    def test_what_was_noted_when_the_test_began_stays(self) -> None:
        """A later check does not change what a result says of its meter."""
        checked, due = date(2026, 10, 1), date(2026, 11, 1)
        meter = self.note(checked_on=checked, check_due=due)
        run = self.room.new_run(method=PH)
        change_instrument(meter, self.room.monitor, checked_on=date(2026, 11, 20))
        result = self.ended(run)
        used = result.evaluation.instruments
        self.assertEqual([one["checked_on"] for one in used], ["2026-10-01"])
        page = self.client.get(self.room.url(f"results/{result.pk}/"))
        self.assertContains(page, "checked 1 October 2026")
        file = self.client.get(self.room.url(f"results/{result.pk}/events.jsonl"))
        self.assertContains(file, '"name": "pH meter 1"')

    def test_the_reviewer_is_told(self) -> None:
        """Of a check that was due, to the day, and of an instrument that nobody noted."""
        today = timezone.now().date()
        for due, told in ((today, False), (today - timedelta(days=1), True)):
            meter = self.note(f"meter {due}", check_due=due)
            run = self.room.new_run(method=PH)
            choose_instrument(run, self.room.monitor, KIND, meter)
            said = " ".join(review_warnings(self.ended(Run.objects.get(pk=run.pk)), []))
            with self.subTest(due=due):
                self.assertEqual(f"The check of {meter.name} was due" in said, told)
        Instrument.objects.of(self.room.programme).update(in_use=False)
        said = review_warnings(self.ended(self.room.new_run(method=PH)), [])
        self.assertIn(f"No {KIND} was recorded.", said)

    def test_an_ended_test_and_a_wrong_kind_are_refused(self) -> None:
        meter, other = self.note(), self.note("salt meter", kinds=["pocket conductivity meter"])
        run = self.room.new_run(method=PH)
        with self.assertRaisesMessage(ActionNotAllowed, f"is not a {KIND}"):
            choose_instrument(run, self.room.monitor, KIND, other)
        self.ended(run)
        with self.assertRaisesMessage(ActionNotAllowed, "has ended"):
            choose_instrument(run, self.room.monitor, KIND, meter)

    def test_its_page_lists_what_was_read_with_it(self) -> None:
        """Not what another one was chosen for afterwards."""
        first, second = self.note("pH meter 1"), self.note("pH meter 2")
        run = self.room.new_run(method=PH)
        choose_instrument(run, self.room.monitor, KIND, first)
        result = self.ended(run)
        page = self.client.get(self.room.url(f"instruments/{first.pk}/"))
        self.assertContains(page, f"results/{result.pk}/")
        self.assertContains(page, "Used in 1 test ")
        page = self.client.get(self.room.url(f"instruments/{second.pk}/"))
        self.assertContains(page, "No results yet")
        answer = self.client.get(self.room.url(f"instruments/{first.pk}/results.csv"))
        lines = b"".join(answer).decode().splitlines()
        self.assertEqual([line.partition(",")[0] for line in lines[1:]], [str(result.pk)])
        foreign = Room(slug="south-room")
        for path in ("", "results.csv"):
            where = foreign.url(f"instruments/{first.pk}/{path}")
            self.client.force_login(foreign.monitor)
            self.assertEqual(self.client.get(where).status_code, 404)

    def test_noting_one_on_its_page(self) -> None:
        """What is wrong is said, what was typed stays; a change is a revision."""
        self.room.new_run(method=PH)
        typed = {"name": "Meter <2>", "kinds": [KIND], "number": "N-9"}
        wrong = typed | {"checked_on": "2026-11-02", "check_due": "2026-11-01"}
        page = self.client.post(self.room.url("library/instruments/new/"), wrong)
        self.assertContains(page, "before the last check", status_code=422)
        self.assertContains(page, "Meter &lt;2&gt;", status_code=422)
        self.assertFalse(Instrument.objects.exists())
        self.client.post(self.room.url("library/instruments/new/"), typed)
        made = Instrument.objects.get()
        edit = self.room.url(f"library/instruments/{made.pk}/edit/")
        self.assertContains(self.client.get(edit), 'value="N-9"')
        self.client.post(edit, typed | {"check_due": "2027-01-31", "in_use": "on"})
        made.refresh_from_db()
        self.assertEqual((made.check_due, made.revision), (date(2027, 1, 31), 2))
        self.assertEqual(SettingRevision.objects.filter(about=f"instrument:{made.pk}").count(), 2)
        self.assertContains(self.client.get(self.room.url("library/")), "31 January 2027")
        shown = self.client.get(edit).context["form"].initial
        self.client.post(edit, {name: held or "" for name, held in shown.items()})
        made.refresh_from_db()
        self.assertEqual((made.check_due, made.revision), (date(2027, 1, 31), 2))

    def test_a_seal_says_which_columns_it_covers(self) -> None:
        """An evaluation is sealed with its instruments and the kit's verdict, which came later."""
        result = self.room.finished()
        entry = AuditEntry.objects.get(act="result.evaluated")
        seal = next(one for one in entry.data["seals"] if one["model"] == "results.Evaluation")
        self.assertEqual(seal["version"], 2)
        self.assertEqual(seal["sha"], sha_of_rows([result.evaluation], 2))
        self.assertNotEqual(seal["sha"], sha_of_rows([result.evaluation], 0))


class Corrected(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.reviewer = cls.room.people["reviewer"]
        cls.lot = Lot.objects.get(programme=cls.room.programme)
        cls.result = cls.room.finished((7, 8))
        decide(cls.result, cls.reviewer, "accept", "", cls.result.current_id)

    def setUp(self) -> None:
        self.client.force_login(self.reviewer)

    def correct(self, **typed: str):
        described = {"number": "L-1", "in_use": "on", "why": "read the label again"} | typed
        described |= {"confirmed": "yes"}
        return self.client.post(self.room.url(f"lots/{self.lot.pk}/correct/"), described)

    def test_its_results_are_computed_again(self) -> None:
        """Another drop, another value; what was reviewed goes back to review, with the reason."""
        was = self.result.current
        self.correct(drops="18")
        self.assertEqual(evaluation_of_lot(self.lot), "under-way")
        page = self.client.get(self.room.url(f"lots/{self.lot.pk}/"))
        self.assertContains(page, "are being recalculated")
        self.assertEqual(run_jobs(), [1])
        piece = self.client.get(self.room.url(f"lots/{self.lot.pk}/computing/"))
        self.assertContains(piece, "have been recalculated")
        self.result.refresh_from_db()
        now = self.result.evaluation
        self.assertAlmostEqual(now.number / was.number, 1 / 17.5 / 0.05, 1)
        self.assertEqual(now.lots[0]["revision"], 2)
        self.assertEqual(now.why, "lot L-1: read the label again")
        self.assertEqual((self.result.status, self.result.waits_for), ("provisional", "reviewer"))
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_twice_it_changes_nothing(self) -> None:
        self.correct(drops="18")
        self.correct(drops="18", why="and again")
        self.assertEqual(run_jobs(), [1])
        self.assertEqual(self.result.run.results.get().evaluation.made_by, self.reviewer)
        self.assertEqual(AuditEntry.objects.filter(act="lot.corrected").count(), 1)

    def test_the_page_shows_what_is_noted(self) -> None:
        """Sent back as it is, nothing changes."""
        self.lot.opened, self.lot.expires = date(2026, 5, 1), date(2027, 5, 1)
        self.lot.save()
        page = self.client.get(self.room.url(f"lots/{self.lot.pk}/correct/"))
        held = page.context["form"].initial.items()
        shown = {name: value for name, value in held if value is not None}
        self.assertContains(page, 'value="2026-05-01"')
        self.assertContains(self.correct(**shown), "Nothing was changed", status_code=422)

    def test_dates_alone_compute_nothing(self) -> None:
        """They are noted, as a revision; no result changes."""
        self.correct(expires="2026-01-31")
        self.lot.refresh_from_db()
        self.assertEqual((self.lot.expires, self.lot.revision), (date(2026, 1, 31), 2))
        self.assertEqual(run_jobs(), [])
        self.result.refresh_from_db()
        self.assertEqual(self.result.status, "reviewed")

    def test_what_is_wrong_is_said_and_what_was_typed_stays(self) -> None:
        for typed, says in (
            ({"why": ""}, "Enter a reason"),
            ({"number": ""}, "Enter the lot number"),
            ({}, "Nothing was changed"),
            ({"opened": "2026-05-02", "expires": "2026-05-01"}, "expired before it was opened"),
        ):
            page = self.correct(**typed)
            with self.subTest(says=says):
                self.assertContains(page, says, status_code=422)
        self.lot.refresh_from_db()
        self.assertEqual(self.lot.revision, 1)

    def test_a_table_stays_unless_it_is_changed(self) -> None:
        """The page shows it as it was typed; cleared, it is gone."""
        self.lot.table = [["1.0", "2.6"], ["2.0", "5.0"], ["3.0", "9.5"]]
        self.lot.save()
        page = self.client.get(self.room.url(f"lots/{self.lot.pk}/correct/"))
        self.assertContains(page, "1.0 2.6\n2.0 5.0\n3.0 9.5")
        self.assertEqual(self.correct(table="1.0 2.6\n2.0 5.0\n3.0 9.5").status_code, 422)
        self.correct(table="")
        self.lot.refresh_from_db()
        self.assertEqual(self.lot.table, [])

    def test_only_reviewers(self) -> None:
        self.client.force_login(self.room.monitor)
        self.assertEqual(self.correct(drops="18").status_code, 403)

    def test_a_lot_of_another_programme(self) -> None:
        foreign = Lot.objects.get(programme=Room(slug="south-room").programme)
        for path in ("correct/", "computing/"):
            answer = self.client.get(self.room.url(f"lots/{foreign.pk}/{path}"))
            self.assertEqual(answer.status_code, 404)

    def test_unchanged_results_keep_their_evaluation(self) -> None:
        """Only a run of that lot is looked at."""
        with self.captureOnCommitCallbacks(execute=True):
            correct_lot(self.lot, self.reviewer, "wrong", number="L-1b")
        self.room.finished((7, 8))
        self.assertEqual(run_jobs(), [2])
        with connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM results_evaluation")
            self.assertEqual(cursor.fetchone()[0], 3)
