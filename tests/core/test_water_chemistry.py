"""Oxygen, ammonia, alkalinity, indices, plant balances and statistics: what has to hold for every
input, and where each definition ends."""

import unittest
from math import exp

from hypothesis import given
from hypothesis import strategies as st

from kessa_core.calculations import calculate
from kessa_core.chemistry import alkalinity, ammonia, oxygen, plant
from kessa_core.errors import CoreError, NotANumber
from kessa_core.judging import statistics

amounts = st.floats(0, 5000)
temperatures = st.floats(0, 39)


class Oxygen(unittest.TestCase):
    @given(temperatures, st.floats(600, 1100), st.floats(0, 39))
    def test_less_where_it_is_warmer_higher_or_salter(self, t: float, p: float, s: float) -> None:
        held = oxygen.saturation_mg_l(t, p, s)
        self.assertGreater(held, oxygen.saturation_mg_l(t + 1, p, s))
        self.assertGreater(held, oxygen.saturation_mg_l(t, p - 10, s))
        self.assertGreater(held, oxygen.saturation_mg_l(t, p, s + 1))

    def test_pressure_of_the_standard_atmosphere(self) -> None:
        """The table of ISO 2533: 1013.25, 954.61, 898.75 and 794.95 hPa."""
        for metres, hpa in ((0, 1013.25), (500, 954.61), (1000, 898.75), (2000, 794.95)):
            with self.subTest(metres=metres):
                self.assertAlmostEqual(oxygen.pressure_at_hpa(metres), hpa, delta=0.02)


class Alkalinity(unittest.TestCase):
    @given(amounts, amounts)
    def test_the_species_are_the_alkalinities_again(self, one: float, other: float) -> None:
        """Together M; hydroxide and half the carbonate P; hydroxide beside bicarbonate never."""
        p, m = sorted((one, other))
        found = alkalinity.species(p, m)
        self.assertAlmostEqual(sum(found), m, delta=1e-9 * (1 + m))
        self.assertAlmostEqual(found.hydroxide + found.carbonate / 2, p, delta=1e-9 * (1 + m))
        self.assertEqual(min(found.hydroxide, found.bicarbonate), 0)
        self.assertGreaterEqual(min(found), 0)

    def test_p_above_m_is_refused(self) -> None:
        with self.assertRaisesRegex(NotANumber, "P alkalinity .95. is above M alkalinity .90."):
            alkalinity.species(95, 90)


class Plant(unittest.TestCase):
    @given(st.floats(0, 500), st.floats(1.01, 20))
    def test_water_and_salt_balance(self, evaporation: float, cycles: float) -> None:
        """What comes in goes out, water and salt alike."""
        found = plant.balance(evaporation, cycles)
        self.assertAlmostEqual(found.makeup, found.blowdown + evaporation, delta=1e-9 * 5e4)
        self.assertAlmostEqual(found.makeup, cycles * found.blowdown, delta=1e-6 * 5e4)

    @given(st.floats(0, 500), st.floats(0, 5), st.floats(0, 100), st.floats(0, 100))
    def test_a_loop_in_two_steps_is_the_loop_in_one(
        self, first: float, loss: float, one: float, other: float
    ) -> None:
        loop = {"volume_m3": 20, "loss_m3_h": loss, "feed_g_h": 3, "makeup_mg_l": 2}
        between = plant.inhibitor_mg_l(first, hours=one, **loop)
        twice = plant.inhibitor_mg_l(between, hours=other, **loop)
        at_once = plant.inhibitor_mg_l(first, hours=one + other, **loop)
        self.assertAlmostEqual(twice, at_once, delta=1e-6 * (1 + at_once))

    def test_a_loop_that_loses_next_to_nothing(self) -> None:
        """As one that loses nothing; after long it holds what is fed into it."""
        still = plant.inhibitor_mg_l(100, 50, 0, 24, 5, 0)
        self.assertAlmostEqual(plant.inhibitor_mg_l(100, 50, 1e-12, 24, 5, 0), still, places=6)
        self.assertAlmostEqual(plant.inhibitor_mg_l(100, 50, 2, 1e5, 30, 4), 19)
        half = plant.half_life_h(50, 2)
        self.assertAlmostEqual(plant.inhibitor_mg_l(100, 50, 2, half, 0, 0), 50)
        self.assertAlmostEqual(plant.inhibitor_mg_l(100, 50, 2, 25, 0, 0), 100 * exp(-1))

    def test_where_there_is_no_answer(self) -> None:
        """The very ends: what is equal, nought, or the wrong way round."""
        for name, inputs, says in (
            ("cooling-balance", {"evaporation_m3_h": 3, "cycles": 1}, "above 1"),
            ("cooling-cycles", {"circulating": 3, "makeup": 0}, "above 0"),
            ("boiler-blowdown", {"feed_tds": 9, "boiler_tds": 9, "steam_t_h": 1}, "more than"),
            ("boiler-blowdown", {"feed_tds": 0, "boiler_tds": 9, "steam_t_h": 1}, "above 0"),
            ("dose", {"volume_l": 9, "current_mg_l": 3, "target_mg_l": 2.9,
                      "product_fraction": 1, "density_kg_l": 1}, "holds 3 mg/L already"),
            ("dose", {"volume_l": 9, "current_mg_l": 0, "target_mg_l": 1,
                      "product_fraction": 1.01, "density_kg_l": 1}, "at most 1"),
            ("langelier", {"ph": 14.1, "temperature_c": 9, "tds_mg_l": 9, "calcium_as_caco3": 1,
                           "alkalinity_as_caco3": 1}, "at most 14"),
        ):  # fmt: skip
            with self.subTest(name), self.assertRaisesRegex(CoreError, says):
                calculate(name, inputs)


