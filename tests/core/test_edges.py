"""Numbers at the edges: where a scale, a unit, a bound or a pair of readings could mislead."""

import unittest
from decimal import Decimal
from math import log10, sqrt

import numpy as np

from kessa_core.documents.load import BadDocument
from kessa_core.errors import NoConversion, NotANumber
from kessa_core.judging.limits import load_limits
from kessa_core.methods import Method, load, shipped, shipped_ids
from kessa_core.methods.shelf import shipped_text
from kessa_core.quality.calibration import calibration_line
from kessa_core.quantities import Interval, Quantity, Value
from kessa_core.readings.lots import DropSize, Lot, Lots
from kessa_core.readings.scale import OffScale
from kessa_core.readings.seen import Count, Seen
from kessa_core.runs import Outcome, conclude, fold
from kessa_core.runs.joint import common_sd
from tests.builders.runs import Taps


def begun(method: Method | str) -> Taps:
    """A run up to its first determination."""
    return Taps(shipped(method) if isinstance(method, str) else method).before()


def outcomes(taps: Taps, lots: Lots | None = None) -> tuple[Outcome, ...]:
    held = lots or Lots()
    return conclude(taps.method, fold(taps.method, taps.events, held), held)


def changed(method_id: str, *changes: tuple[str, str]) -> Method:
    """A shipped method with these texts replaced, each once."""
    text = shipped_text(method_id)
    for old, new in changes:
        if old not in text:
            raise AssertionError(f"{old!r} does not stand in {method_id}")
        text = text.replace(old, new, 1)
    return load(text)


class Ends(unittest.TestCase):
    def test_every_scale_begins_where_its_parameter_does(self) -> None:
        """The very foot of every scale leaves an interval that holds the least that exists."""
        for name in shipped_ids():
            for stage in shipped(name).stages:
                reader = stage.reader()
                if reader.counts or reader.by == "elsewhere":
                    continue
                scale = reader.scale(reader.slots_here[-1])
                seen = reader.seen_at(reader.model.ends[0])
                with self.subTest(method=name, stage=stage.id):
                    value = reader.value([seen], [seen])
                    least = float(reader.model.x_of(reader.model.ends[0]))
                    self.assertTrue(value.interval.holds(least), value)
                    if seen.kind == "plain":
                        self.assertLess(value.interval.low, value.interval.high)
                    self.assertGreater(scale.high, scale.low)

    def test_a_clear_colorimeter_reads_nothing_or_little(self) -> None:
        """100 % T: 0 mg/L and an interval from 0; 99 % T: (2 − log 99) / 0.0120."""
        reader = shipped("nitrite-colorimeter").stages[0].reader()
        clear = reader.value([Seen(100)], [Seen(100)])
        self.assertEqual((clear.number, clear.interval.low), (0.0, 0.0))
        self.assertLess(clear.interval.high, 1.0)
        hazy = reader.value([Seen(99)], [Seen(99)])
        self.assertAlmostEqual(hazy.number, (2 - log10(99)) / 0.0120, 6)

    def test_darker_than_the_darkest_is_a_bound_at_the_dark_end(self) -> None:
        """ ">" alone stands for the lowest % T, never for the clear end."""
        reader = shipped("nitrite-colorimeter").stages[0].reader()
        self.assertEqual(reader.scale("reading").parse(">"), (10, "beyond"))
        bound = reader.value([Seen(10, "beyond")], [Seen(10, "beyond")])
        self.assertAlmostEqual(bound.number, 1 / 0.0120, 6)
        self.assertGreater(bound.interval.low, 70)

    def test_nothing_lies_below_what_can_exist(self) -> None:
        """A display below its line's intercept reports 0, with a range from 0 that has a width."""
        reader = shipped("iron-photometer").stages[0].reader()
        for n in (0, 2, 4):
            value = reader.value([Seen(n), Seen(n)], [Seen(n), Seen(n)])
            with self.subTest(n=n):
                self.assertEqual((value.number, value.interval.low), (0.0, 0.0))
                self.assertGreater(value.interval.high, 0.005)

    def test_below_the_first_row_of_a_strip(self) -> None:
        """A column that stays under its first row is a bound, not 0 mg/L."""
        taps = begun("chloride-strip-height").read("<")
        self.assertEqual(outcomes(taps)[0].value.text, "< 28 mg/L as Cl")
        with self.assertRaises(OffScale):
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


