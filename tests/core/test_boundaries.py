"""Where what is allowed begins and ends, and what happens exactly there."""

import json
import math
import unittest

import yaml

from kessa_core.errors import BadEvent, NotANumber
from kessa_core.influences.part import UncertaintySource, validation_error
from kessa_core.judging import Limit, gauge
from kessa_core.judging.decide import suggest_next_steps
from kessa_core.methods import load, shipped
from kessa_core.methods.catalogue import shipped_text
from kessa_core.quality.bottles import bias, drop_by_filling, drop_by_weight, spread_of
from kessa_core.quantities import Interval, Quantity, Value
from kessa_core.readings.reading import Count, Reading
from kessa_core.readings.reading_type import SourceInfo
from kessa_core.runs import fold, read_event
from kessa_core.runs.clocks import LATE_S, late
from kessa_core.runs.export import read, write
from kessa_core.runs.state import Waited
from tests.builders.documents import is_refused
from tests.builders.runs import Taps, walk

GOOD = walk((7, 8)).events[0].as_json()
STRUCK = {"determination": "first-1", "why": "x", "kind": "struck"}


class Events(unittest.TestCase):
    def takes(self, **change: object) -> bool:
        try:
            read_event(GOOD | change)
        except BadEvent:
            return False
        return True

    def test_whole_numbers_of_acts(self) -> None:
        """The first and last that are taken, and their neighbours."""
        for act, name, low, high in (
            ("set", "count", 0, 999), ("dilute", "by", 2, 1000), ("correct", "drops", 0, 999),
        ):  # fmt: skip
            more = {"determination": "first-1", "why": "x", "kind": "plain"}
            for n, taken in ((low - 1, False), (low, True), (high, True), (high + 1, False)):
                data = ({} if act != "correct" else more) | {name: n}
                with self.subTest(act, n=n):
                    self.assertEqual(self.takes(act=act, data=data), taken)
        self.assertFalse(self.takes(act="dilute", data={}))
        self.assertTrue(self.takes(act="correct", data=STRUCK))
        self.assertFalse(self.takes(act="correct", data=STRUCK | {"kind": "gone"}))
        self.assertFalse(self.takes(act="correct", data=STRUCK | {"why": "  "}))
        self.assertTrue(self.takes(act="correct", data=STRUCK | {"kind": "plain", "raw": "1.2"}))
        self.assertFalse(self.takes(act="correct", data=STRUCK | {"kind": "plain"}))

    def test_years_and_counters(self) -> None:
        """2000 to 2199; whole numbers below 2 to the power of 53; names of 8 to 64 letters."""
        for year, taken in ((1999, False), (2000, True), (2199, True), (2200, False)):
            self.assertEqual(self.takes(at=f"{year}-06-01T09:52:00+00:00"), taken, year)
        for name in ("seq", "lamport"):
            for n, taken in ((-1, False), (0, True), (2**53 - 1, True), (2**53, False)):
                self.assertEqual(self.takes(**{name: n}), taken, (name, n))
        for n, taken in ((-9e14, True), (1e15, False), (math.inf, False)):
            self.assertEqual(self.takes(mono_ms=n), taken, n)
        for length, taken in ((7, False), (8, True), (64, True), (65, False)):
            self.assertEqual(self.takes(device="d" * length), taken, length)

    def test_small_objects(self) -> None:
        """Eight entries, five hundred letters."""
        for count, taken in ((8, True), (9, False)):
            self.assertEqual(self.takes(shown={str(n): 1 for n in range(count)}), taken)
        for letters, taken in ((499, True), (500, False)):
            self.assertEqual(self.takes(shown={"f": "x" * letters}), taken)

    def test_a_long_name_is_cut_in_the_message(self) -> None:
        """At forty letters."""
        with self.assertRaises(BadEvent) as caught:
            read_event(GOOD | {"data": {"k" * 60: []}})
        self.assertIn(f"data.{'k' * 40} must", str(caught.exception))

    def test_a_run_stopped_between_stages_ends_again_after_a_correction(self) -> None:
        """The second stage is not asked for anew."""
        method = shipped("chlorine-photometer")
        taps = Taps(method).before().read("0.34").act("stop", cause="enough")
        taps.act("correct", determination="free.first-1", raw="0.35", kind="plain", why="misread")
        state = fold(method, taps.events)
        self.assertEqual((state.place.spot, state.cause), ("finished", "enough"))
        self.assertEqual(state.stages[0].determinations[0].raw["reading"], "0.35")

    def test_acts_with_named_answers(self) -> None:
        """How a concern was met, how a run is given up, and what each act has to name."""
        told = {"concern": "ice", "what": "ice on it"}
        for how, taken in (("done", True), ("anyway", True), ("later", False)):
            self.assertEqual(self.takes(act="accept", data=told | {"how": how}), taken)
        for finish, taken in (("not-tested", True), ("not-applicable", True), ("done", False)):
            self.assertEqual(self.takes(act="stop", data={"finish": finish}), taken)
        for act, names in (
            ("tick", ("step",)), ("answer", ("step", "answer")), ("undo", ("event",)),
            ("time", ("step",)), ("read", ("step", "raw")),
        ):  # fmt: skip
            whole = dict.fromkeys(names, "x")
            self.assertTrue(self.takes(act=act, data=whole), act)
            for name in names:
                less = {key: text for key, text in whole.items() if key != name}
                self.assertFalse(self.takes(act=act, data=less), (act, name))

    def test_a_file_says_letters_as_they_are(self) -> None:
        """µ and ₂ stay themselves; the same comes back, with the lot beside it."""
        taps = walk((7, 8))
        text = write(taps.method, taps.events, {"sample": "Bächli, 846 µS/cm"})
        self.assertIn("Bächli, 846 µS/cm", text)
        ((context, events),) = read(text)
        self.assertEqual((context["sample"], events), ("Bächli, 846 µS/cm", taps.events))


