"""Worked outcomes, from acts to figures, as the core and ./kessa run say them."""

import io
import json
import tempfile
import unittest
from contextlib import redirect_stdout
from pathlib import Path

from kessa_core.cli.__main__ import main
from kessa_core.judging import limit_set
from kessa_core.judging.context import PointContext
from kessa_core.judging.outcomes import sentences
from kessa_core.judging.sentences import verdict_of
from kessa_core.methods import shipped
from kessa_core.readings.lots import NO_LOTS, Lot, Lots
from kessa_core.runs import Outcome, conclude, fold
from kessa_core.runs.export import write
from tests.builders.runs import Taps


def begun(method_id: str) -> Taps:
    """A run of a shipped method up to its first determination."""
    return Taps(shipped(method_id)).before()


def outcomes(taps: Taps, lots: Lots = NO_LOTS) -> tuple[Outcome, ...]:
    return conclude(taps.method, fold(taps.method, taps.events, lots), lots)


def by_command(taps: Taps, **context: object) -> dict:
    """What ./kessa run says of the same acts."""
    with tempfile.TemporaryDirectory() as folder, redirect_stdout(io.StringIO()) as out:
        file = Path(folder) / "run.jsonl"
        file.write_text(write(taps.method, taps.events, context), "utf-8")
        main(["run", taps.method.id, str(file), "--json"])
    return json.loads(out.getvalue())


class Tablets(unittest.TestCase):
    def test_six_with_half_offset(self) -> None:
        """6 × 15 − 7.5; the interval is the last tablet's step, wider by the influences."""
        value = outcomes(begun("hardness-tablets").count(6))[0].value
        self.assertEqual(value.text, "83 mg/L as CaCO₃")
        self.assertTrue(value.interval.low < 75 < 90 < value.interval.high)

    def test_absent_is_a_bound_not_seven_and_a_half(self) -> None:
        """No colour after the first tablet: below what the method says, and the run is done."""
        taps = begun("hardness-tablets")
        for step in ("fill", "conditioning"):
            taps.act("tick", step=step)
        taps.wait("dissolve").act("answer", step="presence", answer="blue")
        outcome = outcomes(taps)[0]
        self.assertEqual((outcome.finish, outcome.value.qualifier), ("done", "<"))
        self.assertEqual(outcome.value.figure, "absent, < 15")
        self.assertEqual(outcome.value.interval.low, 0.0)

    def test_a_conditioning_tablet_is_a_step_not_a_count(self) -> None:
        """Two titrating tablets after it count two."""
        outcome = outcomes(begun("hardness-tablets").count(2))[0]
        self.assertEqual(outcome.value.figure, "23")
        self.assertTrue(outcome.working.startswith("2 tablets: 2 × 15"))


class Colours(unittest.TestCase):
    def test_above_the_last_shade_then_ten_times_diluted(self) -> None:
        """> 6.0 as N is > 26 as NO₃; diluted ten times and read between 2 and 3: 25 as N."""
        taps = begun("nitrate-comparator").read(">")
        first = outcomes(taps)[0]
        self.assertEqual((first.finish, first.value.text), ("beyond", "> 6.0 mg/L as N"))
        self.assertEqual(first.value.converted(basis="NO3").text, "> 26 mg/L as NO₃")
        scale = taps.stage.reader().scale("reading")
        taps.act("dilute", by=10).read(scale.raw("between 2.0 and 3.0"), diluted=True)
        second = outcomes(taps)[0]
        self.assertEqual((second.finish, second.value.text), ("done", "25 mg/L as N"))
        self.assertIn("× 10 for the dilution", second.working)
        self.assertTrue(second.value.interval.low < 25 < second.value.interval.high)
        told = by_command(taps)
        self.assertEqual((told["result"]["figure"], told["finish"]), ("25", "done"))

    def test_a_bracket_stays_a_bracket_through_a_change_of_basis(self) -> None:
        """Between 2 and 4 as N."""
        taps = begun("strip-three-pads").read("2").on_to(1).read("2").on_to(2)
        taps.read(taps.stage.reader().scale("reading").raw("between 2 and 4"))
        value = outcomes(taps)[2].value
        self.assertEqual((value.figure, value.bracket), ("2–4", (2.0, 4.0)))
        other = value.converted(basis="NO3")
        self.assertEqual(other.text, "8–18 mg/L as NO₃")
        for got, expected in zip(other.bracket, (8.853, 17.707), strict=True):
            self.assertAlmostEqual(got, expected, 3)

    def test_a_strip_between_rows_keeps_its_unit_beside_the_value(self) -> None:
        """The closest row of the lot's own table, by the method's rule."""
        taps = begun("chloride-strip-height").read("3.4")
        lot = Lot("climbing strips", "B-7", ((3.0, 90.0), (3.2, 97.0), (3.6, 121.0)))
        with_lot = outcomes(taps, Lots((lot,)))[0]
        self.assertEqual(with_lot.value.figure, "121")
        self.assertEqual(
            with_lot.working, "3.4 strip units, closest row of lot B-7: 121 mg/L as Cl"
        )
        self.assertIn("example table", outcomes(taps)[0].working)
        told = by_command(
            taps, lots=[{"reagent": lot.reagent, "number": "B-7", "table": lot.table}]
        )
        self.assertEqual(told["result"]["figure"], "121")


