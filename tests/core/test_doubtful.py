"""What is asked about before it is taken, and documents and limits that are refused."""

import unittest

from kessa_core.documents.load import InvalidDocument
from kessa_core.judging.limit_sets import load_limits
from kessa_core.methods import shipped
from kessa_core.readings.scale import InvalidReading
from kessa_core.runs import fold
from tests.builders.documents import changed
from tests.builders.runs import begun, outcomes


class Doubtful(unittest.TestCase):
    def test_on_the_bottom_needs_a_depth(self) -> None:
        """ ">" alone says nothing; "> 1.2" is a bound of 1.2 m, not of the rope."""
        scale = shipped("disc-on-rope").stages[0].reader().scale("vanishes")
        with self.assertRaisesRegex(InvalidReading, "Above what"):
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
                self.assertEqual(len(fold(taps.method, taps.events).ignored), 1)
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
            with self.subTest(raw=raw), self.assertRaises(InvalidReading) as refused:
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
            with self.subTest(new=new), self.assertRaisesRegex(InvalidDocument, says) as refused:
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
        with self.assertRaises(InvalidDocument) as refused:
            changed("hardness-tablets", ("short: Hardness, tablets", f"short: {'x' * 3000}"))
        self.assertLess(len(str(refused.exception)), 400)

    def test_a_spike_has_to_be_added(self) -> None:
        """Some step says what to add; nobody else is told to."""
        with self.assertRaisesRegex(InvalidDocument, "only: spike has to say what to add"):
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
            with self.subTest(says=says), self.assertRaisesRegex(InvalidDocument, says):
                load_limits(text)
