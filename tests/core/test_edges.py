"""Numbers at the edges: where a scale, a unit, a bound or a repeat could mislead."""

import unittest
from math import log10

from kessa_core.errors import NoConversion
from kessa_core.methods import shipped, shipped_ids
from kessa_core.quantities import Interval, Quantity, Value
from kessa_core.readings.reading import Reading
from kessa_core.readings.scale import InvalidReading
from kessa_core.runs import fold
from tests.builders.documents import changed
from tests.builders.runs import begun, outcomes


class Ends(unittest.TestCase):
    def test_every_scale_begins_where_its_parameter_does(self) -> None:
        """The very foot of every scale leaves an interval that holds the least that exists."""
        for name in shipped_ids():
            for stage in shipped(name).stages:
                reader = stage.reader()
                if reader.counts or reader.by == "elsewhere":
                    continue
                scale = reader.scale(reader.reading_fields[-1])
                seen = reader.seen_at(reader.model.ends[0])
                with self.subTest(method=name, stage=stage.id):
                    value = reader.value([seen], [seen])
                    least = float(reader.model.value_at(reader.model.ends[0]))
                    self.assertTrue(value.interval.holds(least), value)
                    if seen.kind == "plain" and reader.by != "presence":
                        self.assertLess(value.interval.low, value.interval.high)
                    self.assertGreater(scale.high, scale.low)

    def test_a_clear_colorimeter_reads_nothing_or_little(self) -> None:
        """100 % T: 0 mg/L and an interval from 0; 99 % T: (2 − log 99) / 0.0120."""
        reader = shipped("nitrite-colorimeter").stages[0].reader()
        clear = reader.value([Reading(100)], [Reading(100)])
        self.assertEqual((clear.number, clear.interval.low), (0.0, 0.0))
        self.assertLess(clear.interval.high, 1.0)
        hazy = reader.value([Reading(99)], [Reading(99)])
        self.assertAlmostEqual(hazy.number, (2 - log10(99)) / 0.0120, 6)

    def test_darker_than_the_darkest_is_a_bound_at_the_dark_end(self) -> None:
        """ ">" alone stands for the lowest % T, never for the clear end."""
        reader = shipped("nitrite-colorimeter").stages[0].reader()
        self.assertEqual(reader.scale("reading").parse(">"), (10, "beyond"))
        bound = reader.value([Reading(10, "beyond")], [Reading(10, "beyond")])
        self.assertAlmostEqual(bound.number, 1 / 0.0120, 6)
        self.assertGreater(bound.interval.low, 70)

    def test_nothing_lies_below_what_can_exist(self) -> None:
        """A display below its line's intercept reports 0, with a range from 0 that has a width."""
        reader = shipped("iron-photometer").stages[0].reader()
        for n in (0, 2, 4):
            value = reader.value([Reading(n), Reading(n)], [Reading(n), Reading(n)])
            with self.subTest(n=n):
                self.assertEqual((value.number, value.interval.low), (0.0, 0.0))
                self.assertGreater(value.interval.high, 0.005)

    def test_below_the_first_row_of_a_strip(self) -> None:
        """A column that stays under its first row is a bound, not 0 mg/L."""
        taps = begun("chloride-strip-height").read("<")
        self.assertEqual(outcomes(taps)[0].value.text, "< 28 mg/L as Cl")
        with self.assertRaises(InvalidReading):
            shipped("chloride-strip-height").stages[0].reader().scale("reading").parse("0.4")


