"""What every principle makes of a reading, by its published relation, worked by hand."""

import unittest
from math import log10

from kessa_core.methods import shipped
from kessa_core.methods.stage import Stage
from kessa_core.readings.reading import Reading

READ = (
    ("hardness-burette", {"start": "0.60", "end": "13.00"}, 12.40 * 10.008),
    ("alkalinity-titrator", {"reading": "131"}, 104.8),
    ("oxygen-syringe", {"refills": "0", "reading": "8.4"}, 8.4),
    ("oxygen-syringe", {"refills": "1", "reading": "8.4"}, 18.4),
    ("nitrate-comparator", {"reading": "between 2.0 and 3.0"}, 2.5),
    ("nitrate-comparator", {"reading": "4.0"}, 4.0),
    ("phosphate-photometer", {"reading": "1.34"}, 1.34),
    ("conductivity-meter", {"reading": "846 µS/cm"}, 846),
    ("conductivity-meter", {"reading": "12.40 mS/cm"}, 12400),
    ("conductivity-meter-20", {"reading": "846"}, 846 / (1 - 0.0191 * 5)),
    (
        "conductivity-meter-bare",
        {"temperature": "14.2", "reading": "846"},
        846 / (1 + 0.0191 * (14.2 - 25)),
    ),
    ("ph-meter", {"first": "7.21", "second": "7.22", "reading": "7.20"}, 7.21),
    ("disc-on-rope", {"vanishes": "2.35", "returns": "2.25"}, 2.30),
    ("sight-tube", {"reading": "30"}, 30),
    ("glycol-refractometer", {"reading": "34"}, 34),
    ("thermometer", {"reading": "-1.5"}, -1.5),
    ("algae-cover", {"reading": "patches"}, 2),
    ("lead-laboratory", {"uncertainty": "0.0012", "reading": "0.0087"}, 0.0087),
    ("chlorine-dioxide-sensors", {"reading": "0.24"}, 0.24),
)


def seen(stage: Stage, written: dict[str, str]) -> Reading:
    """What these readings leave, the last slot first."""
    reader = stage.reader()
    places = {
        slot: reader.scale(slot).parse(reader.scale(slot).raw(text))[0]
        for slot, text in written.items()
    }
    last = reader.reading_fields[-1]
    beside = tuple((slot, n) for slot, n in places.items() if slot != last)
    return Reading(places[last], beside=beside)


class Numbers(unittest.TestCase):
    def test_each_reading_becomes_its_number(self) -> None:
        """Titrant, shades, temperature, marks: figures of the field, not of the code."""
        for method, written, expected in READ:
            with self.subTest(method=method, written=written):
                stage = shipped(method).stages[0]
                number = float(stage.reader().number(seen(stage, written)))
                self.assertAlmostEqual(number, expected, delta=max(abs(expected) * 5e-4, 1e-9))

    def test_absorbance_and_transmittance_follow_beer_and_lambert(self) -> None:
        """c = (A − a) / b, and A = 2 − log10 T."""
        iron, nitrite = (shipped(m).stages[0] for m in ("iron-photometer", "nitrite-colorimeter"))
        for stage, raw, absorbs in ((iron, "0.412", 0.412), (nitrite, "63", 2 - log10(63))):
            line = stage.reading.line
            expected = (absorbs - float(line.intercept)) / float(line.slope)
            number = float(stage.reader().number(seen(stage, {"reading": raw})))
            with self.subTest(method=stage.id):
                self.assertAlmostEqual(number, expected, 6)

    def test_the_interval_of_each_holds_its_own_figure(self) -> None:
        """Two-sided, and about the number."""
        for method, written, _ in READ:
            with self.subTest(method=method, written=written):
                stage = shipped(method).stages[0]
                one = seen(stage, written)
                value = stage.reader().value([one], [one])
                self.assertLess(value.interval.low, value.interval.high)
                self.assertTrue(value.lies_in_its_range or stage.reader().apart(value, []))

    def test_more_is_seen_where_more_is(self) -> None:
        """Along every scale the value rises with the place, or falls all along."""
        for method, _, _ in READ:
            with self.subTest(method=method):
                model = shipped(method).stages[0].reader().model
                values = [x for _, x in model.knots]
                self.assertEqual(values, sorted(values))


class Scales(unittest.TestCase):
    def test_what_is_said_is_read_back(self) -> None:
        """Every place of every scale: its words lead to it again."""
        for method, written, _ in READ:
            reader = shipped(method).stages[0].reader()
            for slot in written:
                scale = reader.scale(slot)
                places = range(scale.low, scale.high + 1, max(scale.count // 97, 1))
                for n in places:
                    if scale.ranges and n > scale.ranges[0].high:
                        break
                    with self.subTest(method=method, slot=slot, n=n):
                        self.assertEqual(scale.parse(scale.raw(scale.say(n))), (n, "plain"))