class OneFlask(unittest.TestCase):
    def test_m_goes_on_from_p(self) -> None:
        """P at 50 digits, M at 125 on the same counter: 40 and 100 mg/L."""
        taps = begun("alkalinity-titrator").read("50").on_to(1).read("125")
        self.assertEqual([o.value.figure for o in outcomes(taps)], ["40", "100"])
        titles = [step.title for step in taps.method.stages[1].steps]
        self.assertFalse([title for title in titles if "counter to 0" in title])

    def test_p_above_m_is_questioned_and_can_be_kept(self) -> None:
        """The counter cannot go back; what was confirmed stays, and says so."""
        taps = begun("alkalinity-titrator").read("50").on_to(1)
        for step in taps.stage.steps[:-1]:
            taps.act("tick", step=step.id)
        taps.act("read", step="m-read", raw="45")
        state = fold(taps.method, taps.events)
        self.assertIn("ended at 45, below P alkalinity at 50", state.unfit[-1][1])
        taps.act("read", step="m-read", raw="45", sure=1)
        found = outcomes(taps)[1]
        self.assertEqual(found.value.figure, "36")
        self.assertTrue(any("below P alkalinity" in flag for flag in found.flags))

    def test_colourless_at_once_is_no_p(self) -> None:
        """P is absent, and M goes on."""
        taps = begun("alkalinity-titrator")
        for step in taps.stage.steps:
            if step.kind == "tick":
                taps.act("tick", step=step.id)
            elif step.kind == "check":
                taps.act("answer", step=step.id, answer="colourless")
                break
        taps.on_to(1).read("125")
        p, m = outcomes(taps)
        self.assertEqual((p.value.figure, m.value.figure), ("absent, < 0.8", "100"))

    def test_a_document_that_cannot_go_on_is_refused(self) -> None:
        """Another portion, a pair of determinations, nothing before it."""
        for old, new, says in (
            ("    continues: p\n", "    continues: q\n", "continues names the stage before"),
            (
                "    title: P alkalinity\n",
                "    title: P alkalinity\n    continues: m\n",
                "before the first",
            ),
            (
                "leaves: keep-sample\n    repeats: {least: 1, agree: {relative_percent: 4}}",
                "leaves: keep-sample\n    repeats: {agree: {relative_percent: 4}}",
                "continues names the stage before",
            ),
        ):
            with self.subTest(says=says), self.assertRaisesRegex(BadDocument, says):
                changed("alkalinity-titrator", (old, new))