class Differences(unittest.TestCase):
    def test_a_reserve_that_is_reached(self) -> None:
        """System 14 drops, mains 3, needed 9: 11, with its interval, within the target."""
        taps = begun("inhibitor-reserve").count(3, "reference").count(14)
        state = fold(taps.method, taps.events)
        outcome = conclude(taps.method, state)[0]
        self.assertEqual(outcome.value.figure, "11")
        self.assertEqual(outcome.working, "sample 14, mains water 3 drops: 11 drops")
        self.assertTrue(9 < outcome.value.interval.low < 11 < outcome.value.interval.high < 13)
        setting = PointContext(limit_set("heating-loop-demo").limits).of(outcome.quantity)
        verdict = verdict_of(outcome.value, setting)
        self.assertEqual(verdict.sign, "within")
        said = sentences(taps.method, state, outcome, verdict, setting)
        self.assertIn("Reserve reached.", said[0])

    def test_more_free_than_total_is_not_detected(self) -> None:
        """0.31 total and 0.34 free: combined is a bound, never negative."""
        taps = begun("chlorine-photometer").read("0.34").on_to(1).read("0.31")
        free, total, combined = outcomes(taps)
        self.assertEqual((free.value.figure, total.value.figure), ("0.34", "0.31"))
        self.assertTrue(combined.value.text.startswith("not detected, < 0.0"), combined.value.text)
        self.assertEqual((combined.value.qualifier, combined.value.interval.low), ("<", 0.0))
        self.assertGreater(combined.value.interval.high, 0.0)
        self.assertIn("not detected", by_command(taps)["results"][2]["result"]["text"])

    def test_magnesium_is_total_less_calcium(self) -> None:
        """What both share is taken out once: narrower than from the two intervals apart."""
        taps = begun("hardness-burette").read("0.60", "13.00").read("0.00", "12.30").on_to(1)
        taps.read("0.00", "8.00").read("8.00", "16.00")
        total, calcium, magnesium = outcomes(taps)
        self.assertEqual(magnesium.finish, "done")
        self.assertAlmostEqual(magnesium.value.number, total.value.number - calcium.value.number, 9)
        apart = (total.value.interval.high - calcium.value.interval.low) - (
            total.value.interval.low - calcium.value.interval.high
        )
        self.assertLess(magnesium.value.interval.high - magnesium.value.interval.low, apart)

    def test_a_stage_that_was_not_done_leaves_no_difference(self) -> None:
        """Stopped after free chlorine: that stands, combined says what it lacks."""
        taps = begun("chlorine-photometer").read("0.34").act("stop", cause="enough")
        free, total, combined = outcomes(taps)
        self.assertEqual((free.finish, total.finish), ("done", "not-tested"))
        self.assertIsNone(combined.value)
        self.assertIn("both needed", combined.cause)

    def test_a_method_that_is_not_for_this_water(self) -> None:
        """Before any step: every stage and the difference are not applicable, with the cause."""
        taps = Taps(shipped("chlorine-photometer"))
        taps.act("stop", finish="not-applicable", cause="This water is turbid.")
        ended = [(one.finish, one.cause, one.value) for one in outcomes(taps)]
        self.assertEqual(ended, [("not-applicable", "This water is turbid.", None)] * 3)

    def test_what_is_not_applicable_leaves_what_was_done(self) -> None:
        """After the first stage: that one stands, and so does the run."""
        taps = begun("chlorine-photometer").read("0.34")
        taps.act("stop", finish="not-applicable", cause="too turbid by now")
        self.assertEqual(
            [one.finish for one in outcomes(taps)], ["done", "not-applicable", "not-applicable"]
        )
        self.assertEqual(fold(taps.method, taps.events).finish, "done")


