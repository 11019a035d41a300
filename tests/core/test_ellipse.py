"""The elliptical section: against tables at its ends, and finite elements in between."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lepidos.core.cold import conduction, thermal_history
from lepidos.core.cold.cooling_body import CoolingBody, cooling_body, core_after, time_until
from lepidos.core.cold.ellipse import MAX_ASPECT, modes
from lepidos.core.errors import OutOfRange
from lepidos.guide.library import load_guide
from tests.core import section_fem

GUIDE = load_guide()
THICK = 0.06


def body(aspect: float, thick: float = THICK) -> CoolingBody:
    return CoolingBody("ellipse", thick, thick * aspect)


class EndsTest(unittest.TestCase):
    def test_a_circle_is_the_cylinder_of_the_tables(self) -> None:
        # Incropera & DeWitt, table 5.1, by way of `conduction.roots`, which is held to it
        for biot in (0.02, 0.1, 1.0, 5.0, 20.0, 100.0):
            found = modes(1.0, biot)
            even = np.abs(found.start * found.core) > 1e-6  # the others the middle does not feel
            for n in range(3):
                self.assertAlmostEqual(
                    math.sqrt(found.squares[even][n]),
                    conduction.roots("cylinder", biot)[n],
                    delta=2e-4,
                )
                self.assertAlmostEqual(
                    float((found.start * found.core)[even][n]),
                    conduction.constants("cylinder", biot)[n],
                    delta=3e-3,
                )

    def test_a_very_long_one_is_the_slab(self) -> None:
        for h in (20.0, 120.0, 400.0):
            for minutes in (20, 60, 180):
                flat = core_after(body(MAX_ASPECT), 14, 0, h, minutes * 60)
                slab = conduction.core_temperature("slab", THICK, 14, 0, h, minutes * 60)
                self.assertAlmostEqual(flat, slab, delta=0.08)

    def test_what_starts_even_is_even_and_its_mean_too(self) -> None:
        for aspect in (1.0, 1.9, 6.0):
            for biot in (0.1, 3.0, 40.0):
                found = modes(aspect, biot)
                self.assertAlmostEqual(float(found.start @ found.core), 1.0, places=9)
                self.assertAlmostEqual(float(found.start @ found.share), 1.0, places=9)

    def test_a_poor_medium_takes_by_rim_and_area(self) -> None:
        # one lump: its time constant is Bi · rim / area, Ramanujan's rim being good to 1e-4 here
        for aspect in (1.0, 2.0, 5.0):
            h = ((aspect - 1) / (aspect + 1)) ** 2
            rim = math.pi * (1 + aspect) * (1 + 3 * h / (10 + math.sqrt(4 - 3 * h)))
            least = float(modes(aspect, 1e-3).squares[0])
            self.assertAlmostEqual(least / (1e-3 * rim / (math.pi * aspect)), 1.0, delta=2e-3)

    def test_refuses_what_cannot_be(self) -> None:
        for aspect, biot in ((0.9, 1.0), (MAX_ASPECT + 1, 1.0), (2.0, 0.0), (2.0, math.inf)):
            with self.assertRaises(OutOfRange):
                modes(aspect, biot)
        with self.assertRaises(OutOfRange):
            core_after(body(2.0), 14, 0, 0.1, 60)
        self.assertEqual(time_until(body(2.0), 14, 2, 100, 1.0), math.inf)


class FiniteElementsTest(unittest.TestCase):
    def test_the_elements_themselves_are_right_for_a_circle(self) -> None:
        for biot in (0.5, 5.0, 20.0):
            for fourier in (0.1, 0.4):
                _, cores, _ = section_fem.cooled(1.0, [(fourier, biot, 0.0)], 1.0)
                exact = conduction.core_ratio("cylinder", biot, fourier)
                self.assertAlmostEqual(cores[-1], exact, delta=3e-3)

    def test_the_time_to_cool_is_within_two_per_cent(self) -> None:
        for aspect in (1.25, 1.9, 3.0, 6.0, 12.0):
            for biot in (0.3, 3.0, 15.0):
                for ratio in (0.7, 0.3, 0.1):
                    h = biot * conduction.CONDUCTIVITY / (THICK / 2)
                    seconds = time_until(body(aspect), 10.0, 0.0, h, 10 * ratio)
                    ours = conduction.DIFFUSIVITY * seconds / (THICK / 2) ** 2
                    theirs = section_fem.time_to_ratio(aspect, biot, ratio, ours)
                    with self.subTest(aspect=aspect, biot=biot, ratio=ratio):
                        self.assertAlmostEqual(ours / theirs, 1.0, delta=0.02)

    def test_through_three_media_core_and_mean_agree(self) -> None:
        scale = conduction.DIFFUSIVITY / (THICK / 2) ** 2
        bi = THICK / 2 / conduction.CONDUCTIVITY
        stays = [(2400, 18.0, 10.0), (5400, -0.5, 400.0), (3600, 6.0, 10.0)]
        for aspect in (1.3, 2.2, 6.0):
            found = thermal_history.history(
                body(aspect), 13.0, [thermal_history.Stay(*s) for s in stays]
            )
            _, cores, means = section_fem.cooled(
                aspect, [(s * scale, h * bi, c) for s, c, h in stays], 13.0
            )
            self.assertAlmostEqual(found.core[-1], cores[-1], delta=0.1)
            self.assertAlmostEqual(found.mean[-1], means[-1], delta=0.1)

    def test_fish_of_the_guide_in_ice_and_in_air(self) -> None:
        # `bench.sections` does it for every fish, medium and two sizes
        for key in ("lingcod", "cod", "mackerel", "turbot", "thornback_ray"):
            one = GUIDE.one(key)
            length_m = one.longest_cm / 200
            kg = one.length_weight.a * (length_m * 100) ** one.length_weight.b / 1000
            fish = cooling_body(GUIDE.body_of(one), length_m, kg)
            for medium in ("drained_ice", "open_air"):
                h = GUIDE.media[medium].h
                seconds = time_until(fish, 14.0, 0.0, h, 4.0)
                ours = conduction.DIFFUSIVITY * seconds / (fish.size_m / 2) ** 2
                theirs = section_fem.time_to_ratio(fish.aspect, fish.biot(h), 4 / 14, ours)
                with self.subTest(fish=key, medium=medium):
                    self.assertAlmostEqual(ours / theirs, 1.0, delta=0.05)


class WayTest(unittest.TestCase):
    @settings(deadline=None, max_examples=100)
    @given(
        st.floats(1, MAX_ASPECT), st.floats(0.02, 0.2), st.floats(5, 800), st.floats(120, 60_000),
        st.floats(1.02, 2.0),
    )  # fmt: skip
    def test_longer_is_colder_and_thicker_or_rounder_is_warmer(
        self, aspect: float, thick: float, h: float, seconds: float, more: float
    ) -> None:
        slack = 0.1  # of 15 K: what the last polynomials leave at short times
        now = core_after(body(aspect, thick), 15, 0, h, seconds)
        self.assertLessEqual(core_after(body(aspect, thick), 15, 0, h, seconds * more), now + slack)
        thicker = CoolingBody("ellipse", thick * more, thick * more * aspect)
        self.assertGreaterEqual(core_after(thicker, 15, 0, h, seconds), now - slack)
        wider = body(min(MAX_ASPECT, aspect * more), thick)
        self.assertGreaterEqual(core_after(wider, 15, 0, h, seconds), now - slack)

    @settings(deadline=None, max_examples=100)
    @given(
        st.floats(1, MAX_ASPECT), st.floats(0.02, 0.3),
        st.lists(
            st.tuples(st.floats(1, 40_000), st.floats(-2, 25), st.floats(5, 800)),
            min_size=1, max_size=6,
        ),
    )  # fmt: skip
    def test_a_core_stays_between_what_it_came_from_and_lay_in(
        self, aspect: float, size: float, stays: list[tuple[float, float, float]]
    ) -> None:
        found = thermal_history.history(
            body(aspect, size), 14.0, [thermal_history.Stay(*s) for s in stays]
        )
        coldest, warmest = (f([14.0, *(c for _, c, _ in stays)]) for f in (min, max))
        self.assertGreaterEqual(found.core.min(), coldest - 1e-9)
        self.assertLessEqual(found.core.max(), warmest + 1e-9)

    def test_every_fish_that_may_be_landed_has_a_way_through_every_medium(self) -> None:
        # found by the pages: a ray of a centimetre is thinner than a millimetre
        for one in GUIDE.species.values():
            for length_m in (0.01, one.longest_cm / 100):
                usual = one.length_weight.a * (length_m * 100) ** one.length_weight.b / 1000
                for kg in (usual / 8, usual, usual * 8):
                    fish = cooling_body(GUIDE.body_of(one), length_m, max(kg, 1e-6))
                    stays = [thermal_history.Stay(3600, 0.0, m.h_low) for m in GUIDE.media.values()]
                    found = thermal_history.history(fish, 14.0, stays, 3600)
                    self.assertTrue(np.isfinite(found.core).all(), one.key)

    def test_two_stays_in_the_same_medium_are_one(self) -> None:
        half, whole = (thermal_history.Stay(s, 0.0, 120.0) for s in (4000, 8000))
        twice = thermal_history.history(body(2.4), 15.0, [half, half])
        once = thermal_history.history(body(2.4), 15.0, [whole])
        self.assertAlmostEqual(twice.core[-1], once.core[-1], delta=1e-6)
        self.assertAlmostEqual(twice.mean[-1], once.mean[-1], delta=1e-6)

    def test_the_equal_cylinder_and_the_slab_were_wrong_by_what_the_trade_found(self) -> None:
        # what this model replaces: a cylinder of the same area is up to a third too slow
        slow = []
        for one in GUIDE.species.values():
            length_m = one.longest_cm / 200
            kg = one.length_weight.a * (length_m * 100) ** one.length_weight.b / 1000
            fish = cooling_body(GUIDE.body_of(one), length_m, kg)
            if fish.aspect < 2:
                same = math.sqrt(fish.size_m * fish.across_m)
                plain = conduction.time_to("cylinder", same, 14.0, 0.0, 120.0, 4.0)
                slow.append(plain / time_until(fish, 14.0, 0.0, 120.0, 4.0))
        self.assertGreater(max(slow), 1.12)
        self.assertLess(max(slow), 1.35)
        self.assertGreater(min(slow), 0.99)


if __name__ == "__main__":
    unittest.main()