class Differences(unittest.TestCase):
    def test_units_and_bases_are_converted_or_refused(self) -> None:
        """µg/L less mg/L, N less NO2; °C from chlorines is no difference."""
        for old, new, says in (
            (
                "parameter: combined-chlorine, form: total, basis: Cl2, unit: mg/L, decimals: 2",
                "parameter: temperature, form: water, unit: °C, decimals: 2",
                "combined",
            ),
            (
                "parameter: combined-chlorine, form: total, basis: Cl2, unit: mg/L, decimals: 2",
                "parameter: nitrate, form: total, basis: N, unit: mg/L, decimals: 2",
                "No agreed rule",
            ),
        ):
            with self.subTest(says=says), self.assertRaisesRegex(BadDocument, says):
                changed("chlorine-photometer", (old, new))
        micro = changed(
            "chlorine-photometer",
            ("parameter: combined-chlorine, form: total, basis: Cl2, unit: mg/L, decimals: 2",
             "parameter: combined-chlorine, form: total, basis: Cl2, unit: µg/L, decimals: 0"),
        )  # fmt: skip
        combined = outcomes(begun(micro).read("0.34").on_to(1).read("0.84"))[2]
        self.assertEqual(combined.value.text, "500 µg/L as Cl₂")
        self.assertTrue(combined.value.interval.low < 500 < combined.value.interval.high)

    def test_an_impossible_pair_is_a_bound_with_a_width_and_a_flag(self) -> None:
        """Total 10.00, calcium 10.20 mL: an upper bound, the pair named, likely causes said."""
        taps = begun("hardness-burette").read("0.00", "10.00").read("0.00", "10.00").on_to(1)
        taps.read("0.00", "10.40").read("0.00", "10.40")
        magnesium = outcomes(taps)[2]
        self.assertTrue(magnesium.value.figure.startswith("not detected, < "))
        self.assertEqual(magnesium.value.interval.low, 0.0)
        self.assertGreater(magnesium.value.interval.high, 1.0)
        self.assertIn("Calcium hardness reads above Total hardness", magnesium.flags[-1])
        self.assertIn("exchanged", magnesium.flags[-1])

    def test_a_reserve_is_never_negative(self) -> None:
        """System 4 drops, mains 10: no "−6 drops", but a bound and a flag."""
        taps = begun("inhibitor-reserve").count(10, "reference").count(4)
        reserve = outcomes(taps)[0]
        self.assertTrue(reserve.value.figure.startswith("not detected, < "))
        self.assertGreater(reserve.value.interval.high, 0)
        self.assertIn("reads above", reserve.flags[-1])

    def test_two_sensors_of_two_lots_share_nothing(self) -> None:
        """Each names its reagent; two stages of one titrant share its strength."""
        sensors = [stage.reader() for stage in shipped("chlorine-dioxide-sensors").stages]
        self.assertEqual(common_sd(sensors[1], sensors[2]), 0.0)
        hardness = [stage.reader() for stage in shipped("hardness-burette").stages]
        self.assertAlmostEqual(common_sd(*hardness), 0.005)
        with self.assertRaisesRegex(BadDocument, "name it with whose"):
            changed("chlorine-dioxide-sensors", (" whose: dioxide sensors,", ""))
        with self.assertRaisesRegex(BadDocument, "whose 'nobody'"):
            changed("chlorine-dioxide-sensors", ("whose: dioxide sensors", "whose: nobody"))

    def test_chlorite_is_less_the_chlorine_by_electrons(self) -> None:
        """0.80 read as ClO2, 0.50 chlorine: 0.80 − 0.4757 × 0.50 (16.86 / 35.45 a mg)."""
        taps = begun("chlorine-dioxide-sensors").read("0.10").on_to(1).read("0.50")
        chlorite = outcomes(taps.on_to(2).read("0.80"))[3]
        self.assertAlmostEqual(chlorite.value.number, 0.80 - 0.50 * (67.45 / 4) / (70.90 / 2), 3)
        self.assertIn("0.50 × 0.4757", chlorite.working)


