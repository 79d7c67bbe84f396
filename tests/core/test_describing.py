"""What a method looks like before it is done: clocks, range, what to lay out, its data sheet."""

import unittest
from itertools import pairwise

from kessa_core.describing import data_sheet, lay_out, span_of, timeline
from kessa_core.describing.acts import acts_of
from kessa_core.describing.timeline import wait_words
from kessa_core.finding import facts_of
from kessa_core.methods import shipped, shipped_ids
from kessa_core.methods.steps import Wait
from tests.builders.runs import begun


class Acts(unittest.TestCase):
    def test_readings_as_people_say_them(self) -> None:
        """The page sends the place of a shade; a list says its value, as the result does."""
        for key, raw, words in (
            ("oxygen-ampoule", "16", "read 12 mg/L"),
            ("oxygen-ampoule", "0", "read 1 mg/L"),
            ("ph-meter", "8.13", "read 8.13 pH"),
        ):
            taps = begun(key).read(raw)
            with self.subTest(key, raw=raw):
                said = [one["said"] for one in acts_of(taps.events, shipped(key))]
                self.assertTrue(any(line.endswith(words) for line in said), said)


class Timeline(unittest.TestCase):
    def test_hands_and_waits_in_order(self) -> None:
        """Shaking for three minutes keeps the hands busy; then 30 s and ten minutes of waiting."""
        pieces = timeline(shipped("nitrate-ampoule"))
        self.assertEqual(
            [(one.kind, one.seconds) for one in pieces if one.kind != "hands"],
            [("attended", 180), ("wait", 30), ("wait", 600)],
        )
        self.assertEqual(pieces[0].kind, "hands")
        self.assertFalse(any(a.kind == b.kind == "hands" for a, b in pairwise(pieces)))

    def test_every_second_of_a_test_is_on_the_line(self) -> None:
        """As many seconds as the library says that a method takes, for every shipped one."""
        for key in shipped_ids():
            method = shipped(key)
            with self.subTest(method=key):
                told = sum(one.seconds for one in timeline(method))
                self.assertEqual(told, facts_of(method).seconds)

    def test_how_a_wait_is_said(self) -> None:
        for wait, words in (
            ({"rule": "exactly", "seconds": 600}, "exactly 10 min"),
            ({"rule": "at-least", "seconds": 30}, "at least 30 s"),
            ({"rule": "at-most", "seconds": 120}, "at most 2 min"),
            ({"rule": "between", "seconds": 86400, "to_seconds": 100800}, "24 h to 28 h"),
            (
                {
                    "rule": "at-least",
                    "seconds": 86400,
                    "temperature_c": {"low": "34.5", "high": "35.5"},
                },
                "at least 24 h at 34.5 to 35.5 °C",
            ),
            ({"rule": "until", "until": "it is clear"}, "until it is clear"),
            ({"rule": "typed"}, "as long as the instrument shows"),
        ):
            with self.subTest(words=words):
                self.assertEqual(wait_words(Wait(**wait)), words)


class Spans(unittest.TestCase):
    def test_ends_and_step(self) -> None:
        """15 mL of chloride: 24 drops of 8.3, each read in the middle of its step."""
        span = span_of(shipped("chloride-drops-15ml").stages[0])
        self.assertEqual((span.step, span.unit), ("8.3", "mg/L as Cl"))
        self.assertEqual(len(span.steps), 24)
        self.assertEqual((span.steps[0], span.steps[-1]), (0.0, 1.0))

    def test_what_has_no_line(self) -> None:
        """Present or absent, and degrees that are seen, have no scale to draw."""
        self.assertIsNone(span_of(shipped("coliforms").stages[0]))

    def test_every_mark_lies_in_its_own_range_on_the_line(self) -> None:
        """Shares from 0 to 1, the range around the value, up from mark to mark."""
        for key in shipped_ids():
            for stage in shipped(key).stages:
                span = span_of(stage)
                if span is None:
                    continue
                with self.subTest(method=key, stage=stage.id):
                    places = [one.share for one in span.marks]
                    self.assertTrue(all(0 <= one.low <= one.high <= 1 for one in span.marks))
                    self.assertTrue(all(0 <= share <= 1 for share in places))
                    self.assertIn(places, (sorted(places), sorted(places, reverse=True)))


class LayOut(unittest.TestCase):
    def test_everything_within_reach(self) -> None:
        found = lay_out(shipped("chloride-drops-15ml"))
        self.assertEqual(found.glass, ("titration flask, 30 mL",))
        self.assertEqual(
            found.reagents, (("silver nitrate", "24 drops"), ("chromate indicator", "6 drops"))
        )
        self.assertIn("goggles", found.worn)
        self.assertIn("a clock", lay_out(shipped("nitrate-ampoule")).equipment)
        self.assertIn("pocket pH meter", lay_out(shipped("ph-meter")).equipment)


class DataSheet(unittest.TestCase):
    def headings(self, key: str) -> list[str]:
        return [block.heading for block in data_sheet(shipped(key))]

    def test_two_colours_stand_flask_by_flask(self) -> None:
        self.assertEqual(
            self.headings("alkalinity-drops")[1:5],
            ["P alkalinity: first measurement", "M alkalinity: first measurement",
             "P alkalinity: second measurement", "M alkalinity: second measurement"],
        )  # fmt: skip

    def test_what_is_written_at_each(self) -> None:
        """Boxes for answers, times for clocks, a line for a reading in its own unit."""
        blocks = {block.heading: block for block in data_sheet(shipped("phosphate-photometer"))}
        standard, sample = blocks["Standard"], blocks["First measurement"]
        self.assertTrue(any(entry.fields == ("from", "to") for entry in sample.entries))
        self.assertEqual(standard.entries[-1].fields, ("mg/L",))
        self.assertTrue(any(entry.boxes for block in blocks.values() for entry in block.entries))

    def test_every_result_of_every_method_has_its_line(self) -> None:
        """Differences too, and everything that is read has a place to write it."""
        for key in shipped_ids():
            method = shipped(key)
            blocks = data_sheet(method)
            read = sum(
                step.kind in ("read", "count")
                for stage in method.stages
                for step in stage.steps_for("sample")
            )
            written = sum(
                entry.fields not in ((), ("from", "to"))
                for block in blocks[:-1]
                for entry in block.entries
            )
            with self.subTest(method=key):
                self.assertEqual(len(blocks[-1].entries), len(method.quantities))
                self.assertGreaterEqual(written, read)
