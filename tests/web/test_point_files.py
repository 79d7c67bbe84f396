"""Points out to files and in from them; the map."""

import json
from itertools import pairwise

from django.core.files.uploadedfile import SimpleUploadedFile

from kessa.pages.points.map import map_of
from kessa.places.models import Point, Water
from kessa.places.services import change_point
from kessa.platform.verify import find_errors
from tests.builders.rooms import RoomTest


class PointFiles(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.people["manager"])
        self.address = self.room.url("points/bring/")

    def test_out(self) -> None:
        """Every point of this programme, as GeoJSON and as CSV."""
        change_point(self.room.point, None, latitude=57.5, longitude=-14.25, tag="QB-1")
        answer = self.client.get(self.room.url("points.geojson"))
        self.assertEqual(answer["Content-Type"], "application/geo+json; charset=utf-8")
        features = {
            one["properties"]["name"]: one for one in json.loads(answer.content)["features"]
        }
        self.assertEqual(features["at the ford"]["geometry"]["coordinates"], [-14.25, 57.5])
        self.assertEqual(features["at the ford"]["properties"]["tag"], "QB-1")
        self.assertIsNone(features["at the weir"]["geometry"])
        lines = self.client.get(self.room.url("points.csv")).content.decode().splitlines()
        self.assertEqual(len(lines), 3)
        self.assertIn("Beck,stream,at the ford", lines[1])

    def test_in_from_a_file(self) -> None:
        """New ones are added with their water, those that are there are changed, none goes."""
        text = (
            "water,kind,name,latitude,longitude\n"
            "Beck,stream,at the ford,57.5,-14.25\nBeck,stream,at the weir,,\n"
            "Boiler house,boiler,feed,,\n"
        )
        file = SimpleUploadedFile("points.csv", text.encode(), "text/csv")
        answer = self.client.post(self.address, {"file": file}, follow=True)
        self.assertContains(
            answer, "1 added, some at a new stream or system; 1 changed; 1 as they were."
        )
        self.assertEqual(Point.objects.get(name="at the ford").latitude, 57.5)
        self.assertEqual(Water.objects.get(name="Boiler house").kind, "boiler")
        self.assertEqual(Point.objects.of(self.room.programme).count(), 3)
        self.assertEqual(list(find_errors(self.room.programme)), [])
        again = self.client.post(self.address, {"text": text}, follow=True)
        self.assertContains(again, "0 added; 0 changed; 3 as they were.")

    def test_nothing_of_a_wrong_file_is_kept(self) -> None:
        """The line is named, what was pasted stays in the field."""
        text = "water,name,latitude,longitude\nBeck,new one,1,1\nBeck,other,99,1\n"
        answer = self.client.post(self.address, {"text": text})
        self.assertContains(answer, "Line 3: latitude lies between", status_code=422)
        self.assertContains(answer, "Beck,new one", status_code=422)
        self.assertEqual(Point.objects.of(self.room.programme).count(), 2)
        for sent, said in (({}, "Choose a file"), ({"file": b"\xff\xfe\x00"}, "not UTF-8")):
            files = {k: SimpleUploadedFile("x.csv", v) for k, v in sent.items()}
            self.assertContains(self.client.post(self.address, files), said, status_code=422)

    def test_coordinates_by_hand(self) -> None:
        """Both or neither."""
        address = self.room.url(f"points/{self.room.point.pk}/change/")
        sent = {"name": "at the ford", "place": "by the oak", "latitude": "57.5"}
        answer = self.client.post(address, sent)
        self.assertContains(answer, "belong together", status_code=422)
        self.client.post(address, sent | {"longitude": "-14.25", "tag": "QB-1"})
        point = Point.objects.get(pk=self.room.point.pk)
        self.assertEqual((point.latitude, point.longitude, point.tag), (57.5, -14.25, "QB-1"))
        page = self.client.get(self.room.url(f"points/{self.room.point.pk}/"))
        self.assertContains(page, "Tag: QB-1")


class Map(RoomTest):
    def at(self, *places: tuple[float, float]) -> list[tuple[Point, None]]:
        points = [Point(name=str(n), latitude=lat, longitude=lon) for n, (lat, lon) in
                  enumerate(places)]  # fmt: skip
        return [(point, None) for point in points]

    def test_north_is_up_and_lengths_are_true(self) -> None:
        """A minute of latitude is 1.85 km; one of longitude half of that at 60 degrees north."""
        made = map_of(self.at((60.0, 0.0), (60.0 + 1 / 60, 0.0), (60.0, 2 / 60)))
        assert made is not None
        spots = {spot.point.name: spot for spot in made.spots}
        self.assertLess(spots["1"].y, spots["0"].y)
        self.assertGreater(spots["2"].x, spots["0"].x)
        up, right = spots["0"].y - spots["1"].y, spots["2"].x - spots["0"].x
        self.assertAlmostEqual(up, right, delta=0.01 * up)
        metres = {"km": 1000.0, "m": 1.0}[made.bar_words.split()[1]] * float(
            made.bar_words.split()[0]
        )
        self.assertAlmostEqual(made.bar / metres, up / 1853.2, delta=0.001)

    def test_points_in_one_place(self) -> None:
        """Their labels stand one under the other, all inside."""
        made = map_of(self.at(*[(57.0, -14.0)] * 4))
        assert made is not None
        labels = [spot.label_y for spot in made.spots]
        self.assertTrue(all(b - a >= 14 for a, b in pairwise(labels)))

    def test_no_map_of_one_point(self) -> None:
        """And those without coordinates are counted."""
        self.assertIsNone(map_of([*self.at((57.0, -14.0)), (Point(name="none"), None)]))
        made = map_of([*self.at((57.0, -14.0), (57.1, -14.0)), (Point(name="none"), None)])
        assert made is not None
        self.assertEqual(made.without, 1)

    def test_it_leads_the_list_of_points(self) -> None:
        """Where coordinates are known."""
        self.client.force_login(self.room.people["viewer"])
        self.assertNotContains(self.client.get(self.room.url("waters/")), "Map of")
        change_point(self.room.point, None, latitude=57.5, longitude=-14.25)
        change_point(self.room.other, None, latitude=57.6, longitude=-14.25)
        self.assertContains(self.client.get(self.room.url("waters/")), "Map of 2 points, north up")
