"""Present or absent: what a look leaves possible, and that the stated rates hold."""

import unittest
from math import inf

import numpy as np

from kessa_core.judging import verdicts_on
from kessa_core.judging.limits import Limit
from kessa_core.methods import shipped
from kessa_core.methods.load import InvalidDocument
from kessa_core.readings.reading import Reading
from kessa_core.runs import conclude, fold
from kessa_core.simulation.independent import Bench, IndependentSimulator
from tests.builders.documents import changed
from tests.builders.runs import Taps

LOOKS = 4000
NONE_IN_100 = Limit(
    id="none", name="legal", parameter="coliforms", form="presence", basis="", unit="in 100 mL",
    max="0", tier="legal limit", statistic="each sample", document="Directive (EU) 2020/2184",
    within="None were found.", beyond="Sample again.",
)  # fmt: skip


def reader(missed: str = "0.04", false_alarm: str = "0.03"):
    stated = "missed: 0.04, false_alarm: 0.03"
    method = changed("coliforms", (stated, f"missed: {missed}, false_alarm: {false_alarm}"))
    return method.stages[0].reader()


class Possible(unittest.TestCase):
    def test_what_one_look_leaves(self) -> None:
        """Rates below 5 % decide; with 30 % missed, absent leaves up to two (0.3² is 9 %, 0.3³ is
        3 %); with 10 % false alarms, present leaves none possible."""
        for rates, look, expected in (
            (("0.04", "0.03"), 0, (0, 0)),
            (("0.04", "0.03"), 1, (1, inf)),
            (("0.3", "0.03"), 0, (0, 2)),
            (("0.04", "0.1"), 1, (0, inf)),
            (("0", "0"), 0, (0, 0)),
        ):
            with self.subTest(rates=rates, look=look):
                self.assertEqual(reader(*rates).possible([Reading(look)]), expected)

    def test_a_second_look_narrows(self) -> None:
        """Absent twice with 30 % missed: 0.3⁴ is rare, so at most one."""
        self.assertEqual(reader("0.3").possible([Reading(0), Reading(0)]), (0, 1))

    def test_verdicts(self) -> None:
        """Absent is within "0 in 100 mL", present above it; where either may be wrong it is too
        close to call."""
        for rates, look, sign in (
            (("0.04", "0.03"), 0, "within"), (("0.04", "0.03"), 1, "beyond"),
            (("0.3", "0.03"), 0, "close"), (("0.04", "0.1"), 1, "close"),
        ):  # fmt: skip
            seen = [Reading(look)]
            value = reader(*rates).value(seen, seen)
            with self.subTest(rates=rates, look=look):
                self.assertEqual(verdicts_on(value, [NONE_IN_100])[0].sign, sign)

    def test_said_by_a_word(self) -> None:
        """No figure is printed where none was read."""
        seen = [Reading(1)]
        value = reader().value(seen, seen)
        self.assertEqual((value.text, value.range_text), ("present", "at least 1 in 100 mL"))

    def test_rates_out_of_range_are_refused(self) -> None:
        """A test that is wrong half the time says nothing."""
        with self.assertRaises(InvalidDocument):
            reader("0.95")
        with self.assertRaises(InvalidDocument):
            reader("0.04", "0.6")


class Rates(unittest.TestCase):
    def test_the_stated_rates_hold_by_both_simulators(self) -> None:
        """Of portions with none, and with one: the share that shows the sign."""
        for stage in shipped("coliforms").stages:
            own, rates = stage.reader(), stage.reading.rates
            drawn = IndependentSimulator(stage, np.random.default_rng(5), slip=0.0)
            rng = np.random.default_rng(6)
            for count, share in (
                (0, rates.false_alarm), (1, 1 - rates.missed * (1 - rates.false_alarm)),
            ):  # fmt: skip
                apart = [drawn.determination(count, Bench(1, 0)).n for _ in range(LOOKS)]
                model = [own.drawn(count, rng).n for _ in range(LOOKS)]
                with self.subTest(stage=stage.id, count=count):
                    self.assertAlmostEqual(np.mean(apart), share, delta=0.012)
                    self.assertAlmostEqual(np.mean(model), share, delta=0.012)


class Incubated(unittest.TestCase):
    def run_for(self, hours: float) -> list[str]:
        method = shipped("coliforms")
        taps = Taps(method).before()
        taps.act("tick", step="hands").act("tick", step="powder")
        taps.wait("incubate", hours * 3600).act("read", step="look", raw="0")
        return list(conclude(method, fold(method, taps.events))[0].flags)

    def test_a_day_with_its_windows(self) -> None:
        """24 to 28 hours; earlier and later are flagged in hours."""
        self.assertEqual(self.run_for(25), [])
        self.assertIn("waited 20 h of 24 h", self.run_for(20)[0])
        self.assertIn("ended after 30 h, due by 28 h", self.run_for(30)[0])
