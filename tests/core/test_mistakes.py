"""Mistakes in documents of format 2: each is named, with its path and what to do."""

import unittest

from kessa_core.methods.catalogue import shipped_text
from kessa_core.methods.load import InvalidDocument, load

MISTAKES = (
    ("nitrate-comparator", "rule: half", "rule: halve", "Did you mean half"),
    ("nitrate-comparator", 'value: "0.5"', 'value: "9.5"', "shades must stand in rising order"),
    ("nitrate-comparator", "by: comparator", "by: comparater", "Did you mean comparator"),
    ("nitrate-comparator", "of: eye", "of: ear", "ear unknown here"),
    ("nitrate-comparator", "basis: N,", "basis: Cl,", "basis must be one of: N, NO3"),
    ("nitrate-comparator", "device: tube", "devise: tube", "Did you mean device"),
    ("nitrate-comparator", "slot: reading", "slot: start", "must read these slots in order"),
    ("nitrate-comparator", "format: kessa-method/2", "format: kessa-method/9", "format"),
    ("hardness-tablets", 'per_tablet: "15"', 'per_tablet: "-15"', "per_tablet"),
    ("hardness-burette", "starts:", "startz:", "Did you mean starts"),
    ("chlorine-photometer", "less: [total, free]", "less: [total, dioxide]",
     "less names two different stages"),
    ("chlorine-photometer", "less: [total, free]", "less: [total, total]",
     "less names two different stages"),
    ("conductivity-meter", 'compensated_to: "25"', 'compensated_to: "not-needed"',
     "compensated_to is given when"),
    ("iron-photometer", "shows: absorbance", "shows: concentration", "line is given when"),
    ("sight-tube", '"8", "10"', '"10", "8"', "marks must rise"),
    ("chloride-drops-15ml", 'factor: "8.3"', 'factor: "9.3"', "factor"),
)  # fmt: skip


class Mistakes(unittest.TestCase):
    def test_each_is_named(self) -> None:
        """The shipped document is in order; one wrong word is not."""
        for method, right, wrong, said in MISTAKES:
            with self.subTest(method=method, wrong=wrong):
                text = shipped_text(method)
                self.assertIn(right, text)
                load(text)
                with self.assertRaises(InvalidDocument) as caught:
                    load(text.replace(right, wrong))
                self.assertIn(said, str(caught.exception))
                self.assertRegex(str(caught.exception), r"line \d+")