class Displays(unittest.TestCase):
    def test_a_standard_outside_its_window_is_flagged_on_what_follows(self) -> None:
        """1.50 found 1.34: 89.3 %."""
        taps = begun("phosphate-photometer").read("1.34", who="standard").read("1.20")
        outcome = outcomes(taps)[0]
        said = "standard 1.50 found 1.34: 89.3 %, outside 90–110 %"
        self.assertEqual((outcome.checks, outcome.flags), ((said,), (said,)))
        self.assertEqual(outcome.value.figure, "1.20")

    def test_compensated_to_20_is_converted_not_compensated_again(self) -> None:
        """846 at 20 °C is 935 at 25 °C; the same display uncompensated depends on the water."""
        at_20 = outcomes(begun("conductivity-meter-20").read("846"))[0]
        self.assertEqual(at_20.value.text, "935 µS/cm")
        self.assertIn("846 µS/cm, shown as at 20 °C", at_20.working)
        bare = outcomes(begun("conductivity-meter-bare").read("14.2", "846"))[0]
        self.assertEqual(bare.value.text, "1066 µS/cm")
        self.assertEqual(outcomes(begun("conductivity-meter").read("846"))[0].value.figure, "846")

    def test_what_the_display_cannot_show_has_no_place(self) -> None:
        """12.4 µS/cm on a display that shows whole µS: kept, and not applied."""
        taps = begun("conductivity-meter").read("12.4")
        state = fold(taps.method, taps.events)
        said = "This display does not show 12.4 µS/cm. Did it show 12.40 mS/cm?"
        self.assertEqual(state.ignored[-1][1], said)
        self.assertEqual(state.finish, "")

    def test_below_the_reporting_limit(self) -> None:
        """A certificate's "<" is a bound."""
        value = outcomes(begun("lead-laboratory").read("0.0002", "<"))[0].value
        self.assertEqual((value.qualifier, value.interval.low), ("<", 0.0))


class Clocks(unittest.TestCase):
    def read_after(self, wait: float, then: float) -> tuple[str, ...]:
        taps = begun("phosphate-photometer")
        for who in ("standard", "sample"):
            for step in taps.stage.steps_for(who):
                if step.kind == "wait":
                    taps.wait(step.id, step.wait.seconds + wait)
                elif step.kind == "read":
                    taps.later(then).act("read", step=step.id, raw="1.50")
                else:
                    taps.act("tick", step=step.id)
        return outcomes(taps)[0].flags

    def test_in_time_early_and_late(self) -> None:
        """A wait that was cut short and a reading that came too late travel with the result."""
        self.assertEqual(self.read_after(0, 0), ())
        self.assertTrue(all("waited" in flag for flag in self.read_after(-60, 0)))
        self.assertTrue(any("due by" in flag for flag in self.read_after(0, 60)))
        self.assertTrue(self.read_after(-60, 0))

    def test_the_purge_follows_from_the_dioxide_that_was_found(self) -> None:
        """More dioxide, a longer purge; waiting the shorter time is flagged."""
        flags = []
        for raw in ("0.10", "1.80"):
            taps = begun("chlorine-dioxide-sensors").read(raw).on_to(1)
            for step in taps.stage.steps:
                if step.kind == "wait" and step.wait.rule == "computed":
                    taps.wait(step.id, step.wait.table[0].seconds)
                elif step.kind == "wait":
                    taps.wait(step.id)
                elif step.kind == "tick":
                    taps.act("tick", step=step.id)
                elif step.kind == "read":
                    taps.act("read", step=step.id, raw="0.50")
            flags.append(outcomes(taps)[1].flags)
        self.assertEqual(flags[0], ())
        self.assertIn("waited", flags[1][0])
