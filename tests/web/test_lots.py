"""Lots: what is recorded of a pack, what tests take of it, which one a test is done with, and one
that is found to read high."""

from datetime import date, timedelta
from uuid import uuid4

from django.utils import timezone

from kessa.flows.desk import desk_acts
from kessa.flows.jobs import evaluation_of_lot
from kessa.flows.rebuilding import rebuild
from kessa.flows.receiving import keep
from kessa.flows.reviewing import decide
from kessa.library.equipment import note_lot
from kessa.library.models import Lot
from kessa.library.stock import running_out
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.verify import find_errors
from kessa.results.models import Evaluation, Result
from kessa.runs.lots import choose_lot, find_lot, lot_choices
from kessa.runs.models import LotUse, Run, RunLot
from tests.builders.jobs import run_jobs
from tests.builders.people import Room
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps

STRIP, STRIPS = "hardness-strip", "hardness strips"


def note(room: Room, reagent: str = "silver nitrate", number: str = "L-2", **more: object) -> Lot:
    return note_lot(room.programme, room.monitor, reagent=reagent, number=number, **more)


def strip_test(room: Room, raw: str, days_ago: int = 0) -> Result:
    """A hardness strip that was read there."""
    run = room.new_run(method=STRIP, days_ago=days_ago)
    taps = Taps(run.version.method, run=str(run.pk)).before().read(raw)
    keep(room.programme, room.monitor, [event.as_json() for event in taps.events])
    return Result.objects.get(run=run)


