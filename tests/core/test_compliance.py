"""The statistics of rules, from dated samples of a water."""

import unittest
from datetime import date, timedelta

from kessa_core.judging import limit_set
from kessa_core.judging.compliance import Compliance, DatedValue, compliance
from kessa_core.judging.limits import Limit
from kessa_core.quantities import Interval, Value

START = date(2026, 1, 5)


def limit(limit_id: str, set_id: str = "us-epa-drinking") -> Limit:
    return next(one for one in limit_set(set_id).limits if one.id == limit_id)


def by_statistic(statistic: str, parameter: str = "") -> Limit:
    limits = limit_set("us-epa-drinking").limits
    return next(
        one for one in limits if one.statistic == statistic and parameter in ("", one.parameter)
    )


def samples(of: Limit, *dated: tuple[date, float | str]) -> list[DatedValue]:
    """Values in the limit's own unit; "<0.002" is a bound."""
    made = []
    for day, number in dated:
        bound = number[0] if isinstance(number, str) else ""
        figure = float(number[1:]) if isinstance(number, str) else number
        value = Value(of.quantity, figure, 3, Interval(figure, figure), bound)
        made.append(DatedValue(day, value))
    return made


def told(of: Limit, *dated: tuple[date, float | str]) -> Compliance:
    found = compliance(of, samples(of, *dated))
    assert found is not None
    return found


def days(*numbers: float | str, every: int = 1) -> list[tuple[date, float | str]]:
    return [(START + timedelta(days=every * at), number) for at, number in enumerate(numbers)]


class Compliances(unittest.TestCase):
    def test_lead_of_ten_taps_with_one_at_0_020(self) -> None:
        """The ninth of ten decides: 0.009 against 0.015; with two high taps it is above."""
        lead = by_statistic("90th percentile", "lead")
        taps = [0.001, 0.002, 0.003, 0.004, 0.005, 0.006, 0.007, 0.008, 0.009]
        found = told(lead, *days(*taps, 0.020))
        self.assertAlmostEqual(found.high or 0, 0.009)
        self.assertEqual((found.sign, found.have, found.missing), ("within", 10, ""))
        two = told(lead, *days(*taps[:8], 0.018, 0.020))
        self.assertEqual(two.sign, "beyond")
        self.assertEqual(two.text, "0.0180 mg/L as Pb")

    def test_fewer_than_five_taps(self) -> None:
        """The highest stands, and what is missing is said; an old sample does not count."""
        lead = by_statistic("90th percentile", "lead")
        found = told(lead, (START - timedelta(days=200), 0.09), *days(0.002, 0.004))
        self.assertEqual((found.have, found.needed), (2, 5))
        self.assertEqual(found.missing, "3 more of five samples are needed.")
        self.assertAlmostEqual(found.high or 0, 0.004)

    def test_chlorine_of_four_quarters_the_last_at_4_6(self) -> None:
        """The running average is 3.4 and decides; the means are of months first."""
        chlorine = by_statistic("running annual average", "free-chlorine")
        quarters = [(date(2026, month, 10), number) for month, number in
                    ((2, 2.6), (5, 3.0), (8, 3.4), (11, 4.6))]  # fmt: skip
        found = told(chlorine, *quarters)
        self.assertAlmostEqual(found.high or 0, 3.4)
        self.assertEqual((found.sign, found.have), ("within", 4))
        more = [
            *quarters,
            *((date(2026, 11, 20), 4.6) for _ in range(30)),
            (date(2026, 10, 3), 1.0),
        ]
        self.assertAlmostEqual(told(chlorine, *more).high or 0, (2.6 + 3.0 + 3.4 + 2.8) / 4)
        high = [(day, 4.6) for day, _ in quarters]
        self.assertEqual(told(chlorine, *high).sign, "beyond")

    def test_a_quarter_without_a_sample(self) -> None:
        """No figure, and which quarter it is; over the turn of the year too."""
        chlorine = by_statistic("running annual average", "free-chlorine")
        found = told(chlorine, (date(2025, 11, 2), 2.0), (date(2026, 8, 2), 2.0))
        self.assertIsNone(found.sign)
        self.assertEqual((found.have, found.needed), (2, 4))
        self.assertEqual(
            found.missing, "No sample in the first quarter of 2026 and the second quarter of 2026."
        )

    def test_a_mean_with_its_confirmation(self) -> None:
        """Alone it needs one more; with it the mean decides, at the limit's own figures."""
        nitrate = by_statistic("mean of the sample and its confirmation", "nitrate")
        self.assertEqual(told(nitrate, *days(10.8)).missing, "A second sample is needed.")
        self.assertEqual(told(nitrate, *days(10.8, 9.0)).sign, "within")
        self.assertEqual(told(nitrate, *days(11.0, 10.4)).sign, "beyond")
        self.assertEqual(told(nitrate, *days(10.2, 10.6)).sign, "within", "10.4 is 10 by the rule")
        self.assertIsNone(told(nitrate, *days(10.8, 9.0, every=30)).sign)

    def test_two_days_in_a_row(self) -> None:
        """Above only where both are."""
        dioxide = by_statistic("two days in a row")
        self.assertEqual(told(dioxide, *days(0.9, 0.95)).sign, "beyond")
        self.assertEqual(told(dioxide, *days(0.9, 0.5)).sign, "within")
        self.assertEqual(
            told(dioxide, *days(0.9, 0.9, every=2)).missing,
            "The sample of the day before is needed.",
        )

    def test_three_samples_of_a_day(self) -> None:
        """Two are too few."""
        chlorite = by_statistic("mean of three samples")
        three = [(START, 0.9), (START, 1.1), (START, 0.9)]
        self.assertEqual(told(chlorite, *three).sign, "within")
        self.assertEqual(told(chlorite, *three[:2]).missing, "Three samples of a day are needed.")

    def test_the_share_of_a_month(self) -> None:
        """Nineteen of twenty within are enough, eighteen are not; another month does not count."""
        turbidity = by_statistic("monthly share")
        many = [0.1] * 19
        before = (START - timedelta(days=20), 0.9)
        self.assertEqual(told(turbidity, before, *days(*many, 0.5)).sign, "within")
        self.assertEqual(told(turbidity, *days(*many[:18], 0.5, 0.5)).sign, "beyond")
        self.assertEqual(told(turbidity, *days(*many, 0.5)).text, "95 %")

    def test_results_that_nobody_could_see(self) -> None:
        """Taken as nought and as their figure: within where both are, else too close to call."""
        lead = by_statistic("90th percentile", "lead")
        low = told(lead, *days("<0.002", "<0.002", 0.003, "<0.002", "<0.002"))
        self.assertEqual(low.sign, "within")
        high = told(lead, *days(*["<0.02"] * 8))
        self.assertEqual((high.sign, high.low, high.high), ("close", 0.0, 0.02))

    def test_a_long_term_mean(self) -> None:
        """Of a year's samples; one sample is none."""
        chloride = limit("chloride-long", "ccme-freshwater")
        found = told(chloride, *days(140, 90, 100, every=60))
        self.assertAlmostEqual(found.high or 0, 110)
        self.assertEqual((found.sign, found.missing), ("within", ""))
        self.assertEqual(told(chloride, *days(140)).missing, "One sample is no mean.")

    def test_where_each_sample_counts(self) -> None:
        """There is no statistic; nor without a sample."""
        fluoride = by_statistic("each sample", "fluoride")
        self.assertIsNone(compliance(fluoride, samples(fluoride, (START, 1.0))))
        self.assertIsNone(compliance(by_statistic("90th percentile"), []))