class Sizes(unittest.TestCase):
    def test_a_burettes_scatter(self) -> None:
        """Two readings by eye, one rounding, one overshoot: eye 0.4, endpoint 0.8 make 1.021."""
        reader = shipped("hardness-burette").stages[0].reader()
        expected = sqrt(2 * 0.4**2 + 0.8**2 + 1 / 12)
        self.assertAlmostEqual(expected, 1.021, 3)
        self.assertAlmostEqual(reader.spread.steps, expected, 6)

    def test_a_bottle_whose_drop_was_measured(self) -> None:
        """0.055 mL where the kit says 0.050: a tenth more (0.0702 × 0.055 × 35.45 / 0.015), and as
        sure as it was measured."""
        stage = shipped("chloride-drops-15ml").stages[0]
        lots = Lots((Lot("silver nitrate", "L-1", drop=DropSize(0.055, 0.01)),))
        kit, own = stage.reader(), stage.reader(lots)
        counts = [Count(12), Count(12)]
        self.assertEqual(own.factor, Decimal("9.12"))
        self.assertAlmostEqual(own.counting.factor, kit.counting.factor * 1.1)
        wide, narrow = (r.interval(counts, [Count(1)]) for r in (kit, own))
        self.assertLess((narrow.high - narrow.low) / 1.1, wide.high - wide.low)

    def test_an_own_line_carries_the_doubt_of_its_fit(self) -> None:
        """Noisy standards widen the interval, and most away from their middle."""
        stage = shipped("iron-photometer").stages[0]
        good = ((0.0, 0.004), (1.0, 0.202), (3.0, 0.598), (5.0, 0.994))
        noisy = ((0.0, 0.030), (1.0, 0.180), (3.0, 0.630), (5.0, 0.970))
        seen = [Seen(500)]
        widths = []
        for table in (good, noisy):
            lots = Lots((Lot("iron ampoules", "own", table),))
            found = stage.reader(lots).interval(seen)
            widths.append(found.high - found.low)
        self.assertGreater(widths[1], 3 * widths[0])

    def test_how_often_an_own_line_holds_the_truth(self) -> None:
        """Four noisy standards, then a reading by that line: 95 in a hundred, 600 times."""
        rng, stage = np.random.default_rng(5), shipped("iron-photometer").stages[0]
        held = 0
        for _ in range(600):
            places = np.array([0.5, 1.5, 3.0, 5.0])
            read = 0.004 + 0.198 * places + rng.normal(0, 0.012, 4)
            table = tuple(zip(places.tolist(), read.tolist(), strict=True))
            reader = stage.reader(Lots((Lot("iron ampoules", "own", table),)))
            truth = rng.uniform(0.3, 5.0)
            factor = 1 + rng.normal(0, 0.01)
            n = round(1000 * (0.004 + 0.198 * truth * factor) + rng.normal(0, 3))
            held += reader.interval([Seen(max(n, 0))]).holds(truth)
        self.assertTrue(0.93 <= held / 600 <= 0.985, held / 600)

    def test_lines_that_cannot_be_read_backwards(self) -> None:
        """Falling, flat, one standard twice, too few: each with its reason."""
        for table, says in (
            (((0, 0.9), (1, 0.5), (2, 0.1)), "fall as the concentration rises"),
            (((0, 0.2), (1, 0.2), (2, 0.2)), "do not change"),
            (((0, 0.0), (1, 0.2), (1, 0.21)), "The standard 1 stands twice"),
            (((0, 0.0), (1, 0.2)), "at least 3 standards"),
        ):
            with self.subTest(says=says), self.assertRaisesRegex(NotANumber, says):
                calibration_line(table)


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