class Refusals(unittest.TestCase):
    def test_the_field_is_named(self) -> None:
        """So that the sentence stands beside what was typed."""
        for wrong, field in (
            (lambda: drop_by_filling(9), "drops"),
            (lambda: drop_by_filling(20, 0.0), "volume_ml"),
            (lambda: drop_by_filling(20, math.inf), "volume_ml"),
            (lambda: drop_by_weight(9, 1.0, 1.0), "drops"),
            (lambda: drop_by_weight(20, 0.0, 1.0), "grams"),
            (lambda: drop_by_weight(20, 1.0, math.nan), "density_g_ml"),
            (lambda: bias([], 10, 1), "found"),
            (lambda: bias([1], 0, 1), "true"),
            (lambda: spread_of([], 0.1), "biases"),
            (lambda: spread_of([bias([1], 1, 0.1)] * 10, 0.0), "stated"),
        ):
            with self.subTest(field=field), self.assertRaises(NotANumber) as caught:
                wrong()
            self.assertEqual(caught.exception.field, field)
        self.assertEqual(drop_by_filling(10).ml, 1 / 9.5)

    def test_influences(self) -> None:
        """Each thing that may be wrong with one, at its edge."""
        knows = {
            "a": SourceInfo("steps", "", (0.1, 2.0)),
            "b": SourceInfo("relative", "", (0.0, 0.1)),
        }
        even = {"of": "a", "distribution": "uniform", "low": 0.0, "high": 1.0, "scope": "shared",
                "key": "person", "source": "default"}  # fmt: skip
        one = {"of": "b", "sd": 0.05, "scope": "determination", "source": "default"}
        for told, says in (
            ([even], ""), ([one], ""), ([one, one], "used twice: b"),
            ([even | {"scope": "determination"}], "may be uniform"),
            ([even | {"of": "b", "high": 0.05}], "may be uniform"),
            ([even | {"low": 1.0}], "low must lie below high"),
            ([even | {"high": None}], "needs low, high"), ([one | {"sd": None}], "needs sd"),
            ([even | {"key": "titrant-lot"}], "name it with whose"),
            ([even | {"key": "titrant-lot", "whose": "x"}], ""),
            ([one | {"of": "c"}], "c unknown here"), ([one | {"sd": 0.1}], ""),
            ([one | {"sd": 0.11}], "0.11 is not plausible"), ([even | {"high": 2.0}], ""),
            ([even | {"high": 2.1}], "2.1 is not plausible"),
            ([even | {"high": 0.09}], "0.09 is not plausible"),
            ([even | {"high": 2.1, "reason": "seen so"}], ""),
        ):  # fmt: skip
            found = validation_error(
                [UncertaintySource.model_validate(part) for part in told], knows, set()
            )
            with self.subTest(told=told):
                self.assertIn(says, found) if says else self.assertEqual(found, "")
        self.assertIn(
            "needs also: b",
            validation_error([UncertaintySource.model_validate(even)], knows, {"b"}),
        )

    def test_a_date_says_how(self) -> None:
        """The remedy stands beside what is wrong."""
        for at in ("x", "1999-01-01T00:00:00+00:00", "2026-01-01T00:00:00"):
            with self.assertRaises(BadEvent) as caught:
                read_event(GOOD | {"at": at})
            self.assertIn("2026-11-24T10:16:02", str(caught.exception))

    def test_the_darkest_is_for_transmittance_alone(self) -> None:
        """And lies between nothing and the top of the display."""
        told = yaml.safe_load(shipped_text("nitrite-colorimeter"))
        for darkest, refused in (
            ("5", False),
            ("0.5", False),
            ("0", True),
            ("100", True),
            ("120", True),
        ):
            told["stages"][0]["reading"]["darkest"] = darkest
            with self.subTest(darkest=darkest):
                self.assertEqual(is_refused(told), refused)
        other = yaml.safe_load(shipped_text("phosphate-photometer"))
        other["stages"][0]["reading"]["darkest"] = "0.01"
        self.assertTrue(is_refused(other))

    def test_tenths_of_transmittance_are_the_same_transmittance(self) -> None:
        """35.0 % on a display with a decimal is 35 % on one without."""
        told = yaml.safe_load(shipped_text("nitrite-colorimeter"))
        whole = load(yaml.safe_dump(told, allow_unicode=True)).stages[0].reader()
        told["stages"][0]["reading"]["decimals"] = 1
        tenths = load(yaml.safe_dump(told, allow_unicode=True)).stages[0].reader()
        self.assertAlmostEqual(
            whole.number(Reading(whole.main.parse("35")[0])),
            tenths.number(Reading(tenths.main.parse("35.0")[0])),
        )

    def test_steps_of_a_further_dilution(self) -> None:
        """Not with the dilution that every sample gets."""
        told = yaml.safe_load(shipped_text("nitrite-colorimeter"))
        more = {"id": "note-it", "kind": "tick", "title": "Write the dilution on the cell",
                "only": ["diluted"]}  # fmt: skip
        told["stages"][0]["steps"].insert(0, more)
        method = load(yaml.safe_dump(told, allow_unicode=True))
        taps = Taps(method).before()
        self.assertNotEqual(fold(method, taps.events).place.step, "note-it")
        by = method.stages[0].above.by[0]
        self.assertEqual(fold(method, taps.act("dilute", by=by).events).place.step, "note-it")