class Units(unittest.TestCase):
    def test_degrees_fahrenheit(self) -> None:
        """20.0 °C is 68 °F, its bounds move with it, a width only stretches; and back."""
        kept = Value(
            Quantity("temperature", "water", "", "°C"), 20.0, 1, Interval(19.0, 21.0),
            one_sided=Interval(19.2, 20.8),
        )  # fmt: skip
        warm = kept.converted(unit="°F")
        self.assertAlmostEqual(warm.number, 68.0)
        for got, expected in (
            (warm.interval.low, 66.2), (warm.interval.high, 69.8), (warm.one_sided.low, 66.56),
        ):  # fmt: skip
            self.assertAlmostEqual(got, expected, 6)
        back = warm.converted(unit="°C")
        self.assertAlmostEqual(back.number, 20.0)
        self.assertAlmostEqual(back.interval.high, 21.0)

    def test_a_thermometer_in_fahrenheit(self) -> None:
        """A document, a reading and a limit in °F: 68 °F meets a maximum of 20.5 °C."""
        method = changed(
            "thermometer", ("unit: °C, decimals: 1", "unit: °F, decimals: 0"),
            ('low: "-10"', 'low: "14"'), ('high: "50"', 'high: "122"'), ('"0.5"', '"1"'),
        )  # fmt: skip
        value = outcomes(begun(method).read("68"))[0].value
        self.assertEqual(value.text, "68 °F")
        self.assertAlmostEqual(value.converted(unit="°C").number, 20.0)

    def test_hardness_and_acid_capacity_have_units_of_their_own(self) -> None:
        """100.09 mg/L as CaCO3 are 1 mmol/L of hardness and 2 of acid capacity, 5.608 °dH."""
        for parameter, form, unit, expected in (
            ("hardness", "total", "mmol/L", 1.0), ("alkalinity", "m", "mmol/L", 2.0),
            ("hardness", "total", "°dH", 5.6077), ("hardness", "total", "°fH", 10.0087),
            ("hardness", "total", "gpg", 5.8469), ("alkalinity", "m", "ppm", 100.087),
        ):  # fmt: skip
            value = Value(Quantity(parameter, form, "CaCO3", "mg/L"), 100.087, 0, Interval(90, 110))
            with self.subTest(parameter=parameter, unit=unit):
                self.assertAlmostEqual(value.converted(unit=unit).number, expected, 3)
        self.assertEqual(Quantity("hardness", "total", "CaCO3", "°dH").label, "°dH")

    def test_different_things_are_never_converted(self) -> None:
        """NTU, FNU and JTU; a hardness unit for chloride."""
        cloudy = Value(Quantity("turbidity", "total", "", "NTU"), 5, 1, Interval(4, 6))
        salt = Value(Quantity("chloride", "total", "Cl", "mg/L"), 50, 0, Interval(45, 55))
        for value, unit in ((cloudy, "FNU"), (cloudy, "JTU"), (salt, "°dH"), (salt, "µS/cm")):
            with self.subTest(unit=unit), self.assertRaises(NoConversion):
                value.converted(unit=unit)


class Repeats(unittest.TestCase):
    def test_near_zero_two_readings_agree_within_the_scatter(self) -> None:
        """0.01 and 0.03 mg/L differ by 100 %, and by two digits."""
        taps = begun("iron-photometer")
        for raw, who in (("0.004", "blank"), ("0.006", "sample"), ("0.010", "sample")):
            taps.read(raw, who=who)
        state = fold(taps.method, taps.events)
        self.assertEqual(state.place.step, taps.stage.steps_for("spike")[0].id)
        exact = changed(
            "iron-photometer", ("relative_percent: 10", "relative_percent: 10, floor_steps: 0")
        )
        taps = begun(exact)
        for raw, who in (("0.004", "blank"), ("0.006", "sample"), ("0.010", "sample")):
            taps.read(raw, who=who)
        self.assertEqual(fold(exact, taps.events).determinations[-1].role, "third")

    def test_a_spike_is_held_against_what_is_reported(self) -> None:
        """0.20, 0.40, 0.21: the odd one is in neither; added, found and recovered are said."""
        taps = begun("iron-photometer").read("0.004", who="blank")
        for raw in ("0.202", "0.400", "0.204"):
            taps.read(raw)
        outcome = outcomes(taps.read("0.399", who="spike"))[0]
        plain = ((0.202 + 0.204) / 2 - 0.004) / 0.198
        percent = 100 * ((0.399 - 0.004) / 0.198 - plain)
        self.assertIn(f"{percent:.1f} %, inside", outcome.checks[0])
        for word in ("1.00 added to 1.01", "1.99 found", "0.99 recovered"):
            self.assertIn(word, outcome.checks[0])


class Working(unittest.TestCase):
    def test_a_line_shows_what_was_done_or_is_not_there(self) -> None:
        """One figure as shown needs none; a mean names what it is of; degrees are words."""
        for method, raws, line in (
            ("thermometer", ("6.0",), ""),
            ("ph-meter", ("7.42", "7.40", "7.50"), "mean of 7.42, 7.40, 7.50 pH = 7.4 pH"),
            ("disc-on-rope", ("2.35", "2.25"), "mean of 2.35 m down, 2.25 m up = 2.30 m"),
            ("loop-clarity", ("1",), ""),
        ):
            with self.subTest(method=method):
                self.assertEqual(outcomes(begun(method).read(*raws))[0].working, line)

    def test_degrees_have_words_for_their_range(self) -> None:
        """ "blurred", and "sharp to gone" instead of 0–2."""
        value = outcomes(begun("loop-clarity").read("1"))[0].value
        self.assertEqual(value.text, "blurred")
        self.assertRegex(value.range_text, "^(sharp to |blurred)")
        self.assertNotRegex(value.range_text, r"\d")
