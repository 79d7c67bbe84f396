"""Sets of tests: made, due, packed, begun, printed, and in a calendar."""

from datetime import date, datetime, timedelta

import time_machine
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from icalendar import Calendar

from kessa.library.equipment import note_lot
from kessa.library.services import in_use
from kessa.platform.models import AuditEntry, SettingRevision
from kessa.visits import services as visits
from kessa.visits.models import CalendarFeed, Sample, TestAsked, TestSet, Visit
from kessa.visits.sets import begin_set, call_out, change_set, make_set, today_of
from tests.builders.people import Room
from tests.builders.rooms import RoomTest

METHODS = ("chloride-drops-15ml", "thermometer")
SATURDAYS = {"kind": "monthly-weekday", "weekday": 5, "which": -1}
LAST_SATURDAY = "2026-11-28T10:00:00Z"


def new_set(room: Room, **described: object) -> TestSet:
    """Both points, chloride and temperature, on each month's last Saturday since September."""
    for method in METHODS:
        in_use(room.programme, method, room.people["manager"])
    asked = [{"point": one.pk, "methods": list(METHODS)} for one in (room.point, room.other)]
    usual = {"name": "Round", "asked": asked, "rhythm": SATURDAYS, "begins": date(2026, 9, 1)}
    return make_set(room.programme, None, **(usual | described))


class SetsTest(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.people["manager"])

    def form(self, **changed: object) -> dict[str, object]:
        """What a manager fills in."""
        return {
            "name": "Monthly round",
            "kind": "monthly-weekday",
            "weekday": "5",
            "which": "-1",
            "every": "1",
            "begins": "2026-11-01",
            "lead": str(self.room.monitor.pk),
            "companion": str(self.room.people["reviewer"].pk),
            "points": [str(self.room.point.pk), str(self.room.other.pk)],
            "method": list(METHODS),
        } | changed

    def test_made_by_hand(self) -> None:
        answer = self.client.post(self.room.url("sets/new/"), self.form())
        made = TestSet.objects.of(self.room.programme).get()
        self.assertRedirects(answer, self.room.url(f"sets/{made.pk}/"))
        self.assertEqual(made.when.words, "the last Saturday of every month")
        self.assertEqual(made.point_ids, [self.room.point.pk, self.room.other.pk])
        self.assertEqual(made.methods_at(self.room.other.pk), list(METHODS))
        kept = SettingRevision.objects.of(self.room.programme).get(about=f"testset:{made.pk}")
        self.assertEqual(kept.data["name"], "Monthly round")

    def test_each_rhythm_of_the_form(self) -> None:
        cases = (
            ({"kind": "weekly", "weekday": "0", "every": "2"}, "every 2 weeks on Monday"),
            ({"kind": "monthly-day", "day": "31"}, "the last day of every month"),
            ({"kind": "rain"}, "after heavy rain"),
            ({"kind": "service"}, "at each service"),
            ({"kind": "weekly", "every": ""}, "every Saturday"),
        )
        for typed, words in cases:
            with self.subTest(words=words):
                self.client.post(self.room.url("sets/new/"), self.form(**typed))
                self.assertEqual(
                    TestSet.objects.of(self.room.programme).latest("pk").when.words, words
                )

    def test_what_is_wrong_is_said_and_what_was_typed_stays(self) -> None:
        cases = (
            ({"name": ""}, "Name the set"),
            ({"points": []}, "Tick at least one point."),
            ({"method": []}, "Tick at least one test."),
            ({"kind": "monthly-day", "day": ""}, "Enter the day of the month, 1 to 31."),
            ({"companion": str(self.room.monitor.pk)}, "Choose another person"),
            ({"begins": "soon"}, "Enter a valid date."),
        )
        for typed, said in cases:
            with self.subTest(said=said):
                answer = self.client.post(self.room.url("sets/new/"), self.form(**typed))
                self.assertContains(answer, said, status_code=422)
                self.assertContains(answer, "checked", status_code=422)
        self.assertFalse(TestSet.objects.of(self.room.programme).exists())

    def test_a_foreign_point_is_no_point(self) -> None:
        foreign = Room("south-room")
        answer = self.client.post(
            self.room.url("sets/new/"), self.form(points=[str(foreign.point.pk)])
        )
        self.assertEqual(answer.status_code, 422)

    def test_from_a_visit(self) -> None:
        """Its point and tests are ticked."""
        visit = self.room.new_visit(*METHODS)
        page = self.client.get(self.room.url(f"sets/new/?visit={visit.pk}")).content.decode()
        self.assertIn("Chosen", page)
        self.assertEqual(page.count("checked"), len(METHODS) + 1 + 1)  # tests, point, rhythm
        for wrong in ("x", "9" * 30, "0"):
            self.assertEqual(
                self.client.get(self.room.url(f"sets/new/?visit={wrong}")).status_code, 200
            )

    def test_changed(self) -> None:
        """A point that is added gets the tests of the first; the audit says what was."""
        made = new_set(self.room)
        third = self.room.new_point("at the mill")
        points = [str(one.pk) for one in (self.room.point, third)]
        self.client.post(self.room.url(f"sets/{made.pk}/change/"), self.form(points=points))
        made.refresh_from_db()
        self.assertEqual(made.point_ids, [self.room.point.pk, third.pk])
        self.assertEqual(made.methods_at(third.pk), list(METHODS))
        entry = AuditEntry.objects.filter(act="set.changed").latest("number")
        self.assertEqual(entry.data["before"]["name"], "Round")

    def test_tests_point_by_point(self) -> None:
        made = new_set(self.room)
        address = self.room.url(f"sets/{made.pk}/points/{self.room.other.pk}/")
        self.client.post(address, {"method": ["thermometer"]})
        made.refresh_from_db()
        self.assertEqual(made.methods_at(self.room.other.pk), ["thermometer"])
        self.assertEqual(made.methods_at(self.room.point.pk), list(METHODS))
        self.assertEqual(self.client.post(address, {}).status_code, 422)
        strange = self.room.new_point("elsewhere")
        other = self.room.url(f"sets/{made.pk}/points/{strange.pk}/")
        self.assertEqual(self.client.get(other).status_code, 404)

    def test_no_longer_done(self) -> None:
        made = new_set(self.room)
        self.client.post(self.room.url(f"sets/{made.pk}/change/"), self.form(stop="on"))
        self.assertFalse(TestSet.objects.of(self.room.programme).in_use().exists())
        self.assertContains(self.client.get(self.room.url("sets/")), "No longer done")


