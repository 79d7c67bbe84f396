"""A water: its grid, its drawing; a parameter's page."""

from itertools import pairwise

from kessa.pages.points.grid import grid_of
from kessa.pages.points.latest import lines_at
from kessa.pages.points.scheme import MOST, scheme_of
from kessa.places.models import Point
from kessa.places.services import make_point, make_water
from tests.builders.people import Room
from tests.builders.rooms import RoomTest


class Waters(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.people["viewer"])

    def boiler(self, *parts: str) -> list[Point]:
        water = make_water(self.room.programme, None, "", name="Boiler house", kind="boiler")
        return [make_point(water, None, name=part, place="hall", part=part) for part in parts]

    def page(self, water: int) -> str:
        page = self.client.get(self.room.url(f"waters/{water}/"))
        return " ".join(page.content.decode().split())

    def test_each_point_by_what_is_measured(self) -> None:
        """The value with gauge and word; where something is not measured, that is said."""
        self.room.finished((7, 7))
        points = [self.room.point, self.room.other]
        grid = grid_of(points, lines_at(self.room.programme, points))
        self.assertEqual([column.name for column in grid.columns], ["Chloride"])
        self.assertEqual([bool(row.cells[0]) for row in grid.rows], [True, False])
        page = self.page(self.room.water.pk)
        self.assertIn("not measured here", page)
        self.assertIn("within limit", page)
        self.assertIn("limits: Life in fresh water", page)

    def test_without_a_result(self) -> None:
        """Its points are named, and what to do first."""
        page = self.page(self.room.water.pk)
        self.assertIn("Nothing has been tested here yet.", page)
        self.assertIn("at the ford</a>", page)

    def test_a_stream_is_a_line_in_order_of_flow(self) -> None:
        """From left to right; upstream before downstream whatever came first."""
        room = self.room
        low = make_point(room.water, None, name="mill", place="-", part="downstream")
        high = make_point(room.water, None, name="spring", place="-", part="upstream")
        drawn = scheme_of(room.water, [low, room.point, high], [])
        assert drawn is not None
        self.assertTrue(drawn.is_stream)
        names = [place.point.name for place in drawn.places]
        self.assertEqual(names, ["spring", "at the ford", "mill"])
        xs = [place.x for place in drawn.places]
        self.assertEqual(xs, sorted(xs))
        self.assertIn("The points in order of flow: spring", self.page(room.water.pk))

    def test_a_boiler_is_a_circle_of_parts(self) -> None:
        """Feed, boiler, condensate; the condensate runs back to the feed."""
        points = self.boiler("condensate", "boiler", "feed")
        drawn = scheme_of(points[0].water, points, [])
        assert drawn is not None
        names = [place.point.name for place in drawn.places]
        self.assertEqual(names, ["feed", "boiler", "condensate"])
        self.assertEqual(drawn.back, (drawn.places[-1].x, drawn.places[0].x))
        self.assertTrue(all(to > start for start, to in drawn.arrows))
        edges = [(place.left, place.left + place.width) for place in drawn.places]
        self.assertTrue(all(a[1] < b[0] for a, b in pairwise(edges)))

    def test_no_drawing_of_one_or_of_many(self) -> None:
        """One point needs none; more than fit have the grid alone."""
        points = self.boiler(*["system"] * (MOST + 1))
        self.assertIsNone(scheme_of(points[0].water, points[:1], []))
        self.assertIsNotNone(scheme_of(points[0].water, points[:MOST], []))
        self.assertIsNone(scheme_of(points[0].water, points, []))

    def test_somebody_elses_water(self) -> None:
        """It does not exist."""
        other = Room("south-room")
        answer = self.client.get(self.room.url(f"waters/{other.water.pk}/"))
        self.assertEqual(answer.status_code, 404)


class Parameters(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.people["viewer"])

    def test_what_a_parameter_means(self) -> None:
        """Why, what it does and who says so, causes, methods, limits, what is measured here."""
        self.room.finished((14, 14))
        page = self.client.get(self.room.url("parameters/chloride/"))
        for said in (
            "Nothing in a stream uses it up",
            "above 120 mg/L for long",
            "CCME guideline 2011",
            "road salt after thaw",
            "Possible, not found",
            "Chloride by drop count, 15 mL portion",
            "Life in fresh water, CCME guidelines",
            "Beck, at the ford",
            "2–200 mg/L as Cl",
        ):
            self.assertContains(page, said)

    def test_a_parameter_of_which_less_is_said(self) -> None:
        """What it is, its methods and limits; no empty headings."""
        page = self.client.get(self.room.url("parameters/boron/"))
        self.assertNotContains(page, "Possible causes")
        self.assertContains(page, "Methods that measure it")

    def test_one_that_does_not_exist(self) -> None:
        """404."""
        self.assertEqual(self.client.get(self.room.url("parameters/magic/")).status_code, 404)

    def test_from_the_list_and_from_a_result(self) -> None:
        """Every parameter is listed; a result leads to its own."""
        result = self.room.finished((14, 14))
        listed = self.client.get(self.room.url("parameters/"))
        self.assertContains(listed, self.room.url("parameters/e-coli/"))
        page = self.client.get(self.room.url(f"results/{result.pk}/"))
        self.assertContains(page, "what chloride means")
