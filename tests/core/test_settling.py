"""Which methods would settle a close call, held against what their readings are called."""

import unittest

from kessa_core.judging import Limit, judge, limit_set
from kessa_core.judging.settling import settled_by
from kessa_core.methods import shipped, shipped_ids
from kessa_core.quantities import Interval, Quantity, Value

EVERY = [shipped(key) for key in shipped_ids()]
CHLORIDE = Quantity("chloride", "total", "Cl", "mg/L")
NITRITE = Quantity("nitrite", "total", "N", "mg/L")


def limit(set_id: str, key: str) -> Limit:
    return next(one for one in limit_set(set_id).limits if one.id == key)


class Settled(unittest.TestCase):
    def test_far_from_the_limit_everything_settles_it(self) -> None:
        """20 against 120: each chloride kit that reads there, the quickest first."""
        value = Value(CHLORIDE, 20, 0, Interval(1, 200))
        found = settled_by(value, limit("ccme-freshwater", "chloride-long"), EVERY)
        self.assertGreater(len(found), 2)
        self.assertEqual({one.sign for one in found}, {"within"})
        times = [one.seconds for one in found]
        self.assertEqual(times, sorted(times))

    def test_near_the_limit_only_the_finer_kit(self) -> None:
        """Fewer settle 108 than 20; what does would really be called so at that reading."""
        against = limit("ccme-freshwater", "chloride-long")
        near = settled_by(Value(CHLORIDE, 108, 0, Interval(90, 130)), against, EVERY)
        far = settled_by(Value(CHLORIDE, 20, 0, Interval(1, 200)), against, EVERY)
        self.assertLess(len(near), len(far))
        for one in near:
            stage = one.method.stages[0]
            reader = stage.reader()
            blanks = [reader.example(reader.reach[0])] if reader.subtract else []

            def read(place: int, stage=stage, reader=reader, blanks=blanks) -> Value:
                alike = [reader.example(place)] * reader.asked
                value = reader.value(alike, alike, blanks)
                return value.scaled(float(stage.base), stage.base)

            low, high = reader.reach
            while high - low > 1:
                middle = (low + high) // 2
                low, high = (middle, high) if read(middle).number <= 108 else (low, middle)
            closest = min((low, high), key=lambda place: abs(read(place).number - 108))
            with self.subTest(one.method.id):
                self.assertEqual(judge(read(closest), against).sign, one.sign)

    def test_at_the_limit_itself_nothing_does(self) -> None:
        value = Value(CHLORIDE, 120, 0, Interval(100, 140))
        self.assertEqual(settled_by(value, limit("ccme-freshwater", "chloride-long"), EVERY), ())

    def test_of_a_bound_what_sees_the_limit(self) -> None:
        """Nitrite below 0.05 against 0.02: only a method that tells both sides of it."""
        bound = Value(NITRITE, 0.05, 2, Interval(None, 0.05), "<")
        low = Limit.model_validate(
            limit("ccme-freshwater", "nitrite").model_dump() | {"max": "0.02"}
        )
        ids = {one.method.id for one in settled_by(bound, low, EVERY)}
        self.assertNotIn("nitrite-tablets", ids)
        high = limit("ccme-freshwater", "nitrite")
        self.assertLessEqual(ids, {one.method.id for one in settled_by(bound, high, EVERY)})

    def test_what_one_sample_cannot_decide(self) -> None:
        value = Value(Quantity("lead", "total", "Pb", "mg/L"), 0.02, 3, Interval(0.015, 0.025))
        against = limit("us-epa-drinking", "lead-action")
        self.assertEqual(settled_by(value, against, EVERY), ())
