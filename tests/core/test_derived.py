"""What follows from several values of one sample: found, computed with its range, refused with a
reason; and values that contradict each other."""

import unittest
from datetime import UTC, datetime, timedelta
from math import sqrt

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from kessa_core.chemistry import ammonia, oxygen
from kessa_core.derived import DerivedValue, Measured, Place, contradictions, derive
from kessa_core.derived.propagation import carry
from kessa_core.quantities import Interval, Quantity, Value

AT = datetime(2026, 11, 29, 9, 30, tzinfo=UTC)
ANYWHERE = Place()


def value(parameter: str, number: float, half: float, form: str = "total", basis: str = "",
          unit: str = "mg/L", decimals: int = 2, qualifier: str = "") -> Value:  # fmt: skip
    """A value with a range of *half* to both sides."""
    low = None if qualifier == "<" else max(number - half, 0)
    high = None if qualifier == ">" else number + half
    quantity = Quantity(parameter, form, basis, unit)
    return Value(quantity, number, decimals, Interval(low, high), qualifier)


def ph(number: float, half: float = 0.1) -> Value:
    return value("ph", number, half, unit="pH")


def warmth(number: float, half: float = 0.5) -> Value:
    return value("temperature", number, half, "water", unit="°C", decimals=1)


def p_and_m(p: float, m: float, half: float = 5) -> tuple[Value, Value]:
    return (
        value("alkalinity", p, half, "p", "CaCO3", decimals=0),
        value("alkalinity", m, half, "m", "CaCO3", decimals=0),
    )


def derived(*values: Value, place: Place = ANYWHERE, others: tuple[Measured, ...] = ()) -> dict:
    """What follows, by key."""
    measured = [Measured(one, AT, place.part) for one in values]
    return {one.derived.key: one for one in derive([*measured, *others], AT, place)}


def text(one: DerivedValue) -> str:
    assert one.value is not None
    return f"{one.value.text} ({one.value.range_text})"


class Propagation(unittest.TestCase):
    def test_a_sum_by_squares(self) -> None:
        """3 ± 0.3 and 4 ± 0.4: 7 ± 0.5."""
        found = carry(lambda a, b: a + b, [value("iron", 3, 0.3), value("iron", 4, 0.4)])
        self.assertAlmostEqual(found.low, 6.5)
        self.assertAlmostEqual(found.high, 7.5)

    def test_against_drawn_values(self) -> None:
        """Un-ionised ammonia: the middle 95 % of 200 000 draws, within a tenth of their width."""
        inputs = [value("ammonia", 1.2, 0.2, basis="N"), ph(8.2, 0.15), warmth(14, 1)]
        found = carry(lambda n, p, t: n * ammonia.unionised_fraction(p, t), inputs)
        rng = np.random.default_rng(3)
        drawn = [rng.normal(one.number, (one.interval.high - one.number) / 1.96, 200_000)
                 for one in inputs]  # fmt: skip
        truth = drawn[0] / (1 + 10 ** (0.09018 + 2729.92 / (273.2 + drawn[2]) - drawn[1]))
        low, high = np.quantile(truth, (0.025, 0.975))
        self.assertAlmostEqual(found.low, low, delta=(high - low) / 10)
        self.assertAlmostEqual(found.high, high, delta=(high - low) / 10)

    @given(st.floats(0, 100), st.floats(0, 10), st.floats(0, 100), st.floats(0, 10))
    def test_never_narrower_than_one_input_alone(
        self, a: float, a_half: float, b: float, b_half: float
    ) -> None:
        both = [value("iron", a, a_half), value("iron", b, b_half)]
        found = carry(lambda x, y: x + y, both)
        self.assertLessEqual(found.low, found.number)
        up = found.high - found.number
        self.assertGreaterEqual(up + 1e-9, max(a_half, b_half))
        self.assertAlmostEqual(up, sqrt(a_half**2 + b_half**2), delta=1e-6 * (1 + a + b))

    def test_bounds_are_added_in_full(self) -> None:
        """< 0.02 beside 5 ± 0: from 5 to 5.02; "> 3" leaves the upper side open."""
        sure = value("nitrate", 5, 0, basis="N")
        found = carry(lambda a, b: a + b, [sure, value("nitrite", 0.02, 0, qualifier="<")])
        self.assertAlmostEqual(found.low, 5)
        self.assertAlmostEqual(found.high, 5.02)
        open_ = carry(lambda a, b: a + b, [sure, value("nitrite", 3, 0, qualifier=">")])
        self.assertEqual(open_.high, float("inf"))


