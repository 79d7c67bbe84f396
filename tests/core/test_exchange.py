"""Points as GeoJSON and CSV: out and in the same, and what is wrong said by line."""

import json
import unittest

from hypothesis import given
from hypothesis import strategies as st

from kessa_core.errors import CoreError
from kessa_core.exchange import PlannedPoint, as_csv, as_geojson, read_points

KINDS, PARTS = ("stream", "boiler"), ("feed", "boiler")
TEXT = st.text(
    st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Zl", "Zp")), max_size=40
)
NAME = TEXT.map(str.strip).filter(bool)
POINTS = st.builds(
    PlannedPoint,
    water=NAME,
    kind=st.sampled_from(KINDS),
    name=NAME,
    place=TEXT.map(str.strip),
    part=st.sampled_from(("", *PARTS)),
    latitude=st.floats(-90, 90),
    longitude=st.floats(-180, 180),
    altitude_m=st.one_of(st.none(), st.integers(-430, 6000)),
    tag=TEXT.map(str.strip),
)


class OutAndIn(unittest.TestCase):
    @given(st.lists(POINTS, min_size=1, max_size=5))
    def test_the_same_both_ways(self, points: list[PlannedPoint]) -> None:
        """Every text, every number, in both formats."""
        self.assertEqual(read_points(as_geojson(points), KINDS, PARTS), points)
        self.assertEqual(read_points(as_csv(points), KINDS, PARTS), points)

    def test_a_point_without_a_place_on_the_map(self) -> None:
        """No geometry, as the format asks, and back without coordinates."""
        bare = PlannedPoint("Beck", "stream", "ford")
        (feature,) = json.loads(as_geojson([bare]))["features"]
        self.assertIsNone(feature["geometry"])
        self.assertEqual(read_points(as_geojson([bare]), KINDS, PARTS), [bare])

    def test_longitude_comes_first_in_geojson(self) -> None:
        """As RFC 7946 has it."""
        text = as_geojson([PlannedPoint("Beck", "stream", "ford", latitude=57.5, longitude=-14.25)])
        self.assertEqual(json.loads(text)["features"][0]["geometry"]["coordinates"], [-14.25, 57.5])

    def test_a_spreadsheet_of_another_country(self) -> None:
        """Semicolons, decimal commas, a byte order mark, columns in any order, empty lines."""
        text = "\ufeffName;Water;Latitude;Longitude\r\nford;Beck;57,5;-14,25\r\n;;;\r\n"
        (point,) = read_points(text, KINDS, PARTS)
        self.assertEqual((point.water, point.latitude, point.longitude), ("Beck", 57.5, -14.25))
        self.assertEqual(point.kind, "stream")

    def test_what_is_wrong_is_said_by_line(self) -> None:
        """Where, what, and what to do."""
        head = "water,name,kind,part,latitude,longitude,altitude_m\n"
        for text, said in (
            ("", "no line"),
            (head, "no point"),
            ("name,place\nford,oak\n", "Line 1: there is no column water"),
            (head + "Beck,ford\nBeck,\n", "Line 3: name is empty"),
            (head + "Beck,ford,river\n", "Line 2: kind cannot be “river”. One of: stream, boiler."),
            (head + "Beck,ford,,tail\n", "Line 2: part cannot be “tail”"),
            (head + "Beck,ford,,,91,0\n", "Line 2: latitude lies between -90 and 90"),
            (head + "Beck,ford,,,57,\n", "Line 2: latitude and longitude belong together"),
            (head + "Beck,ford,,,north,0\n", "Line 2: latitude is no number: “north”"),
            (head + "Beck,ford,,,nan,0\n", "Line 2: latitude lies between"),
            (head + f"Beck,{'x' * 81}\n", "Line 2: name is longer than 80 characters"),
            ("{", "This is no JSON"),
            ("{}", "There are no features"),
            ('{"features": [1]}', "Feature 1 has no properties"),
            ('{"features": []}', "no point"),
            (
                '{"features": [{"properties": {"water": "B", "name": "f"}, '
                '"geometry": {"type": "LineString", "coordinates": [[0, 1], [2, 3]]}}]}',
                "Feature 1: its geometry is no point",
            ),
            (head + "Beck,ford\n" * 2001, "The file has 2001 points"),
        ):
            with self.subTest(said), self.assertRaises(CoreError) as caught:
                read_points(text, KINDS, PARTS)
            self.assertIn(said, str(caught.exception))

    @given(st.text(max_size=200))
    def test_nonsense_is_refused_in_words(self, text: str) -> None:
        """Never another error."""
        for beginning in ("", "water,name\n", '{"features": ['):
            try:
                read_points(beginning + text, KINDS, PARTS)
            except CoreError as error:
                self.assertTrue(str(error))