class Clocks(unittest.TestCase):
    def test_exactly_at_the_end_is_in_time(self) -> None:
        """Ten seconds more where it says exactly, one where it says at most."""
        step = next(
            s for s in shipped("phosphate-photometer").stages[0].steps
            if s.wait and s.wait.rule == "exactly"
        )  # fmt: skip
        method = shipped("phosphate-photometer")
        due = step.wait.seconds
        waited = Waited(step.id, due, due, due)
        self.assertEqual(late(method, waited, due + LATE_S, "read"), "")
        self.assertIn("read after", late(method, waited, due + LATE_S + 0.1, "read"))
        self.assertIn("ended after", late(method, waited, due + LATE_S + 0.1, "ended"))

    def test_a_wait_before_any_act_has_no_beginning(self) -> None:
        """Nothing says when it began, so nothing is flagged."""
        wait = {"id": "settle", "kind": "wait", "title": "Let it settle",
                "wait": {"rule": "at-least", "seconds": 60}}  # fmt: skip
        told = yaml.safe_load(shipped_text("thermometer"))
        method = load(yaml.safe_dump(told | {"before": [wait]}))
        state = fold(method, Taps(method).act("time", step="settle").events)
        self.assertEqual((state.flags, state.ignored), ([], []))


class Judged(unittest.TestCase):
    def value(self, number: float, low: float | None, high: float | None) -> Value:
        of = Quantity("chloride", "total", "Cl", "mg/L")
        return Value(of, number, 0, Interval(low, high))

    def limit(self, most: str) -> Limit:
        return Limit(
            id="x", parameter="chloride", form="total", basis="Cl", unit="mg/L", name="test",
            tier="alert", statistic="each sample", document="made", within="within",
            beyond="beyond", max=most,
        )  # fmt: skip

    def test_a_gauge_without_value_or_limit(self) -> None:
        """Its scale is as small as may be; with what is usual, that fits."""
        self.assertEqual(gauge(None, (), "none", "").top, 1e-9)
        self.assertEqual(gauge(None, (), "none", "", Interval(1.0, 5.0)).top, 8.0)

    def test_a_whisker_from_nothing(self) -> None:
        """An interval that begins at zero, or has no lower end, begins at the gauge's foot."""
        for low in (0.0, None):
            drawn = gauge(self.value(4, low, 9), (self.limit("10"),), "within", "")
            self.assertEqual(drawn.whisker, (0.0, 9 / 16))
            self.assertEqual(drawn.tint, (0.0, 10 / 16))

    def test_three_were_enough(self) -> None:
        """After three a further determination is no longer advised."""
        reader = shipped("chloride-drops-15ml").stages[0].reader()
        for counts, advised in (((7, 8), True), ((7, 7, 8), False)):
            seen = [Count(n) for n in counts]
            made = reader.value(seen, seen, ())
            ways = [
                suggest_next_steps(
                    reader, made, self.limit(f"{made.interval.high + 0.4 * n:.1f}"), seen, ()
                )
                for n in range(-12, 12)
            ]
            with self.subTest(counts=counts):
                self.assertEqual(any("a third measurement" in w for w in ways), advised)
                self.assertFalse(any("another determination" in w for w in ways))


class Sheets(unittest.TestCase):
    def test_a_chosen_document_travels_as_plain_data(self) -> None:
        """The choices stand in the file's first line as JSON."""
        taps = walk((7, 8))
        head = json.loads(write(taps.method, taps.events, {}).splitlines()[0])
        self.assertEqual(head["method"]["id"], "chloride-drops-15ml")
        self.assertNotIn("chosen", head["method"])
