"""Pages: what they say, in how many queries, and under which headers."""

import re
from datetime import date

from django.test import TestCase

from kessa.library.models import Lot
from kessa.places.services import make_point, make_water
from kessa.platform.models import Membership, Programme
from kessa.visits.sets import make_set
from kessa.visits.water_events import note_event
from tests.builders.people import PASSWORD, Room
from tests.builders.rooms import RoomTest

MONTHLY = {"kind": "monthly-weekday", "weekday": 5, "which": -1}


class Pages(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.room = Room()

    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def get(self, path: str):
        return self.client.get(self.room.url(path))

    def test_empty_pages_say_what_to_do_first(self) -> None:
        """No result, no run, no visit yet."""
        for path, says in (
            ("today/", "No result yet"),
            ("log/", "No results match"),
            ("bench/", "No unfinished tests"),
            (f"points/{self.room.point.pk}/", "Nothing has been tested here yet"),
        ):
            self.assertContains(self.get(path), says)

    def test_usual_needs_eight_results(self) -> None:
        """With seven before it nothing is said; with eight the band is."""
        for day in range(8):
            self.room.finished((5 + day % 3, 5 + day % 3), days_ago=20 - day)
        page = f"points/{self.room.point.pk}/"
        self.assertNotContains(self.get(page), "usual here")
        self.room.finished((12, 12))
        said = "Chloride is 95 mg/L as Cl. Usual here 25–52, so this is 2.1 times"
        self.assertContains(self.get(page), said)
        self.assertContains(self.get("today/"), "2.1 times the usual value")

    def test_query_counts_do_not_grow_with_the_data(self) -> None:
        """Every main page stays within 15 queries, with 17 results or 33, at 9 waters or 17, with 8
        sets and events or 16."""
        self.client.force_login(self.room.people["manager"])
        counts = []
        lot = Lot.objects.get(programme=self.room.programme)
        self.get("log/")
        result = self.room.finished()
        self.get("today/")
        for part in ("east", "west"):
            for day in range(8):
                self.room.finished(days_ago=day + 1)
                self.add_a_water(f"Water {day + 1} {part}")
            for path in (
                "today/", f"points/{self.room.point.pk}/", "log/", "waters/", "review/", "people/",
                f"results/{result.pk}/", "audit/", "search/?q=beck", "library/", "bench/",
                "limits/", "limits/ccme-freshwater/chloride-long/", f"lots/{lot.pk}/",
            ):  # fmt: skip
                with self.subTest(path=path), self.assertNumQueries(FewerThan(16)) as seen:
                    self.get(path)
                counts.append(len(seen))
        self.assertEqual([b for a, b in zip(counts[:14], counts[14:], strict=True) if b > a], [])

    def add_a_water(self, name: str) -> None:
        """Another water with a point that was tested, a set of it, and something written down."""
        room = self.room
        made = make_water(room.programme, None, "ccme-freshwater", name=name, kind="stream")
        point = make_point(made, None, name="mark", place="at the weir")
        result = room.finished(point=point)
        asked = [
            {"point": one.pk, "methods": ["chloride-drops-15ml"]} for one in (point, room.point)
        ]
        make_set(
            room.programme, None, name=name, asked=asked, rhythm=MONTHLY, begins=date(2026, 1, 1)
        )
        note_event(room.water, room.monitor, "rain", result.sampled_at)

    def test_the_bench_page(self) -> None:
        """At most 24 queries; the sheets of both portions are in it."""
        run = self.room.new_run()
        self.get("log/")
        with self.assertNumQueries(FewerThan(25)):
            page = self.get(f"bench/{run.pk}/")
        self.assertEqual(
            set(page.context["payload"]["sheets"]), {"chloride-drops-15ml", "chloride-drops-5ml"}
        )

    def test_headers(self) -> None:
        """Nothing inline, nothing from elsewhere, no frame."""
        answer = self.get("today/")
        policy = answer.headers["Content-Security-Policy"]
        self.assertIn("script-src 'self'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertEqual(answer.headers["X-Frame-Options"], "DENY")
        self.assertNotContains(answer, " style=")
        self.assertNotContains(answer, "onclick")

    def test_a_viewer_is_led_nowhere_that_is_closed(self) -> None:
        """No link on a viewer's pages answers 403."""
        self.room.new_run()
        self.client.force_login(self.room.people["viewer"])
        for path in ("today/", "bench/", "waters/", f"points/{self.room.point.pk}/"):
            for link in re.findall(r'href="(/p/[^"]+)"', self.get(path).content.decode()):
                self.assertEqual(self.client.get(link).status_code, 200, link)

    def test_errors_are_pages(self) -> None:
        """404 and 403 say what to do."""
        self.assertContains(self.get("results/999/"), "Page not found", status_code=404)
        self.client.force_login(self.room.people["viewer"])
        answer = self.client.post(self.room.url(f"points/{self.room.point.pk}/test/"))
        self.assertContains(answer, "Ask a manager", status_code=403)


class FewerThan(int):
    """Compares as "fewer than", so that assertNumQueries takes an upper bound."""

    def __eq__(self, other: object) -> bool:
        return isinstance(other, int) and other < int(self)

    __hash__ = int.__hash__


class DeviceSession(RoomTest):
    def test_name_and_password(self) -> None:
        """Right ones lead to Today; wrong ones keep the name and say it plainly."""
        name = self.room.monitor.username
        wrong = self.client.post("/sign-in/", {"username": name, "password": "x"})
        self.assertContains(wrong, "is wrong", status_code=422)
        self.assertContains(wrong, f'value="{name}"', status_code=422)
        right = self.client.post("/sign-in/", {"username": name, "password": PASSWORD}, follow=True)
        self.assertEqual(right.redirect_chain[-1][0], self.room.url("today/"))

    def test_a_choice_with_several_programmes(self) -> None:
        """Each is listed with the role one has there."""
        second = Programme.objects.create(name="East Room", slug="east-room")
        Membership.objects.create(programme=second, person=self.room.monitor, role="viewer")
        self.client.force_login(self.room.monitor)
        self.assertContains(self.client.get("/"), "East Room")

    def test_no_programme_yet(self) -> None:
        """The page says whom to ask."""
        Membership.objects.filter(person=self.room.monitor).delete()
        self.client.force_login(self.room.monitor)
        self.assertContains(self.client.get("/"), "no programme yet")