class DueTest(RoomTest):
    def due(self, made: TestSet, day: date) -> tuple[date | None, int]:
        sets = TestSet.objects.of(made.programme).with_days_done()
        found = today_of(sets.filter(pk=made.pk), day)[0].standing
        return found.due, len(found.missed)

    def test_done_by_its_visit_alone(self) -> None:
        """A visit of the set counts for the day it was begun for."""
        made, october, november = new_set(self.room), date(2026, 10, 31), date(2026, 11, 28)
        self.assertEqual(self.due(made, november), (november, 2))
        begin_set(made, self.room.monitor, [self.room.point], october)
        self.assertEqual(self.due(made, november), (november, 1))
        begin_set(made, self.room.monitor, [self.room.point], november)
        self.assertEqual(self.due(made, november), (None, 1))

    @time_machine.travel(LAST_SATURDAY)
    def test_after_rain_by_a_tap(self) -> None:
        """Due from the tap on until its visit; then not, until it rains again."""
        made = new_set(self.room, rhythm={"kind": "occasion", "occasion": "rain"})
        today = timezone.localdate()
        self.assertEqual(self.due(made, today), (None, 0))
        call_out(made, self.room.monitor)
        self.assertEqual(self.due(made, today), (today, 0))
        self.assertEqual(self.due(made, today + timedelta(days=3)), (today, 0))
        begin_set(made, self.room.monitor, [self.room.point], today)
        self.assertEqual(self.due(made, today), (None, 0))

    @time_machine.travel(LAST_SATURDAY)
    def test_today_says_so(self) -> None:
        made = new_set(self.room)
        self.client.force_login(self.room.monitor)
        page = self.client.get(self.room.url("today/"))
        self.assertContains(page, "due today")
        answer = self.client.post(self.room.url(f"sets/{made.pk}/begin/"))
        visit = Visit.objects.of(self.room.programme).latest("pk")
        self.assertRedirects(answer, self.room.url(f"visits/{visit.pk}/"))
        self.assertEqual((visit.set, visit.due_on), (made, date(2026, 11, 28)))
        self.assertNotContains(self.client.get(self.room.url("today/")), "due today")

    def test_a_change_that_changes_nothing(self) -> None:
        made = new_set(self.room)
        self.assertFalse(change_set(made, self.room.monitor, name="Round"))