class Pack(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def add(self, **typed: str):
        described = {"reagent": "silver nitrate", "number": "B-1"} | typed
        return self.client.post(self.room.url("library/lots/new/"), described)

    def test_a_pack_in_the_unit_on_its_label(self) -> None:
        """30 mL of 0.05 mL drops are 600; 25 tests of 24 drops each are as many; 600 pieces too."""
        for number, given in (
            ("A", ("30", "mL")),
            ("B", ("25", "tests")),
            ("C", ("600", "pieces")),
        ):
            self.add(number=number, contains=given[0], contains_in=given[1])
            with self.subTest(given=given):
                lot = Lot.objects.get(number=number)
                self.assertEqual((round(lot.contains, 6), lot.unit), (600, "drops"))

    def test_every_reagent_can_have_a_lot(self) -> None:
        """The indicator, of which no result says the lot."""
        self.assertEqual(self.add(reagent="chromate indicator").status_code, 302)
        run = self.room.new_run()
        self.assertEqual(
            {lot.reagent for lot in run.lots}, {"silver nitrate", "chromate indicator"}
        )
        self.assertEqual([lot.reagent for lot in run.resting_on], ["silver nitrate"])

    def test_what_is_wrong_is_said(self) -> None:
        """A strip has no millilitres; nothing is no pack; silver nitrate is no standard."""
        self.room.new_run(method=STRIP)
        for typed, says in (
            ({"reagent": STRIPS, "contains": "5", "contains_in": "mL"}, "counted in strips"),
            ({"contains": "0"}, "greater than or equal to"),
            ({"keeps_days": "0"}, "greater than or equal to"),
            ({"content": "1.5"}, "No method uses this as a standard"),
            ({"content_doubt": "1.5"}, "Enter what it holds, too"),
        ):
            page = self.add(**typed)
            with self.subTest(says=says):
                self.assertContains(page, says, status_code=422)
                self.assertContains(page, 'value="B-1"', status_code=422)
        self.assertFalse(Lot.objects.filter(number="B-1").exists())

    def test_tests_count_it_down(self) -> None:
        """Blank of one and 7 and 8 drops: 16 of 600; a test that is not ended takes nothing yet."""
        lot = note(self.room, contains=600, unit="drops")
        self.room.finished((7, 8))
        self.assertEqual(LotUse.objects.get(lot=lot).amount, 16.0)
        self.room.new_run()
        page = self.client.get(self.room.url(f"lots/{lot.pk}/"))
        self.assertContains(page, "about 24 tests (584 drops)")
        self.assertContains(self.client.get(self.room.url("library/")), "about 24 tests")

    def test_a_correction_of_a_reading_counts_again(self) -> None:
        """And a rebuild makes the same of the facts."""
        lot = note(self.room, contains=600, unit="drops")
        result = self.room.finished((7, 8))
        correct = {"determination": "first-1", "drops": 9, "kind": "plain", "why": "misread"}
        desk_acts(result.run, self.room.monitor, ("correct", correct))
        self.assertEqual(LotUse.objects.get(lot=lot).amount, 18.0)
        rebuild(self.room.programme)
        self.assertEqual(LotUse.objects.get(lot=lot).amount, 18.0)

    def test_today_says_what_runs_out(self) -> None:
        """On the last day, a month before, the day after; open for too long; few tests left."""
        today = timezone.localdate()
        day = timedelta(days=1)
        for number, described, words in (
            ("far", {"expires": today + 31 * day}, ""),
            ("near", {"expires": today + 30 * day}, "in 30 days"),
            ("last", {"expires": today}, "today"),
            ("over", {"expires": today - day}, "expired on"),
            ("open", {"opened": today - 90 * day, "keeps_days": 89}, "opened too long"),
            ("fine", {"contains": 24.0 * 11, "unit": "drops"}, ""),
            ("few", {"contains": 24.0 * 11 - 1, "unit": "drops"}, "about 10 more tests"),
            ("gone", {"contains": 23.0, "unit": "drops"}, "used up"),
        ):
            note(self.room, number=number, **described)
            said = {one.name: one.words for one in running_out(self.room.programme)}
            with self.subTest(lot=number):
                name = f"silver nitrate {number}"
                self.assertIn(words, said[name]) if words else self.assertNotIn(name, said)
        page = self.client.get(self.room.url("today/stock/"))
        self.assertContains(page, "Expires, used up or due")
        self.assertContains(page, "silver nitrate over")

    def test_a_test_takes_one_that_is_still_good(self) -> None:
        """An older good one before a newer bad one; the newest where none is good."""
        today = timezone.localdate()
        note(self.room, number="bad", expires=today - timedelta(days=1))
        self.assertEqual(self.room.new_run().lots[0].number, "L-1")
        Lot.objects.filter(number="L-1").update(expires=date(2020, 1, 1))
        self.assertEqual(self.room.new_run().lots[0].number, "bad")


class Chosen(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)
        self.run_ = self.room.new_run()

    def choose(self, number: str, reagent: str = "silver nitrate"):
        typed = {"reagent": reagent, "number": number}
        return self.client.post(self.room.url(f"bench/{self.run_.pk}/lot/"), typed)

    def lots(self) -> list[str]:
        return [lot.number for lot in Run.objects.get(pk=self.run_.pk).lots]

    def test_by_the_number_on_the_pack(self) -> None:
        """Typed or scanned, whatever its spaces and capitals; back again to the first one."""
        note(self.room, number="LX 204")
        self.choose(" lx204 ")
        self.assertEqual(self.lots(), ["LX 204"])
        self.choose("L-1")
        self.assertEqual(self.lots(), ["L-1"])
        self.choose("L-1")
        self.assertEqual(RunLot.objects.filter(run=self.run_).count(), 3)
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_one_that_is_not_recorded(self) -> None:
        """It is said, and added without losing the test."""
        page = self.choose("Z<9>")
        self.assertContains(page, "Z&lt;9&gt;", status_code=422)
        link = self.room.url(f"library/lots/new/?run={self.run_.pk}&reagent=silver%20nitrate")
        form = self.client.get(link + "&number=Z9")
        self.assertContains(form, 'value="Z9"')
        answer = self.client.post(link, {"reagent": "silver nitrate", "number": "Z9"})
        self.assertRedirects(answer, self.room.url(f"bench/{self.run_.pk}/"))
        self.assertEqual(self.lots(), ["Z9"])

    def test_the_result_rests_on_the_one_chosen(self) -> None:
        """Its drop counts, its page lists the result, the other one's does not."""
        lot = note(self.room, number="small", drop_ml=0.04, drop_sd=0.01)
        self.choose("L-1")
        other = Lot.objects.get(number="L-1")
        taps = Taps(run=str(self.run_.pk)).before().count(1, "blank").count(7).count(8)
        keep(self.room.programme, self.room.monitor, [event.as_json() for event in taps.events])
        result = Result.objects.get(run=self.run_)
        self.assertEqual(result.evaluation.lots[0]["number"], "L-1")
        for one, listed in ((other, True), (lot, False)):
            page = self.client.get(self.room.url(f"lots/{one.pk}/"))
            self.assertEqual(f"results/{result.pk}/" in page.content.decode(), listed)

    def test_the_bench_warns(self) -> None:
        """Of a lot that has expired, and names those that could be taken."""
        note(self.room, number="second")
        bench = self.room.url(f"bench/{self.run_.pk}/")
        self.assertNotContains(self.client.get(bench), "check them")
        Lot.objects.filter(number="L-1").update(expires=date(2020, 1, 1))
        page = self.client.get(bench)
        self.assertContains(page, "check them")
        self.assertContains(page, "Lot L-1: expired on 1 January 2020")
        self.assertContains(page, '<option value="second">')

    def test_what_cannot_be_chosen(self) -> None:
        """Of another reagent, of another programme, in an ended test."""
        note(Room(slug="south-room"), number="theirs")
        self.assertIsNone(find_lot(self.run_, "silver nitrate", "theirs"))
        self.assertEqual(self.choose("theirs").status_code, 422)
        self.assertEqual(self.choose("").status_code, 422)
        strip = note(self.room, STRIPS, "S-1")
        with self.assertRaisesMessage(ActionNotAllowed, "does not use hardness strips"):
            choose_lot(self.run_, self.room.monitor, strip)
        desk_acts(
            self.run_, self.room.monitor, ("stop", {"cause": "spilt", "finish": "not-tested"})
        )
        with self.assertRaisesMessage(ActionNotAllowed, "has ended"):
            choose_lot(self.run_, self.room.monitor, note(self.room))
        self.assertEqual(self.choose("L-1").status_code, 404)
        wrong = self.room.url(f"library/lots/new/?run={uuid4()}")
        self.assertEqual(self.client.get(wrong).status_code, 404)

    def test_all_reagents_are_offered(self) -> None:
        """Those that the result says first."""
        names = [choice.reagent for choice in lot_choices(self.run_)]
        self.assertEqual(names, ["silver nitrate", "chromate indicator"])


class ReadsHigh(RoomTest):
    """A strip lot that finds 125 % of a standard."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.reviewer = cls.room.people["reviewer"]
        cls.room.new_run(method=STRIP)
        cls.lot = note(cls.room, STRIPS, "S-1")
        cls.results = [strip_test(cls.room, raw, n) for n, raw in enumerate(("2", "4", "6"))]
        for result in cls.results[:2]:
            result.refresh_from_db()
            decide(result, cls.reviewer, "accept", "", result.current_id)
        note(cls.room, STRIPS, "S-2")
        cls.other = strip_test(cls.room, "4")

    def setUp(self) -> None:
        self.client.force_login(self.reviewer)

    def correct(self, **typed: str):
        described = {"number": "S-1", "in_use": "on", "why": "a standard of 100 read 125"}
        path = self.room.url(f"lots/{self.lot.pk}/correct/")
        return self.client.post(path, described | {"recovery_percent": "125"} | typed)

    def test_what_changes_is_shown_first(self) -> None:
        """Three results with their figures now and then; nothing is kept yet."""
        before = Evaluation.objects.count()
        page = self.correct(recovery_doubt="5")
        found = page.context["preview"]
        self.assertEqual((found.tests, found.computed, found.reviewed), (3, 3, 2))
        self.assertEqual(len(found.changes), 3)
        for change in found.changes:
            was = change.result.current.value
            self.assertContains(page, was.text)
            self.assertContains(page, change.figure)
        self.assertContains(page, "2 reviewed results go back to review")
        self.assertContains(page, "goes back to review", 2)
        self.lot.refresh_from_db()
        self.assertEqual((self.lot.recovery, self.lot.revision), (None, 1))
        self.assertEqual(Evaluation.objects.count(), before)

    def test_then_it_is_judged_again_and_old_figures_stay(self) -> None:
        """Each result of the lot is 0.8 times what it was, as foretold; the other lot's stays."""
        foretold = {c.result.pk: c.figure for c in self.correct().context["preview"].changes}
        was = {
            one.pk: one.evaluation for one in Result.objects.filter(run__version__method_id=STRIP)
        }
        self.correct(confirmed="yes")
        self.assertEqual(evaluation_of_lot(self.lot), "under-way")
        self.assertEqual(run_jobs(), [3])
        for result in self.results:
            result.refresh_from_db()
            now = result.evaluation
            self.assertAlmostEqual(now.number, 0.8 * was[result.pk].number)
            self.assertEqual(now.value.text, foretold[result.pk])
            self.assertIn("finds 125 % of a standard", now.working)
            self.assertEqual(now.lots[0]["recovery"], [1.25, 0.0])
            old = Evaluation.objects.get(pk=was[result.pk].pk)
            self.assertEqual(old.number, was[result.pk].number)
            page = self.client.get(self.room.url(f"results/{result.pk}/"))
            self.assertContains(page, was[result.pk].figure)
        self.assertEqual(
            [one.status for one in self.results], ["provisional", "provisional", "provisional"]
        )
        self.other.refresh_from_db()
        self.assertEqual(self.other.current_id, was[self.other.pk].pk)
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_the_next_test_is_right_from_the_start(self) -> None:
        """The sheet of a new test with that lot already divides."""
        self.correct(confirmed="yes")
        run_jobs()
        Lot.objects.filter(number="S-2").update(in_use=False)
        again = strip_test(self.room, "4")
        self.assertAlmostEqual(again.evaluation.number, 0.8 * self.other.evaluation.number)

    def test_it_can_be_taken_back(self) -> None:
        """Emptied, the figures are those of before."""
        self.correct(confirmed="yes")
        run_jobs()
        self.correct(recovery_percent="", confirmed="yes", why="it was the standard")
        run_jobs()
        for result in self.results:
            result.refresh_from_db()
            self.assertEqual(result.evaluation.lots[0].get("recovery"), None)
        found = [result.evaluation.number for result in self.results]
        first = [
            r.run.results.get().evaluations.order_by("pk").first().number for r in self.results
        ]
        self.assertEqual(found, first)

    def test_going_back_keeps_what_was_typed(self) -> None:
        page = self.correct(back="yes", recovery_percent="118.5")
        self.assertContains(page, 'value="118.5"')
        self.assertNotContains(page, "aria-invalid")

    def test_where_nothing_rests_on_it(self) -> None:
        """An indicator gives no figure to divide."""
        lot = note(self.room, "chromate indicator", "I-1")
        path = self.room.url(f"lots/{lot.pk}/correct/")
        typed = {"number": "I-1", "in_use": "on", "why": "x", "recovery_percent": "120"}
        self.assertContains(self.client.post(path, typed), "do not rest on", status_code=422)