class Deriving(unittest.TestCase):
    def test_oxygen_at_a_place_480_m_up(self) -> None:
        """8.9 mg/L at 12 °C: of what the water holds there, with the inputs named."""
        o2 = value("oxygen", 8.9, 0.3, "dissolved", decimals=1)
        found = derived(o2, warmth(12), place=Place(altitude_m=480))["oxygen-percent"]
        hpa = oxygen.pressure_at_hpa(480)
        self.assertAlmostEqual(found.value.number, 100 * 8.9 / oxygen.saturation_mg_l(12, hpa, 0))
        self.assertEqual(text(found), "88 % (84–91)")
        self.assertEqual(
            found.inputs,
            ("Dissolved oxygen 8.9 mg/L", "Temperature 12.0 °C",
             "Air pressure 957 hPa, as at 480 m", "Salinity taken as that of fresh water"),
        )  # fmt: skip
        lower = derived(o2, warmth(12))["oxygen-percent"]
        self.assertLess(lower.value.number, found.value.number)
        self.assertIn("as at sea level", lower.inputs[2])

    def test_what_was_measured_comes_before_what_is_taken(self) -> None:
        """A barometer, and salt water."""
        o2 = value("oxygen", 8.9, 0.3, "dissolved", decimals=1)
        hpa = value("air-pressure", 990, 1, unit="hPa", decimals=0)
        salt = value("salinity", 20, 1, unit="‰", decimals=0)
        found = derived(o2, warmth(12), hpa, salt)["oxygen-percent"]
        self.assertIn("Air pressure 990 hPa", found.inputs)
        self.assertIn("Salinity 20 ‰", found.inputs)

    def test_species_where_p_and_m_allow_them(self) -> None:
        """60 and 90: hydroxide 30, carbonate 60. P a little above M counts as M; far above, not."""
        found = derived(*p_and_m(60, 90))
        figures = [found[key].value.number for key in ("hydroxide", "carbonate", "bicarbonate")]
        self.assertEqual(figures, [30, 60, 0])
        near = derived(*p_and_m(95, 90))
        self.assertEqual(near["hydroxide"].value.number, 90)
        far = derived(*p_and_m(110, 90))["hydroxide"]
        self.assertIsNone(far.value)
        self.assertIn("which cannot be", far.reason)

    def test_in_the_basis_that_is_needed(self) -> None:
        """Nitrate as NO3 and nitrite as N: together as N, and as ratios of ions."""
        nitrate = value("nitrate", 44.27, 2, basis="NO3", decimals=0)
        nitrite = value("nitrite", 0.5, 0.1, basis="N")
        found = derived(nitrate, nitrite)
        self.assertAlmostEqual(found["oxidised-nitrogen"].value.number, 10.5, places=2)
        ratios = found["nitrogen-ratios"].value.number
        self.assertAlmostEqual(ratios, 44.27 / 50 + 0.5 * 3.2845 / 3, places=3)

    def test_a_difference_that_cannot_be_told_from_nothing(self) -> None:
        """Never below nought: "not detected", and less than what."""
        total = value("total-chlorine", 0.52, 0.1, basis="Cl2")
        free = value("free-chlorine", 0.55, 0.1, basis="Cl2")
        found = derived(total, free)["combined-chlorine"].value
        self.assertEqual((found.number, found.said), (0.0, "not detected"))
        self.assertTrue(found.said_range.startswith("less than 0.1"))
        measured = value("combined-chlorine", 0.1, 0.1, basis="Cl2")
        self.assertEqual(derived(total, free, measured), {})
        clear = derived(value("total-chlorine", 1.2, 0.1, basis="Cl2"), free)
        self.assertEqual(clear["combined-chlorine"].value.figure, "0.7")

    def test_bounds_stay_bounds(self) -> None:
        nitrite = value("nitrite", 0.02, 0, basis="N", qualifier="<")
        low = derived(value("nitrate", 0.1, 0, basis="N", qualifier="<"), nitrite)
        self.assertEqual(low["oxidised-nitrogen"].value.figure, "< 0.12")
        beside = derived(value("nitrate", 5, 0, basis="N"), nitrite)["oxidised-nitrogen"].value
        self.assertEqual(beside.figure, "5.00–5.02")
        above = derived(value("nitrate", 10, 0.5, basis="N", qualifier=">"), nitrite)
        self.assertEqual(above["oxidised-nitrogen"].value.qualifier, ">")

    def test_of_another_part_with_its_age(self) -> None:
        """Cycles from the make-up of three days ago; not of nine days ago, and not elsewhere."""
        circulating = value("chloride", 160, 8, basis="Cl", decimals=0)
        makeup = value("chloride", 40, 4, basis="Cl", decimals=0)
        place = Place("circulating")
        for days, is_there in ((0, True), (3, True), (9, False)):
            others = (Measured(makeup, AT - timedelta(days=days), "make-up"),)
            found = derived(circulating, place=place, others=others)
            with self.subTest(days=days):
                self.assertEqual("cycles" in found, is_there)
        three = (Measured(makeup, AT - timedelta(days=3), "make-up"),)
        found = derived(circulating, place=place, others=three)["cycles"]
        self.assertEqual(found.value.figure, "4.0")
        self.assertIn("3 days before", found.inputs[1])
        self.assertNotIn("cycles", derived(circulating, place=Place("make-up"), others=three))

    def test_what_is_too_old_or_lacking_is_left_out(self) -> None:
        total = value("ammonia", 1.0, 0.1, basis="N")
        self.assertEqual(derived(total, ph(8)), {})
        old = (Measured(warmth(12), AT - timedelta(hours=3)),)
        self.assertEqual(derived(total, ph(8), others=old), {})

    def test_without_an_answer(self) -> None:
        """Nothing of calcium: an index has none, and says so."""
        nothing = value("hardness", 0, 0, "calcium", "CaCO3")
        salt = value("conductivity", 500, 10, unit="µS/cm", decimals=0)
        m = p_and_m(0, 120)[1]
        found = derived(ph(7.8), warmth(15), salt, nothing, m)["lsi"]
        self.assertIsNone(found.value)
        self.assertEqual(found.reason, "These values allow no answer.")