class Criteria(unittest.TestCase):
    def test_only_where_their_documents_give_them(self) -> None:
        """At the last value itself, and not a step beyond."""
        for name, key, others, ends, beyond in (
            ("copper-criterion", "hardness_mg_l", {}, (25, 400), (24.9, 400.1)),
            ("ammonia-criterion", "ph", {"temperature_c": 9}, (6.5, 9), (6.4, 9.1)),
            ("ammonia-criterion", "temperature_c", {"ph": 8}, (0, 30), (-0.1, 30.1)),
            ("oxygen-saturation", "temperature_c", {}, (0, 40), (-0.1, 40.1)),
            ("oxygen-saturation", "salinity_psu", {"temperature_c": 9}, (0, 40), (-1, 40.1)),
            ("oxygen-saturation", "pressure_hpa", {"temperature_c": 9}, (507, 1114), (506, 1115)),
        ):
            for value in ends:
                with self.subTest(name, key=key, value=value):
                    self.assertTrue(calculate(name, {key: value, **others}))
            for value in beyond:
                with self.subTest(name, key=key, value=value), self.assertRaises(CoreError):
                    calculate(name, {key: value, **others})

    def test_the_cold_does_not_count_below_7(self) -> None:
        """The chronic ammonia criterion is that of 7 °C in anything colder."""
        self.assertEqual(ammonia.criteria(8, 0).chronic, ammonia.criteria(8, 7).chronic)
        self.assertGreater(ammonia.criteria(8, 7).chronic, ammonia.criteria(8, 7.1).chronic)


class Statistics(unittest.TestCase):
    def test_ten_taps_with_one_high(self) -> None:
        """One of ten at 0.020: the ninth counts."""
        taps = [0.003] * 8 + [0.009, 0.020]
        self.assertEqual(statistics.percentile_90(taps), 0.009)

    def test_the_highest_of_four_the_fourth_and_half_of_five(self) -> None:
        self.assertEqual(statistics.percentile_90([4, 1, 3, 2]), 4)
        self.assertEqual(statistics.percentile_90([4, 1, 3, 2, 5]), 4.5)
        self.assertEqual(statistics.percentile_90([7]), 7)

    @given(st.lists(amounts, min_size=1, max_size=40))
    def test_between_the_lowest_and_the_highest(self, values: list[float]) -> None:
        """In whatever order, and at least nine tenths of the samples lie at or below it."""
        found = statistics.percentile_90(values)
        self.assertEqual(found, statistics.percentile_90(values[::-1]))
        self.assertTrue(min(values) <= found <= max(values))
        self.assertGreaterEqual(sum(one <= found for one in values) + 1, 0.9 * len(values))

    def test_quarters(self) -> None:
        """Means of quarters, not of samples; an empty quarter or three are refused."""
        uneven = [[1, 1, 1, 1], [1], [1], [9]]
        self.assertEqual(statistics.running_annual_averages(uneven), [3])
        for quarters in ([[1], [1], [1]], [[1], [], [1], [1]], []):
            with self.subTest(quarters=quarters), self.assertRaises(NotANumber):
                statistics.running_annual_averages(quarters)
        with self.assertRaises(NotANumber):
            statistics.percentile_90([])
