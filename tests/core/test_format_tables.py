"""Tables that fall, tables with columns, and lots that bring their own."""

import unittest
from decimal import Decimal

from kessa_core.judging.context import PointContext
from kessa_core.methods import load, shipped
from kessa_core.methods.catalogue import shipped_text
from kessa_core.methods.load import InvalidDocument
from kessa_core.readings.lots import Lot, Lots
from kessa_core.readings.reading import Reading
from kessa_core.runs import fold
from kessa_core.sheets import compile_sheet
from tests.builders.documents import changed
from tests.builders.runs import Taps, outcome_of

HALF_CM = 0.5
SIX = '{read: "6.0", value: "113"}'
COLUMNS = """      rows:
        - {read: "5.0", values: ["150", "130"]}
        - {read: "10.0", values: ["70", "60"]}
        - {read: "20.0", values: ["30", "25"]}
      across: {title: Temperature, unit: °C, at: ["15", "25"]}
"""


def depth(cm: float) -> Reading:
    return Reading(round(cm / HALF_CM))


def crossed() -> str:
    """The sulphate document with a table for 15 and one for 25 °C."""
    text = shipped_text("sulphate-depth")
    rows = text[text.index("      rows:") : text.index("    influences:")]
    text = text.replace(rows, COLUMNS)
    read = "      - id: pour\n"
    more = (
        "      - {id: degrees, kind: read, slot: across, picture: thermometer, "
        "title: Read the temperature in °C}\n"
    )
    return text.replace(read, more + read)


class Falling(unittest.TestCase):
    def setUp(self) -> None:
        self.method = shipped("sulphate-depth")
        self.reader = self.method.stages[0].reader()

    def test_straight_between_rows(self) -> None:
        """10 cm is 60, 8 cm 80, 9 cm halfway between."""
        for cm, value in ((10, 60), (8, 80), (9, 70), (25, 20), (3, 260)):
            self.assertEqual(self.reader.number(depth(cm)), Decimal(value), cm)

    def test_a_shorter_depth_is_more_and_intervals_follow(self) -> None:
        """The interval of 5 cm lies above that of 15 cm, and each holds its figure."""
        short, long = (self.reader.value([depth(cm)] * 2, [depth(cm)] * 2) for cm in (5, 15))
        self.assertGreater(short.interval.low, long.interval.high)
        for value in (short, long):
            self.assertTrue(value.interval.holds(value.number))

    def test_past_both_ends(self) -> None:
        """Gone before the lowest mark: more than 260; still seen when full: less than 20."""
        taps = Taps(self.method).read(">")
        outcome = outcome_of(self.method, fold(self.method, taps.events))
        self.assertEqual((outcome.finish, outcome.value.qualifier), ("beyond", ">"))
        self.assertEqual(outcome.value.figure, "> 260")
        self.assertIsNone(outcome.value.interval.high)
        clear = outcome_of(self.method, fold(self.method, Taps(self.method).read("<").events))
        self.assertEqual(clear.value.figure, "< 20")
        self.assertIn("above 25.0", clear.working)

    def test_a_low_truth_is_read_below(self) -> None:
        """What the model shows of 12 mg/L is the full tube."""
        place = float(self.reader.model.scale_position(12.0))
        self.assertEqual(self.reader.seen_at(place).kind, "below")

    def test_the_sheet_counts_from_the_clear_end(self) -> None:
        """Rows by half steps; ">" at the foot of the scale and "<" at its top."""
        stage = compile_sheet(self.method, PointContext())["stages"][0]
        scale = stage["slots"]["reading"]
        self.assertEqual((scale["overAt"], scale["underAt"]), (scale["low"], scale["high"]))
        self.assertEqual(stage["weights"], {"reading": -2})
        self.assertEqual((stage["list"][0], stage["list"][-1]), ("20", "260"))

    def test_a_lots_table_may_turn_it_round(self) -> None:
        """A rising table of a lot takes the place of the falling one."""
        lots = Lots((Lot("barium powder", "B-7", ((3.0, 10.0), (10.0, 60.0), (25.0, 200.0))),))
        reader = self.method.stages[0].reader(lots)
        self.assertFalse(reader.falls)
        self.assertEqual(reader.number(depth(10)), 60)
        self.assertIn("lot B-7", reader.whose)

    def test_rows_that_turn_back_are_refused(self) -> None:
        """A table rises or falls; one that does both is read two ways."""
        with self.assertRaisesRegex(InvalidDocument, "must rise, or fall, from row to row"):
            changed("sulphate-depth", (SIX, '{read: "6.0", value: "150"}'))
        with self.assertRaisesRegex(InvalidDocument, "must rise in what is read"):
            changed("sulphate-depth", (SIX, '{read: "5.0", value: "113"}'))
        with self.assertRaisesRegex(InvalidDocument, "lie outside the scale"):
            changed("sulphate-depth", ('high: "25.0"', 'high: "20.0"'))

    def test_the_fluoride_display_falls(self) -> None:
        """0.560 A is 1.00; 0.5325, halfway to 0.505, is 1.125."""
        reader = shipped("fluoride-photometer").stages[0].reader()
        self.assertEqual(reader.number(Reading(560)), 1)
        self.assertAlmostEqual(float(reader.number(Reading(532))), 1.127, places=3)


class Columns(unittest.TestCase):
    def setUp(self) -> None:
        self.method = load(crossed())
        self.reader = self.method.stages[0].reader()

    def seen(self, cm: float, degrees: int) -> Reading:
        return Reading(round(cm / HALF_CM), beside=(("across", degrees),))

    def test_between_columns(self) -> None:
        """10 cm: 70 at 15 °C, 60 at 25 °C, 65 at 20 °C."""
        for degrees, value in ((15, 70), (25, 60), (20, 65)):
            self.assertAlmostEqual(
                float(self.reader.number(self.seen(10, degrees))), value, places=6
            )

    def test_the_interval_belongs_to_the_column(self) -> None:
        """The same depth read colder is more, interval and all."""
        cold, warm = (
            self.reader.value([self.seen(10, c)] * 2, [self.seen(10, c)] * 2) for c in (15, 25)
        )
        for value in (cold, warm):
            self.assertTrue(value.interval.holds(value.number))
        self.assertGreater(cold.interval.low, warm.interval.low)
        self.assertGreater(cold.interval.high, warm.interval.high)

    def test_run_and_said(self) -> None:
        """Temperature first, then the depth; both stand in the working."""
        taps = Taps(self.method).read("20", "10.0").read("20", "10.0")
        outcome = outcome_of(self.method, fold(self.method, taps.events))
        self.assertEqual(outcome.value.text, "65 mg/L as SO₄")
        self.assertIn("10.0 cm at 20 °C", outcome.working)
        self.assertEqual(compile_sheet(self.method, PointContext())["stages"][0]["weights"], {})

    def test_columns_have_a_figure_each(self) -> None:
        """A row without one of them is named."""
        for new in ('values: ["70"]', 'value: "70"'):
            with self.assertRaisesRegex(InvalidDocument, "the row at 10.0 needs values with 2"):
                load(crossed().replace('values: ["70", "60"]', new))
        with self.assertRaisesRegex(InvalidDocument, "at must rise"):
            load(crossed().replace('at: ["15", "25"]', 'at: ["25", "15"]'))