class Doubtful(unittest.TestCase):
    def test_on_the_bottom_needs_a_depth(self) -> None:
        """ ">" alone says nothing; "> 1.2" is a bound of 1.2 m, not of the rope."""
        scale = shipped("disc-on-rope").stages[0].reader().scale("vanishes")
        with self.assertRaisesRegex(OffScale, "Above what"):
            scale.parse(">")
        value = outcomes(begun("disc-on-rope").read("> 1.20"))[0].value
        self.assertEqual(value.text, "> 1.20 m")

    def test_what_lies_on_the_scale_is_questioned_and_kept_as_read(self) -> None:
        """6.2 °C on half degrees, 1.32 mS where the display would show µS: flagged, not lost."""
        for method, raw, number in (
            ("thermometer", "6.2", 6.2), ("conductivity-meter", "1.32|mS/cm", 1320.0),
            ("conductivity-meter", "12.4|mS/cm", 12400.0), ("glycol-refractometer", "34.5", 34.5),
        ):  # fmt: skip
            with self.subTest(raw=raw):
                taps = begun(method)
                read = next(s for s in taps.stage.steps if s.kind == "read")
                for step in taps.stage.steps:
                    if step.kind == "tick":
                        taps.act("tick", step=step.id)
                    elif step.kind == "wait":
                        taps.wait(step.id)
                taps.act("read", step=read.id, raw=raw)
                self.assertEqual(len(fold(taps.method, taps.events).unfit), 1)
                taps.act("read", step=read.id, raw=raw, sure=1)
                outcome = outcomes(taps)[0]
                self.assertAlmostEqual(outcome.value.number, number, 6)
                self.assertIn("was asked about and confirmed", outcome.flags[-1])

    def test_the_impossible_is_refused_however_sure(self) -> None:
        """Off the scale, no number, no such unit."""
        thermometer = shipped("thermometer").stages[0].reader().scale("reading")
        meter = shipped("conductivity-meter").stages[0].reader().scale("reading")
        for scale, raw in (
            (thermometer, "50.1"), (thermometer, "-10.5"), (thermometer, "six"),
            (thermometer, "٦"), (meter, "25.00|mS/cm"), (meter, "7|pH"),
        ):  # fmt: skip
            with self.subTest(raw=raw), self.assertRaises(OffScale) as refused:
                scale.parse(raw, sure=True)
            self.assertFalse(refused.exception.doubtful)


class Waits(unittest.TestCase):
    def flags(self, shaken: float, stood: float, then: float = 0) -> tuple[str, ...]:
        """Nitrate, shaken and left to stand so long, read then."""
        taps = begun("nitrate-comparator")
        for step in taps.stage.steps:
            if step.kind == "tick":
                taps.act("tick", step=step.id)
            elif step.kind == "wait":
                taps.wait(step.id, {"shake": shaken, "stand": stood}[step.id])
            elif step.kind == "read":
                taps.later(then).act("read", step=step.id, raw="2")
        return outcomes(taps)[0].flags

    def test_every_wait_is_judged_early_and_late(self) -> None:
        """Shaken for one minute, eleven, or half a one; stood nine minutes or two more."""
        self.assertEqual(self.flags(60, 540), ())
        for arguments, says in (
            ((660, 540), "ended after 663 s, due by 60 s"), ((30, 540), "waited 33 s of 60 s"),
            ((60, 700), "due by 540 s"), ((60, 540, 60), "due by 540 s"),
        ):  # fmt: skip
            with self.subTest(arguments):
                found = self.flags(*arguments)
                self.assertEqual(len(found), 1)
                self.assertIn(says, found[0])

    def test_until_with_seconds_stays_until(self) -> None:
        """A strip that is done after a minute was not read early."""
        taps = begun("chloride-strip-height")
        taps.act("tick", step="stand").wait("climb", 60).act("read", step="height", raw="3.4")
        self.assertEqual(outcomes(taps)[0].flags, ())