class BegunTest(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)
        self.set = new_set(self.room)
        self.visit = begin_set(
            self.set, self.room.monitor, [self.room.point, self.room.other], date(2026, 11, 28)
        )
        samples = Sample.objects.of(self.room.programme).filter(visit=self.visit)
        self.samples = list(samples.order_by("pk"))
        self.address = self.room.url(f"visits/{self.visit.pk}/")

    def test_a_sample_with_its_tests_at_each_point(self) -> None:
        self.assertEqual([one.point for one in self.samples], [self.room.point, self.room.other])
        for sample in self.samples:
            tests = TestAsked.objects.of(self.room.programme).filter(sample=sample)
            self.assertEqual([one.method_id for one in tests], list(METHODS))

    def test_the_visit_leads_from_point_to_point(self) -> None:
        """First to the first point; the sample taken there, to its tests."""
        page = self.client.get(self.address)
        self.assertContains(page, "Sample here")
        self.assertContains(page, "2 tests, not sampled yet", count=2)
        first, second = self.samples
        url = self.room.url(f"samples/{first.pk}")
        self.client.post(f"{url}/safety/", {"go": "yes"})
        self.client.post(f"{url}/context/", {"weather_now": "rain", "weather_before": "thaw",
                                             "event": "during rain", "level": "high"})  # fmt: skip
        answer = self.client.post(f"{url}/sample/", {"at": "2026-11-19T09:30"})
        self.assertEqual(answer.url, self.address)
        self.assertContains(self.client.get(self.address), "2 tests, not sampled yet", count=1)
        first.refresh_from_db()
        self.assertEqual(first.noted, {"event": "during rain", "level": "high"})

        page = self.client.get(self.room.url(f"samples/{second.pk}/context/")).content.decode()
        self.assertEqual(page.count("checked"), 2)  # the weather is asked once
        self.assertIn('value="during rain" selected', " ".join(page.split()))

    def test_not_sampled_goes_back_to_the_visit(self) -> None:
        url = self.room.url(f"samples/{self.samples[0].pk}/safety/")
        answer = self.client.post(url, {"reason": "ice", "more": "broken at the edge"})
        self.assertEqual(answer.url, self.address)
        self.assertContains(self.client.get(self.address), "Not sampled: ice: broken at the edge")

    def test_one_test_at_a_second_point_goes_to_the_visit(self) -> None:
        """Where there is more than one sample, the visit says what to do."""
        visits.cancel(self.samples[1], self.room.monitor)
        self.assertNotContains(self.client.get(self.address), "at the weir")


