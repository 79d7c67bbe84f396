"""Typing in from paper: a sheet of lines, what comes of them, a pasted table, and what is kept."""

from datetime import UTC, date, datetime

import time_machine

from kessa.library.services import in_use
from kessa.results.models import Result
from kessa.runs.models import Event
from kessa.runs.services import state_of
from kessa.visits.models import Sample, Visit, VisitEvent
from kessa.visits.projection import rebuild
from tests.builders.people import Room
from tests.builders.rooms import RoomTest
from tests.web.test_sets import new_set

CHLORIDE, METER = "chloride-drops-15ml.chloride", "conductivity-meter.conductivity"
TESTS = "method=chloride-drops-15ml&method=conductivity-meter"
EVENING = datetime(2026, 11, 28, 19, 0, tzinfo=UTC)


@time_machine.travel(EVENING, tick=False)
class Entry(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)
        self.address = self.room.url(f"entry/sheet/?{TESTS}")

    def line(self, number: int = 0, chloride: str = "7 8", **more: str) -> dict[str, str]:
        """A line of the sheet as it is sent."""
        usual = {"day": "2026-11-28", "time": "9:40", "point": str(self.room.point.pk), "note": ""}
        typed = {f"{name}-{number}": text for name, text in (usual | more).items()}
        return typed | {f"cell-{number}-{CHLORIDE}": chloride}

    def test_one_line(self) -> None:
        """A visit with its sample at its own time, a result marked as from paper, and no step or
        clock that nobody recorded."""
        answer = self.client.post(self.address, self.line() | {f"cell-0-{METER}": "212 µS/cm"})
        visit = Visit.objects.of(self.room.programme).get()
        self.assertRedirects(answer, self.room.url(f"visits/{visit.pk}/"))
        sample = Sample.objects.of(self.room.programme).get()
        self.assertEqual(sample.taken_at, datetime(2026, 11, 28, 9, 40, tzinfo=UTC))
        self.assertEqual(visit.begun_at, sample.taken_at)
        taken = VisitEvent.objects.of(self.room.programme).get(kind="taken")
        self.assertEqual((taken.at, taken.data["from_paper"]), (EVENING, True))
        texts = {one.current.value.text for one in Result.objects.select_related("current")}
        self.assertEqual(texts, {"58 mg/L as Cl", "212 µS/cm"})
        for result in Result.objects.all():
            self.assertTrue(any("from paper" in flag for flag in result.current.flags))
            self.assertEqual([d.waits for d in state_of(result.run).determinations if d.waits], [])
        self.assertEqual(set(Event.objects.values_list("act", flat=True)), {"enter"})

    def test_several_days_are_several_visits(self) -> None:
        """A line without a day is of the day of the line above."""
        second = self.line(1, day="", time="", point=str(self.room.other.pk))
        lines = self.line() | second | self.line(2, "9 9", day="27.11.2026")
        answer = self.client.post(self.address, lines)
        self.assertRedirects(answer, self.room.url("log/"))
        days = Visit.objects.of(self.room.programme).values_list("begun_at__date", flat=True)
        self.assertEqual(sorted(days), [date(2026, 11, 27), date(2026, 11, 28)])
        samples = Sample.objects.of(self.room.programme)
        self.assertEqual(samples.filter(visit__begun_at__date=date(2026, 11, 28)).count(), 2)

    def test_without_a_time(self) -> None:
        """At noon; of this morning, just now, which noon is not yet."""
        morning = datetime(2026, 11, 28, 8, 15, 40, tzinfo=UTC)
        with time_machine.travel(morning, tick=False):
            self.client.force_login(self.room.monitor)
            self.client.post(
                self.address, self.line(time="") | self.line(1, day="27.11.2026", time="")
            )
        samples = Sample.objects.of(self.room.programme).order_by("taken_at")
        self.assertEqual(
            [sample.taken_at for sample in samples],
            [datetime(2026, 11, 27, 12, 0, tzinfo=UTC), morning.replace(second=0)],
        )

    def test_nothing_is_lost_where_something_is_wrong(self) -> None:
        """Nothing is saved, what is wrong is said beside it, and what was typed is still there."""
        cases = (
            (self.line(0, "seven"), "is no count of drops"),
            (self.line(day="soon"), "Type the day of sampling"),
            (self.line(day="2026-11-29"), "This day is in the future."),
            (self.line(time="25:00"), "Type a time, such as 9:40."),
            (self.line(time="19:03"), "This time is still to come today."),
            (self.line(point=""), "Choose the point."),
            (self.line(point="999"), "Choose the point."),
            (self.line(0, ""), "Type at least one reading."),
        )
        for wrong, said in cases:
            with self.subTest(said=said):
                sent = self.line(1, "11 12", note="beside the oak") | wrong
                if said.startswith("Type at least"):
                    sent = wrong
                answer = self.client.post(self.address, sent)
                self.assertContains(answer, said, status_code=422)
                if sent is not wrong:
                    self.assertContains(answer, "11 12", status_code=422)
                    self.assertContains(answer, "beside the oak", status_code=422)
        self.assertFalse(Visit.objects.of(self.room.programme).exists())

    def test_not_tested_and_why(self) -> None:
        self.client.post(self.address, self.line(0, "x out of reagent"))
        result = Result.objects.get()
        self.assertEqual((result.current.finish, result.current.cause),
                         ("not-tested", "out of reagent"))  # fmt: skip

    def test_not_sampled_and_why(self) -> None:
        """A line whose note says so: no sample, no test, the reason and the day of the paper; with
        a reading beside it the words are a note like any other."""
        lines = self.line(0, "", note="not sampled: ice at the edge") | self.line(
            1, "9 9", note="x"
        )
        other = self.line(2, "7 8", note="not sampled", point=str(self.room.other.pk))
        self.client.post(self.address, lines | other)
        samples = Sample.objects.of(self.room.programme)
        found = samples.get(outcome="not-taken")
        self.assertEqual(found.reason, "ice at the edge")
        self.assertEqual(found.taken_at, datetime(2026, 11, 28, 9, 40, tzinfo=UTC))
        self.assertEqual(samples.get(point=self.room.other).note, "not sampled")
        self.assertEqual(Result.objects.count(), 2)
        rebuild(found)
        self.assertEqual(found.taken_at, datetime(2026, 11, 28, 9, 40, tzinfo=UTC))

    def test_a_point_of_another_programme(self) -> None:
        foreign = Room("south-room").point
        answer = self.client.post(self.address, self.line(point=str(foreign.pk)))
        self.assertContains(answer, "Choose the point.", status_code=422)

    def test_what_comes_of_it_while_it_is_typed(self) -> None:
        """Value and range beside each cell; nothing is kept."""
        address = self.room.url(f"entry/preview/?{TESTS}")
        sent = self.line(3) | {f"cell-3-{METER}": "many"}
        cells = self.client.post(address, sent).json()["cells"]
        self.assertIn("58 mg/L as Cl", cells[f"cell-3-{CHLORIDE}"]["said"])
        self.assertIn("is not a number", cells[f"cell-3-{METER}"]["wrong"])
        self.assertFalse(Visit.objects.of(self.room.programme).exists())

    def test_the_sheet_of_a_set(self) -> None:
        """Its points are there, in its order."""
        held = new_set(self.room)
        page = self.client.get(self.room.url(f"entry/sheet/?set={held.pk}")).content.decode()
        self.assertEqual(page.count("data-line="), 3)  # two points, and the line that is copied
        for wrong in ("set=0", "set=x", "method=none", "set=99999"):
            address = self.room.url(f"entry/sheet/?{wrong}")
            self.assertEqual(self.client.get(address).status_code, 404, wrong)

    def test_pasted(self) -> None:
        """Columns are recognised, confirmed, and the lines stand in the sheet, not saved yet."""
        in_use(self.room.programme, "conductivity-meter", self.room.monitor)
        table = (
            "Date\tTime\tSite\tChloride\tConductivity\tBy\n"
            "28.11.2026\t9:40\tat the ford\t7 8\t212 µS/cm\tTam\n"
            "28.11.2026\t10:25\tBeck, at the weir\t9 9\t405 µS/cm\tTam"
        )
        address = self.room.url(f"entry/paste/?{TESTS}")
        page = self.client.post(address, {"table": table})
        self.assertContains(page, "Put 2 lines into the sheet")
        self.assertContains(page, f'value="{CHLORIDE}"')
        page = self.client.post(address, {"table": table, "fill": "yes"})
        for text in ("7 8", "405 µS/cm", "10:25", "58 mg/L as Cl"):
            self.assertContains(page, text)
        self.assertEqual(page.content.decode().count("selected"), 2)
        self.assertFalse(Visit.objects.of(self.room.programme).exists())
        page = self.client.post(address, {"table": table, "fill": "yes", "column-3": ""})
        self.assertNotContains(page, "58 mg/L as Cl")
        page = self.client.post(address, {"table": "no table"})
        self.assertContains(page, "headings in the first line", status_code=422)

    def test_it_has_no_bench(self) -> None:
        """A test that was typed in leads to its result."""
        self.client.post(self.address, self.line())
        result = Result.objects.get()
        answer = self.client.get(self.room.url(f"bench/{result.run_id}/"))
        self.assertRedirects(answer, self.room.url(f"results/{result.pk}/"))