class Documents(unittest.TestCase):
    def test_what_cannot_be_computed_with_is_refused_at_its_line(self) -> None:
        """Nought, negative, other digits, hidden characters, sizes that are not plausible."""
        for method, old, new, says in (
            ("oxygen-syringe", 'mark: "0.2"', 'mark: "0"', "must be above zero"),
            ("oxygen-syringe", 'mark: "0.2"', 'mark: "0.3"', "full 10 is no whole number of steps"),
            ("iron-photometer", 'slope: "0.198"', 'slope: "0"', "must be above zero"),
            ("chloride-drops-15ml", 'factor: "8.3"', 'factor: "0"', "must be above zero"),
            ("thermometer", 'high: "50"', 'high: "-15"', "low must lie below high"),
            ("glycol-refractometer", 'high: "60"', 'high: "-5"', "low must lie below high"),
            ("hardness-tablets", 'per_tablet: "15"', 'per_tablet: "١٥"', "not allowed"),
            (
                "hardness-tablets",
                "kit: Tablet kit, 50 mL shaker bottle",
                'kit: "Tablet \\u202e kit"',
                "U\\+202E",
            ),
            ("hardness-tablets", "short: Hardness, tablets", 'short: "Hard\\0ness"', "U\\+0000"),
            (
                "hardness-tablets",
                "{of: eye, sd: 0.2",
                "{of: eye, sd: 20",
                "size of 20 is not plausible",
            ),
            (
                "hardness-tablets",
                "{of: portion, sd: 0.02",
                "{of: portion, sd: 0.5",
                "not plausible",
            ),
            ("chloride-burette", "low: 0, high: 16", "low: 9, high: 9", "low must lie below high"),
        ):
            with self.subTest(new=new), self.assertRaisesRegex(BadDocument, says) as refused:
                changed(method, (old, new))
            self.assertGreater(refused.exception.problems[0].line, 1)

    def test_a_reason_lets_an_unusual_size_stand(self) -> None:
        """It is written in the document, and it stays there."""
        method = changed(
            "hardness-tablets",
            ("{of: eye, sd: 0.2,", "{of: eye, sd: 8, reason: a class of beginners,"),
        )
        self.assertEqual(method.stages[0].influences[-1].reason, "a class of beginners")

    def test_long_values_are_cut_in_messages(self) -> None:
        """A stranger's kilobyte is not repeated."""
        with self.assertRaises(BadDocument) as refused:
            changed("hardness-tablets", ("short: Hardness, tablets", f"short: {'x' * 3000}"))
        self.assertLess(len(str(refused.exception)), 400)

    def test_a_spike_has_to_be_added(self) -> None:
        """Some step says what to add; nobody else is told to."""
        with self.assertRaisesRegex(BadDocument, "only: spike has to say what to add"):
            changed("iron-photometer", ("only: spike\n", "only: sample\n"))
        stage = shipped("iron-photometer").stages[0]
        told = {
            who: [s.title for s in stage.steps_for(who)] for who in ("blank", "sample", "spike")
        }
        self.assertTrue(any("standard" in title for title in told["spike"]))
        for who in ("blank", "sample"):
            self.assertFalse([t for t in told[who] if "iron standard" in t])
        self.assertFalse([t for t in told["blank"] if "of the sample" in t])


class Limits(unittest.TestCase):
    SET = """id: mine
edition: "2026"
title: My limits
note: Mine.
limits:
  - {id: a, name: long, parameter: chloride, form: total, basis: Cl, unit: mg/L, max: "120",
     tier: guideline, statistic: each sample, document: Mine (2026), within: Good., beyond: Bad.}
"""

    def test_a_set_is_checked_like_a_method(self) -> None:
        """Unknown parameter, form, basis, unit, statistic; min above max; a doubled id."""
        self.assertEqual(load_limits(self.SET).limits[0].max, "120")
        second = self.SET[self.SET.index("  - {id: a") :]
        for old, new, says in (
            ("parameter: chloride", "parameter: chlorid", "There is no parameter 'chlorid'"),
            ("form: total", "form: dissolved", "form must be one of: total"),
            ("basis: Cl,", "basis: N,", "basis must be one of: Cl, NaCl"),
            ("unit: mg/L", "unit: mg/l", "There is no unit 'mg/l'"),
            ("unit: mg/L", "unit: µS/cm", "measure different things"),
            ("statistic: each sample", "statistic: each samples", "Did you mean each sample"),
            ('max: "120"', 'max: "120", min: "130"', "min 130 lies above max 120"),
            ('max: "120"', 'maximum: "120"', "This key is unknown. Did you mean max"),
            (self.SET[-1:], f"\n{second}", "used twice: a"),
        ):
            text = self.SET.replace(old, new) if old != "\n" else self.SET + second
            with self.subTest(says=says), self.assertRaisesRegex(BadDocument, says):
                load_limits(text)
