"""Whether a method can see a limit: every reading of it, judged."""

import unittest

from kessa_core.judging import Limit, judge, limit_set, limit_sets
from kessa_core.judging.can_see import can_see
from kessa_core.judging.verdict import inapplicable
from kessa_core.methods import shipped, shipped_ids
from kessa_core.methods.stage import Stage

EVERY = [limit for held in limit_sets().values() for limit in held.limits]
LONG = limit_set("ccme-freshwater").limits[0]


def first_stage(method: str) -> Stage:
    return shipped(method).stages[0]


def band(least: str, most: str) -> Limit:
    """A limit of chloride from *least* to *most*."""
    return LONG.model_copy(update={"min": least, "max": most})


class CanSee(unittest.TestCase):
    def test_every_reading_lies_in_a_stretch_of_its_verdict(self) -> None:
        """Each shipped stage against limits of each kind of its quantity, places along its scale
        alone."""
        tried = 0
        for name in shipped_ids():
            for stage in shipped(name).stages:
                for limit in self.of_each_kind(stage.measures.parameter):
                    if inapplicable(stage.measures.quantity, limit):
                        continue
                    if stage.reference or not stage.reader().has_scale:
                        self.assertIsNone(can_see(stage, limit))
                        continue
                    with self.subTest(method=name, stage=stage.id, limit=limit.id):
                        self.assert_each_reading_as_told(stage, limit)
                        tried += 1
        self.assertGreater(tried, 15)

    def of_each_kind(self, parameter: str) -> list[Limit]:
        """Limits of a parameter: one of each unit and statistic, with each side that is bounded."""
        kinds = {
            (one.min is None, one.max is None, one.unit, one.statistic): one
            for one in EVERY
            if one.parameter == parameter
        }
        return list(kinds.values())

    def assert_each_reading_as_told(self, stage: Stage, limit: Limit) -> None:
        told, reader = can_see(stage, limit), stage.reader()
        assert told is not None
        first, last = reader.reach
        blanks = [reader.example(first)] if reader.subtract else []
        for place in range(first, last + 1, max((last - first) // 60, 1)):
            alike = [reader.example(place)] * reader.asked
            value = reader.value(alike, alike, blanks).scaled(float(stage.base), stage.base)
            signs = {
                one.sign
                for one in told.stretches
                if one.first.number <= value.number <= one.last.number
            }
            self.assertIn(judge(value, limit).sign, signs)

    def test_in_words(self) -> None:
        """Both sides, one side alone, neither; the figures are those of readings."""
        short, chronic = limit_set("ccme-freshwater").limits[1], band("100", "110")
        nitrite = limit_set("heating-loop-demo").limits
        strip = next(one for one in nitrite if one.id == "nitrite-band")
        for stage, limit, words, sentence in (
            (first_stage("chloride-drops-15ml"), LONG, "sees this limit",
             "Within limit up to 104; outside limit from 137 mg/L as Cl, "
             "otherwise too close to call."),
            (first_stage("chloride-drops-15ml"), short, "can only show values within the limit",
             "Within limit up to 195 mg/L as Cl, otherwise too close to call."),
            (first_stage("nitrite-colorimeter"), strip, "sees this limit",
             "Within limit 493–829; outside limit up to 404 and from 1003 mg/L as NO₂, "
             "otherwise too close to call."),
            (first_stage("chloride-drops-15ml"), chronic, "can only show values outside the limit",
             "Outside limit up to 87 and from 129 mg/L as Cl, otherwise too close to call."),
        ):  # fmt: skip
            with self.subTest(words=words, limit=limit.id):
                told = can_see(stage, limit)
                assert told is not None
                self.assertEqual((told.words, told.sentence), (words, sentence))

    def test_a_band_that_reaches_past_the_scale(self) -> None:
        """Every figure is within; above the maximum count the truth may lie anywhere."""
        told = can_see(first_stage("chloride-drops-15ml"), band("0", "1000000"))
        assert told is not None
        self.assertEqual(told.signs, {"within", "close"})
        self.assertEqual(told.stretches[-1].first.qualifier, ">")

    def test_another_quantity(self) -> None:
        """Nothing to say."""
        self.assertIsNone(can_see(first_stage("nitrite-colorimeter"), LONG))