class PackingTest(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)
        self.set = new_set(self.room)

    def packing(self) -> str:
        return " ".join(
            self.client.get(self.room.url(f"sets/{self.set.pk}/")).content.decode().split()
        )

    def test_lots_that_are_enough_or_not(self) -> None:
        """The room's bottle says nothing of what it holds; then one that holds too little."""
        self.assertIn("L-1", self.packing())
        self.assertIn("not recorded", self.packing())
        for reagent in ("silver nitrate", "chromate indicator"):
            note_lot(self.room.programme, None, reagent=reagent, number="L-2", contains=3.0,
                     unit="drops", opened=date(2026, 1, 1))  # fmt: skip
        page = self.packing()
        self.assertIn("too little: 3 drops", page)
        self.assertIn("Beck, at the ford: ", page)

    def test_an_expired_lot_is_not_packed(self) -> None:
        note_lot(self.room.programme, None, reagent="chromate indicator", number="OLD-9",
                 contains=500.0, unit="drops", expires=date(2020, 1, 1))  # fmt: skip
        page = self.client.get(self.room.url(f"sets/{self.set.pk}/packing/")).content.decode()
        packed = page[page.index("<table") : page.index("</table>")]
        self.assertNotIn("OLD-9", packed)
        self.assertIn("OLD-9", page[: page.index("<table")])  # to be checked first

    def test_what_is_printed(self) -> None:
        for name, said in (
            ("packing", "Order of work"),
            ("labels", "Beck, at the weir"),
            ("sheet", "Second measurement"),
        ):
            with self.subTest(name=name):
                page = self.client.get(self.room.url(f"sets/{self.set.pk}/{name}/"))
                self.assertContains(page, said)

    def test_queries_do_not_grow_with_the_points(self) -> None:
        address = self.room.url(f"sets/{self.set.pk}/")
        self.client.get(address)
        before = len(self.queries(address))
        asked = [*self.set.asked, {"point": self.room.new_point("x").pk, "methods": list(METHODS)}]
        change_set(self.set, self.room.monitor, asked=asked)
        self.assertEqual(len(self.queries(address)), before)

    def queries(self, address: str) -> list[dict[str, str]]:
        with CaptureQueriesContext(connection) as captured:
            self.client.get(address)
        return captured.captured_queries


class CalendarTest(RoomTest):
    def setUp(self) -> None:
        new_set(self.room)
        new_set(self.room, name="After rain", rhythm={"kind": "occasion", "occasion": "rain"})
        self.client.force_login(self.room.people["viewer"])

    def address(self) -> str:
        self.client.post(self.room.url("sets/calendar/"))
        page = self.client.get(self.room.url("sets/")).content.decode()
        start = page.index("http://testserver/calendar/")
        return page[start : page.index('"', start)].removeprefix("http://testserver")

    def test_titles_and_days_and_nothing_else(self) -> None:
        """A set without a calendar has no day in it."""
        file = self.client.get(self.room.url("sets.ics"))
        self.assertEqual(file["Content-Type"], "text/calendar; charset=utf-8")
        events = Calendar.from_ical(file.content).walk("VEVENT")
        self.assertEqual([str(one["SUMMARY"]) for one in events], ["Round"])
        self.assertEqual(events[0]["RRULE"]["BYDAY"], ["-1SA"])
        self.assertEqual(events[0]["DTSTART"].dt, date(2026, 9, 26))
        self.assertNotIn(b"Beck", file.content)
        self.assertNotIn(b"DESCRIPTION", file.content)

    def test_a_feed_without_signing_in(self) -> None:
        address, stranger = self.address(), Client()
        self.assertEqual(len(Calendar.from_ical(stranger.get(address).content).walk("VEVENT")), 1)
        self.assertEqual(stranger.get("/calendar/nothing.ics").status_code, 404)
        self.assertNotContains(self.client.get(self.room.url("sets/")), address)  # shown once
        kept = CalendarFeed.objects.of(self.room.programme).get()
        self.assertNotIn(kept.hash, address)

    def test_withdrawn_or_replaced_it_ends(self) -> None:
        first = self.address()
        second = self.address()
        stranger = Client()
        self.assertEqual(stranger.get(first).status_code, 404)
        self.assertEqual(stranger.get(second).status_code, 200)
        self.client.post(self.room.url("sets/calendar/withdraw/"))
        self.assertEqual(stranger.get(second).status_code, 404)

    def test_who_leaves_the_programme_reads_no_more(self) -> None:
        address = self.address()
        membership = self.room.people["viewer"].memberships.get()
        membership.ended_at = datetime(2026, 1, 1, tzinfo=timezone.get_current_timezone())
        membership.save()
        self.assertEqual(Client().get(address).status_code, 404)

    def test_not_asked_too_often(self) -> None:
        address, stranger = self.address(), Client()
        answers = [stranger.get(address).status_code for _ in range(62)]
        self.assertEqual((answers[0], answers[-1]), (200, 429))
