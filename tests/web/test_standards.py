"""Standards in tests and beside them, the flag until one passes; checks of instruments."""

from datetime import UTC, date, datetime, timedelta

import time_machine
from django.utils import timezone

from kessa.flows.receiving import keep
from kessa.library.equipment import note_check, note_instrument
from kessa.library.models import InstrumentCheck
from kessa.library.stock import running_out
from kessa.platform.verify import find_errors
from kessa.results.models import Result
from kessa.runs.models import StandardCheck
from kessa.runs.standards import failed_standards
from tests.builders.jobs import run_jobs
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps
from tests.web.test_lots import STRIP, STRIPS, note, strip_test

PHOSPHATE = "phosphate-photometer"
FAILED = "The last standard with hardness strips, lot S-1 failed"


class Beside(RoomTest):
    """Recorded on the lot's page."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.room.new_run(method=STRIP)
        cls.lot = note(cls.room, STRIPS, "S-1")

    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def measure(self, found: str, days_ago: int = 0, **typed: str):
        day = timezone.localdate() - timedelta(days=days_ago)
        described = {"method": STRIP, "known": "100", "low": "90", "high": "110"}
        described |= {"found": found, "on": day.isoformat()} | typed
        return self.client.post(self.room.url(f"lots/{self.lot.pk}/standard/"), described)

    def flags(self, result: Result) -> list[str]:
        result.refresh_from_db()
        return [flag for flag in result.evaluation.flags if flag.startswith("The last standard")]

    def test_a_failure_flags_what_follows_until_one_passes(self) -> None:
        """110 passes, 111 does not; a test after it carries the flag, one after 100 none."""
        self.measure("110", days_ago=9)
        first = strip_test(self.room, "4")
        self.assertEqual(self.flags(first), [])
        self.measure("111", days_ago=8)
        run_jobs()
        self.assertIn(f"{FAILED} on", self.flags(first)[0])
        second = strip_test(self.room, "4")
        self.assertIn("111.0 %, outside 90–110 %", self.flags(second)[0])
        self.measure("100", days_ago=7)
        run_jobs()
        self.assertEqual(self.flags(second), [])
        self.assertEqual(self.flags(strip_test(self.room, "4")), [])
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_one_that_was_measured_later_says_nothing_of_before(self) -> None:
        """The test began before the standard failed."""
        run = self.room.new_run(method=STRIP)
        self.measure("150")
        self.assertEqual(StandardCheck.objects.get().passes, False)
        self.assertLess(run.opened_at, timezone.now())
        run.opened_at -= timedelta(days=2)
        self.assertEqual(failed_standards(run), [])

    def test_one_of_today_flags_only_what_begins_after_it(self) -> None:
        """A test of an hour ago keeps its result; the next one carries the flag."""
        with time_machine.travel(datetime(2026, 11, 20, 14, 0, tzinfo=UTC), tick=False):
            earlier = strip_test(self.room, "4")
        with time_machine.travel(datetime(2026, 11, 20, 15, 0, tzinfo=UTC), tick=False):
            self.client.force_login(self.room.monitor)
            self.assertEqual(self.measure("150").status_code, 302)
            run_jobs()
            self.assertEqual(StandardCheck.objects.count(), 1)
            self.assertEqual(self.flags(earlier), [])
        with time_machine.travel(datetime(2026, 11, 20, 16, 0, tzinfo=UTC), tick=False):
            self.assertIn(FAILED, self.flags(strip_test(self.room, "4"))[0])

    def test_another_lot_is_not_flagged(self) -> None:
        self.measure("150", days_ago=1)
        note(self.room, STRIPS, "S-2")
        self.assertEqual(self.flags(strip_test(self.room, "4")), [])

    def test_the_page_lists_them(self) -> None:
        self.measure("150", days_ago=1)
        page = self.client.get(self.room.url(f"lots/{self.lot.pk}/"))
        self.assertContains(page, "standard 100 found 150: 150.0 %, outside 90–110 %")
        self.assertContains(page, "failed")

    def test_the_standards_own_value(self) -> None:
        """Chosen by its lot, what it holds need not be typed."""
        self.room.new_run(method=PHOSPHATE)
        bottle = note(
            self.room, "phosphate standard 1.50", "P-1", content=1.62, content_unit="mg/L as PO₄"
        )
        self.measure("1.70", known="", standard=str(bottle.pk))
        self.assertEqual(round(StandardCheck.objects.get().percent, 1), 104.9)

    def test_what_is_wrong_is_said(self) -> None:
        tomorrow = (timezone.localdate() + timedelta(days=1)).isoformat()
        for typed, says in (
            ({"known": ""}, "Enter what the standard holds"),
            ({"found": ""}, "Enter what was found"),
            ({"on": tomorrow}, "has not come yet"),
            ({"low": "110", "high": "90"}, "has to rise"),
        ):
            found = typed.pop("found", "100")
            page = self.measure(found, **typed)
            with self.subTest(says=says):
                self.assertContains(page, says, status_code=422)
        self.assertFalse(StandardCheck.objects.exists())


class InATest(RoomTest):
    """Measured as the method asks, before the sample."""

    def test_it_speaks_of_its_lot(self) -> None:
        """The powder's lot failed in one test; the next test's own standard passes."""
        room = self.room
        room.new_run(method=PHOSPHATE)
        powder = note(room, "phosphate powder", "W-1")

        def measured(standard: str) -> Result:
            run = room.new_run(method=PHOSPHATE)
            taps = Taps(run.version.method, run=str(run.pk)).before()
            taps.read(standard, who="standard").read("0.40")
            keep(room.programme, room.monitor, [event.as_json() for event in taps.events])
            return Result.objects.get(run=run)

        bad = measured("1.20")
        check = StandardCheck.objects.get()
        self.assertEqual((check.lot, check.passes, check.stage), (powder, False, "phosphate"))
        self.assertTrue([flag for flag in bad.evaluation.flags if "outside" in flag])
        good = measured("1.48")
        self.assertEqual([f for f in good.evaluation.flags if "standard" in f.lower()], [])
        self.assertEqual(list(find_errors(room.programme)), [])


class Instruments(RoomTest):
    KIND = "pocket pH meter"

    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)
        self.room.new_run(method="ph-meter")
        self.meter = note_instrument(
            self.room.programme, self.room.monitor, name="Meter 1", kinds=[self.KIND]
        )

    def check(self, **typed: str):
        described = {"kind": "calibrated", "on": "2026-10-01", "passed": "yes"} | typed
        path = self.room.url(f"library/instruments/{self.meter.pk}/check/")
        return self.client.post(path, described)

    def test_a_check_is_kept_and_counts(self) -> None:
        """With buffer, what it showed and who; the instrument goes by it."""
        buffer = note(self.room, "buffer 7", "BU-3")
        self.check(
            due="2026-11-01", against=str(buffer.pk), expected="7.00", found="7.04",
            done_by="Ina Berg", note="slope 98 %",
        )  # fmt: skip
        self.meter.refresh_from_db()
        self.assertEqual(
            (self.meter.checked_on, self.meter.check_due, self.meter.check_failed),
            (date(2026, 10, 1), date(2026, 11, 1), False),
        )
        page = self.client.get(self.room.url(f"instruments/{self.meter.pk}/"))
        for words in ("calibrated", "buffer 7, lot BU-3", "7.04", "Ina Berg", "slope 98 %"):
            self.assertContains(page, words)
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_an_older_check_changes_nothing(self) -> None:
        """Entered late, it stands in the list; tests go by the newest."""
        self.check(on="2026-10-01", due="2026-12-01")
        self.check(on="2026-09-01", passed="no")
        self.meter.refresh_from_db()
        self.assertEqual(
            (self.meter.checked_on, self.meter.check_failed), (date(2026, 10, 1), False)
        )
        self.assertEqual(InstrumentCheck.objects.count(), 2)

    def test_a_failed_check_is_told(self) -> None:
        """On Today, on its page, at the review of what is read with it; until one passes."""
        self.check(passed="no")
        self.assertEqual(
            [(one.name, one.words) for one in running_out(self.room.programme)],
            [("Meter 1", "failed its last check")],
        )
        run = self.room.new_run(method="ph-meter")
        self.assertTrue(run.instruments[self.KIND].noted["check_failed"])
        self.check(on="2026-10-02")
        self.assertEqual(running_out(self.room.programme), [])

    def test_due_within_the_month(self) -> None:
        """The day itself is not overdue; 31 days ahead is not told."""
        today = timezone.localdate()
        for days, words in (
            (31, ""),
            (30, "check due on"),
            (0, "check due on"),
            (-1, "check was due"),
        ):
            note_check(
                self.meter, self.room.monitor, kind="verified", passed=True,
                on=today - timedelta(days=2), due=today + timedelta(days=days),
            )  # fmt: skip
            said = [one.words for one in running_out(self.room.programme)]
            with self.subTest(days=days):
                self.assertEqual(bool(said), bool(words))
                self.assertIn(words, " ".join(said))

    def test_what_is_wrong_is_said(self) -> None:
        for typed, says in (
            ({"on": ""}, "Enter the date"),
            ({"passed": ""}, "Say whether it passed"),
            ({"due": "2026-10-01"}, "comes after this one"),
            ({"kind": ""}, "Choose what was done"),
        ):
            with self.subTest(says=says):
                self.assertContains(self.check(**typed), says, status_code=422)
        self.assertFalse(InstrumentCheck.objects.exists())
