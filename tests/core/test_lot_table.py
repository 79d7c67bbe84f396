"""The leaflet's table, as people copy it."""

import unittest

from kessa_core.methods import shipped
from kessa_core.readings.lot_table import BadTable, read_table


class LotTable(unittest.TestCase):
    def test_rows_as_people_write_them(self) -> None:
        """Spaces, semicolons, commas for points, empty lines."""
        text = "1,0 ; 20\n\n2.4   31\n3.0=40.5\n"
        self.assertEqual(read_table(text), (("1.0", "20"), ("2.4", "31"), ("3.0", "40.5")))
        self.assertEqual(read_table("  \n"), ())

    def test_what_is_wrong_is_named(self) -> None:
        """The line, and why."""
        for text, said in (
            ("1 20\nabout 3\n4 5", "Line 2 is no row"),
            ("1 20\n1 30\n2 40", "Line 2 does not rise"),
            ("1 20\n2 10\n3 40", "Line 2 does not rise"),
            ("1 20\n2 30", "has 3 to 80 rows; this one has 2"),
        ):
            with self.subTest(text=text), self.assertRaisesRegex(BadTable, said):
                read_table(text)


class Raw(unittest.TestCase):
    def test_what_a_person_writes_becomes_what_acts_carry(self) -> None:
        """Names, units, ranges."""
        for method, slot, text, raw in (
            ("nitrate-comparator", "reading", " Between 2.0 and  3.0", "7"),
            ("hardness-burette", "end", "12.90 mL", "12.90"),
            ("conductivity-meter", "reading", "12.40 mS/cm", "12.40|mS/cm"),
            ("conductivity-meter", "reading", "846 µS/cm", "846|µS/cm"),
            ("algae-cover", "reading", "patches", "2"),
            ("algae-cover", "reading", "purple", "purple"),
        ):
            with self.subTest(text=text):
                scale = shipped(method).stages[0].reader().scale(slot)
                self.assertEqual(scale.raw(text), raw)
