"""What every principle makes of a reading at its ends, and of what lies between two steps."""

import math
import unittest
from dataclasses import replace
from decimal import Decimal

import numpy as np
import yaml

from kessa_core.influences.intervals import two_sided
from kessa_core.influences.part import ScaledUncertainties
from kessa_core.methods import load, shipped, shipped_ids
from kessa_core.methods.catalogue import shipped_text
from kessa_core.quality.budget import budget
from kessa_core.readings.counting import CountModel
from kessa_core.readings.lots import Lot, Lots
from kessa_core.readings.reading import Count, Reading, edges
from kessa_core.readings.scale import Scale
from kessa_core.runs import conclude, fold
from kessa_core.runs.joint import SHIFTS, _alike_shifted
from tests.builders.documents import is_refused
from tests.builders.runs import Taps


class Readings(unittest.TestCase):
    def test_half_steps_are_the_sum_that_the_page_makes(self) -> None:
        """One more step of a slot adds what weights() says, for every shipped reading."""
        for method_id in shipped_ids():
            for stage in shipped(method_id).stages:
                reader = stage.reader()
                weights, last = reader.weights(), reader.reading_fields[-1] if reader.slots else ""
                if last not in weights or reader.counts:
                    continue
                scale = reader.scale(last)
                n = (scale.low + scale.high) // 2
                beside = tuple(
                    (slot, reader.scale(slot).low) for slot in reader.reading_fields[:-1]
                )
                steps = [reader.half_steps(Reading(n + more, beside=beside)) for more in (0, 1)]
                with self.subTest(method_id, stage=stage.id):
                    self.assertEqual(steps[1] - steps[0], weights[last])

    def test_none_is_absent_where_no_method_says_so(self) -> None:
        """A photometer knows no word for it; tablets do."""
        self.assertEqual(shipped("phosphate-photometer").stages[0].reader().absent_below, "")
        self.assertNotEqual(shipped("hardness-tablets").stages[0].reader().absent_below, "")

    def test_both_ends_in_sight_is_the_whole_domain(self) -> None:
        """Where either end may be the truth, nothing is left out."""
        grid, flat = np.linspace(0, 4, 81), np.ones(81)
        self.assertEqual(two_sided(grid, flat, True, True), (0.0, 4.0))
        for flags, expected in (
            ((False, False), (0.1, 3.9)), ((True, False), (0.0, 3.8)), ((False, True), (0.2, 4.0)),
        ):  # fmt: skip
            for got, wanted in zip(two_sided(grid, flat, *flags), expected, strict=True):
                self.assertAlmostEqual(got, wanted)

    def test_drops_and_their_worth(self) -> None:
        """Seven drops print (7 − ½) × 8.3; on the scale they stand for seven exact factors."""
        reader = shipped("chloride-drops-15ml").stages[0].reader()
        self.assertEqual(reader.number(Count(7)), Decimal("6.5") * Decimal("8.3"))
        self.assertAlmostEqual(reader.at(14), 7 * 0.0702 * 0.05 * 35.45 * 1000 / 15)

    def test_values_that_stand_for_a_count(self) -> None:
        """Nothing in common: they spread as the interval does; all in common: less."""
        reader = shipped("chloride-drops-15ml").stages[0].reader()
        model, seen = reader.counting, [Count(20)]
        wide = model.interval(seen)
        alone = np.quantile(model.given(seen, 0.0, 0.0, 4000, 0.0), (0.025, 0.975))
        self.assertAlmostEqual(alone[1] - alone[0], wide.high - wide.low, delta=2.0)
        shared = model.spread.shared_relative()
        known = np.quantile(model.given(seen, 0.0, shared, 4000, 0.0), (0.025, 0.975))
        self.assertLess(known[1] - known[0], 0.8 * (alone[1] - alone[0]))

    def test_half_a_percent_of_light(self) -> None:
        """A = 2 − log10 T, down to a thousandth of a percent."""
        told = yaml.safe_load(shipped_text("nitrite-colorimeter"))
        told["stages"][0]["reading"]["decimals"] = 1
        reader = load(yaml.safe_dump(told, allow_unicode=True)).stages[0].reader()
        a, b = reader.line
        for percent in (0.5, 0.1, 12.0):
            place = reader.main.high - percent * 10
            self.assertAlmostEqual(reader.curve(place), (2 - math.log10(percent) - a) / b)

    def test_a_difference_says_what_it_is(self) -> None:
        """Beside the words of how each stage was read."""
        method = shipped("chlorine-photometer")
        taps = Taps(method).before().read("0.34").on_to(1).read("0.62")
        made = conclude(method, fold(method, taps.events))
        self.assertEqual(
            [one.value.how for one in made], ["photometer", "photometer", "difference"]
        )

    def test_the_bound_of_a_count_by_hand(self) -> None:
        """Nothing shared: the maximum less 1.645 sd of the eye; two asked: less 1.955 sd."""
        for asked, z in ((1, 1.6449), (2, 1.9545)):
            model = CountModel(2.0, 24, ScaledUncertainties(steps=0.5), asked=asked)
            found = model.interval([Count(24, "beyond")])
            self.assertAlmostEqual(found.low, 2 * (24 - z * 0.5), delta=0.04)
            self.assertIsNone(found.high)

    def test_a_budget_of_a_diluted_sample(self) -> None:
        """Widths grow with the factor, parts do not."""
        reader = shipped("chloride-drops-15ml").stages[0].reader()
        one = budget(reader, [Count(7)], [Count(1)])
        ten = one.scaled(10)
        self.assertEqual((ten.width, ten.parts), (10 * one.width, one.parts))
        self.assertTrue(one.narrowers)
        for small, large in zip(one.narrowers, ten.narrowers, strict=True):
            self.assertEqual(large.width, 10 * small.width)

    def test_a_line_of_one_reading_has_no_mean(self) -> None:
        """And no word that stands for none."""
        method = shipped("alkalinity-titrator")
        made = conclude(method, fold(method, Taps(method).before().read("131").events))
        self.assertNotIn("mean", made[0].working)
        self.assertTrue(made[0].working.startswith("131"), made[0].working)

    def test_marks_of_a_tube_may_begin_at_one(self) -> None:
        """Above nought is enough."""
        told = yaml.safe_load(shipped_text("sight-tube"))
        marks = told["stages"][0]["reading"]["marks"]
        for first, refused in (("1", False), ("0", True)):
            told["stages"][0]["reading"]["marks"] = [first, *marks[1:]]
            with self.subTest(first=first):
                self.assertEqual(is_refused(told), refused)

    def test_places_between_steps_and_below_them(self) -> None:
        """A third of a step in two decimals more; the finest range up to its very end; a count's
        own slot; below the first shade it is the first."""
        self.assertEqual(Scale("", 0, 10).say(1 / 3), "0.33")
        meter = shipped("conductivity-meter").stages[0].reader()
        end = meter.main.ranges[0].high
        self.assertEqual(meter.edges(Reading(end)), (end - 0.5, end + 0.5))
        self.assertEqual(shipped("chloride-drops-15ml").stages[0].reader().scale("").slot, "count")
        shades = shipped("nitrate-comparator").stages[0].reader()
        self.assertIn(shades.seen_at(-5.0), (Reading(0), Reading(0, "below")))

    def test_a_tube_in_words(self) -> None:
        """Past its last mark, still seen, at a mark."""
        reader = shipped("sight-tube").stages[0].reader()
        self.assertEqual(reader.format_reading(Reading(12, "beyond")), "gone before the last mark")
        self.assertEqual(reader.format_reading(Reading(0, "below")), "still seen in the full tube")
        self.assertEqual(reader.format_reading(Reading(5)), "25 NTU")

    def test_counts_between_two_edges(self) -> None:
        """Beyond the maximum, first drop, sure, in doubt."""
        for seen, expected in (
            (Count(24, "beyond"), (24, math.inf)), (Count(1), (-math.inf, 1)),
            (Count(7), (6, 7)), (Count(7, "doubt"), (5, 7)), (Count(2, "doubt"), (-math.inf, 2)),
        ):  # fmt: skip
            self.assertEqual(edges(seen), expected)

    def test_a_bracket_at_a_shade_is_the_shade(self) -> None:
        """Between two: both; on one: that one twice."""
        reader = next(
            r for r in (s.reader() for s in shipped("strip-three-pads").stages)
            if r.part.rule == "bracket"
        )  # fmt: skip
        values = [float(v) for v in reader.values]
        self.assertEqual(reader.bracket(Reading(2)), (values[1], values[1]))
        self.assertEqual(reader.bracket(Reading(3)), (values[1], values[2]))

    def test_a_leaflet_that_begins_at_nothing(self) -> None:
        """Its first row stands where it says; without one, nothing reads nothing."""
        stage = shipped("chloride-strip-height").stages[0]
        for table, at_one in (
            (((0.0, 20.0), (2.0, 40.0), (4.0, 90.0)), 30.0),
            (((2.0, 40.0), (4.0, 90.0)), 20.0),
        ):
            reader = stage.reader(Lots((Lot("", "S-1", table),)))
            one = reader.scale("reading").parse("1.0")[0]
            self.assertAlmostEqual(reader.curve(one), at_one)

    def test_the_tube_between_its_marks(self) -> None:
        """Next higher: the gap below the mark; the full tube has half a gap below it."""
        reader = shipped("sight-tube").stages[0].reader()
        self.assertEqual(reader.edges(Reading(0)), (-0.5, 0.0))
        self.assertEqual(reader.edges(Reading(0, "below")), (-math.inf, 0.0))
        self.assertEqual(reader.edges(Reading(12, "beyond")), (12.0, math.inf))
        self.assertEqual(reader.edges(Reading(3)), (2.0, 3.0))

    def test_what_is_seen_outside_a_scale(self) -> None:
        """In the scale's own words; and the edges it leaves."""
        reader = shipped("phosphate-photometer").stages[0].reader()
        top = reader.main.high
        self.assertTrue(reader.format_reading(Reading(top, "beyond")).startswith("above "))
        lead = shipped("lead-laboratory").stages[0].reader()
        limit = lead.part.reporting_limit
        self.assertEqual(lead.format_reading(Reading(0, "below")), f"< {limit}")
        told = lead.format_reading(Reading(87, beside=(("uncertainty", 12),)))
        self.assertEqual(told, f"{lead.main.say(87)} ± {lead.main.say(12)}")

    def test_a_share_of_an_even_influence_stays_about_its_middle(self) -> None:
        """Half of 0.2 to 0.4 is 0.25 to 0.35."""
        reader = shipped("chloride-drops-15ml").stages[0].reader()
        changed = reader.with_scaled_source("colour-need", 0.5)
        need = next(i for i in changed.influences if i.of == "colour-need")
        self.assertEqual((round(need.low, 9), round(need.high, 9)), (0.1, 0.3))

    def test_what_the_colour_needs_is_drops_of_its_own(self) -> None:
        """At nothing it takes the need alone; the need stands on top of what the truth takes."""
        model = shipped("chloride-drops-15ml").stages[0].reader().counting
        self.assertAlmostEqual(model.needed(2 * model.factor, 2.0, 0.3), 1.3)
        self.assertEqual(model.needed(0.0, 1.0, 0.3), 0.3)
        self.assertAlmostEqual(model.needed(2 * model.factor, 1.0, 0.3), 2.3)

    def test_a_shared_need_is_placed_all_along(self) -> None:
        """From just above its low end to just below its high one, both sides alike."""
        reader = shipped("inhibitor-reserve").stages[0].reader()
        even = next(i for i in reader.influences if i.distribution == "uniform")
        moved = even.model_copy(update={"low": 0.2, "high": 0.4})
        others = tuple(moved if i is even else i for i in reader.influences)
        upper = replace(reader, influences=others)
        pairs = _alike_shifted(upper, upper)
        self.assertEqual(len(pairs), SHIFTS)
        for one, other in pairs:
            self.assertEqual(one.influences, other.influences)
        places = [next(i.low for i in p.influences if i.of == even.of) for p, _ in pairs]
        self.assertAlmostEqual(sum(places) / SHIFTS, 0.3)
        self.assertTrue(0.2 < places[0] < places[-1] < 0.4)
        self.assertEqual(_alike_shifted(reader, upper), [(reader, upper)])
