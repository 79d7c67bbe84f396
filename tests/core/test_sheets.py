"""The sheet says in finished words exactly what the core would compute."""

import json
import unittest

from kessa_core.judging import judge, limit_set, most_serious_verdict
from kessa_core.judging.context import PointContext
from kessa_core.judging.sentences import result_sentences
from kessa_core.quantities import Interval
from kessa_core.readings.reading import Count
from kessa_core.runs import fold
from kessa_core.sheets import compile_sheet
from kessa_core.sheets.rows import gauge_maximums
from kessa_core.trends.usual import Usual
from tests.builders.runs import Taps, big, outcome_of, reader, small, walk

SETTING = PointContext(limit_set("ccme-freshwater").limits, Usual(8, 46.0, Interval(40.7, 55.9)))
SHEET = compile_sheet(big(), SETTING)
STAGE = SHEET["stages"][0]


class Rows(unittest.TestCase):
    def test_every_pair_that_agrees_has_the_row_the_core_computes(self) -> None:
        """Figure, range, verdict, working line and sentences of all 94 pairs."""
        for blank in (1, 2):
            for low in range(1, 25):
                for high in range(low, min(low + 1, 24) + 1):
                    taps = walk((low, high), blank=blank)
                    state = fold(big(), taps.events)
                    outcome = outcome_of(big(), state)
                    row = STAGE["pair"][f"{blank}:{low}:{high}"]
                    verdict = most_serious_verdict(
                        judge(outcome.value, limit) for limit in SETTING.limits
                    )
                    with self.subTest(blank=blank, low=low, high=high):
                        self.assertEqual((row["f"], row["u"]), (outcome.value.figure, "mg/L as Cl"))
                        self.assertEqual(row["r"], outcome.value.range_text)
                        self.assertEqual(row["s"], verdict.sign)
                        self.assertEqual(row["k"], outcome.working)
                        readings = [d.seen for d in state.stage.samples]
                        blanks = [d.seen for d in state.stage.blanks]
                        said = result_sentences(
                            reader(), outcome.value, verdict, readings, blanks, SETTING
                        )
                        self.assertEqual(row["t"], said)

    def test_every_single_reading_has_a_row(self) -> None:
        """Every count, in every option, after every blank that passes; no doubt at drop one."""
        kinds = {key.split(":")[1] for key in STAGE["single"]}
        self.assertEqual(kinds, {"plain", "backed-off", "doubt"})
        self.assertEqual(len(STAGE["single"]), 2 * (24 * 3 - 1))
        self.assertNotIn("1:doubt:1", STAGE["single"])

    def test_beyond_has_its_row(self) -> None:
        """The bound, for each blank that passes."""
        self.assertEqual(
            {key: row["f"] for key, row in STAGE["beyond"].items()}, {"1": "> 199", "2": "> 199"}
        )

    def test_gauges_stay_on_their_scale(self) -> None:
        """Positions are thousandths of a scale that exists."""
        for table in ("single", "pair", "beyond"):
            for row in STAGE[table].values():
                scale, *places, over = row["g"]
                self.assertIn(scale, range(len(gauge_maximums(SETTING))))
                self.assertTrue(all(0 <= place <= 1000 for place in places))
                self.assertIn(over, (0, 1))


class Machine(unittest.TestCase):
    def test_order_and_rules_are_the_methods(self) -> None:
        """Blank and sample have their own steps; rules are whole half drops."""
        self.assertEqual(STAGE["order"]["blank"][-1], "count")
        self.assertNotIn("rinse-sample", STAGE["order"]["blank"])
        self.assertNotIn("fill-blank", STAGE["order"]["sample"])
        whole = {key: STAGE["rules"][key] for key in ("max", "blankHalves", "agreeHalves", "least")}
        self.assertEqual(whole, {"max": 24, "blankHalves": 4, "agreeHalves": 2, "least": 2})
        self.assertEqual(STAGE["rules"]["next"], small().id)

    def test_running_figures(self) -> None:
        """What the counter shows beside each count."""
        self.assertEqual(
            [STAGE["running"][n] for n in (0, 7, 24)], ["0 mg/L", "54 mg/L", "195 mg/L"]
        )

    def test_the_sheets_id_is_its_content(self) -> None:
        """The same place gives the same id, another limit another."""
        self.assertEqual(compile_sheet(big(), SETTING)["id"], SHEET["id"])
        other = PointContext(limit_set("epa-freshwater").limits, SETTING.usual)
        self.assertNotEqual(compile_sheet(big(), other)["id"], SHEET["id"])

    def test_plain_data(self) -> None:
        """Only what JSON can carry, and no key but texts."""
        self.assertEqual(json.loads(json.dumps(SHEET)), SHEET)

    def test_a_place_without_limits_or_history(self) -> None:
        """Rows say that no limit is set; the usual is empty."""
        bare = compile_sheet(big(), PointContext())
        self.assertEqual(bare["stages"][0]["usual"], "")
        self.assertEqual(bare["stages"][0]["pair"]["1:7:8"]["w"], "no limit set")

    def test_only_enumerated_outcomes_decide_branches(self) -> None:
        """No branch of a run waits for the server: the player needs whole numbers alone."""
        state = fold(big(), Taps().before().count(3, "blank").events)
        self.assertEqual(state.place.spot, "blank-failed")
        self.assertGreater(2 * Count(3).n, STAGE["rules"]["blankHalves"])