class Relations(unittest.TestCase):
    def said(self, *values: Value) -> list[str]:
        return [one.what for one in contradictions(values)]

    def test_a_part_is_at_most_its_whole(self) -> None:
        """Above it by more than both ranges; within them nothing is said."""
        total = value("iron", 0.30, 0.05, basis="Fe")
        self.assertEqual(self.said(total, value("iron", 0.38, 0.05, "dissolved", "Fe")), [])
        found = self.said(total, value("iron", 0.48, 0.05, "dissolved", "Fe"))
        says = "Dissolved iron (0.48 mg/L as Fe) is above total iron (0.30 mg/L as Fe)."
        self.assertEqual(found, [says])

    def test_p_above_m(self) -> None:
        found = contradictions(p_and_m(110, 90))
        self.assertIn("P alkalinity", found[0].what)
        self.assertIn("exchanged", found[0].likely)
        self.assertEqual(contradictions(p_and_m(95, 90)), ())

    def test_in_one_basis(self) -> None:
        """Nitrite as NO2 against both as N: compared as nitrogen."""
        both = value("oxidised-nitrogen", 1.0, 0.1, basis="N")
        self.assertEqual(self.said(both, value("nitrite", 3.0, 0.1, basis="NO2")), [])
        self.assertEqual(len(self.said(both, value("nitrite", 4.2, 0.1, basis="NO2"))), 1)

    def test_what_cannot_be_together(self) -> None:
        for values, says in (
            ((p_and_m(40, 90)[0], ph(7.9, 0.1)), "needs a pH of 8.3"),
            ((p_and_m(0, 90)[1], ph(4.0, 0.1)), "needs a pH of 4.5"),
            ((value("chloride", 200, 10, basis="Cl"),
              value("conductivity", 1.4, 0.1, unit="µS/cm")), "is more than a conductivity"),
            ((value("hardness", 400, 10, basis="CaCO3"),
              value("conductivity", 300, 10, unit="µS/cm")), "is more than a conductivity"),
            ((value("free-chlorine", 0.5, 0.1, basis="Cl2"), value("ammonia", 0.4, 0.1, basis="N")),
             "does not last beside ammonia"),
            ((value("oxygen", 6, 0.5, "dissolved"), value("iron", 0.8, 0.1, "dissolved", "Fe"),
              ph(7.4)), "do not last together"),
            ((value("oxygen-percent", 180, 10, "dissolved", unit="%"),), "of what the water holds"),
            ((value("e-coli", 1, 0, "presence", unit="in 100 mL"),
              value("coliforms", 0, 0, "presence", unit="in 100 mL")), "is one of them"),
        ):  # fmt: skip
            with self.subTest(says):
                self.assertEqual([says in one for one in self.said(*values)], [True])

    def test_what_can(self) -> None:
        """The same pairs, a little less so."""
        for values in (
            (p_and_m(40, 90)[0], ph(8.25, 0.1)),
            (p_and_m(4, 90)[0], ph(7.9, 0.1)),
            (value("chloride", 140, 10, basis="Cl"),
             value("conductivity", 500, 10, unit="µS/cm")),
            (value("free-chlorine", 0.5, 0.1, basis="Cl2"), value("ammonia", 0.15, 0.1, basis="N")),
            (value("oxygen", 6, 0.5, "dissolved"), value("iron", 0.8, 0.1, "dissolved", "Fe"),
             ph(6.9)),
            (value("oxygen-percent", 155, 10, "dissolved", unit="%"),),
        ):  # fmt: skip
            with self.subTest(values):
                self.assertEqual(self.said(*values), [])
