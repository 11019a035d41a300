"""Freezing time: worked examples, an independent finite-difference solution, and what must hold."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.errors import OutOfRange
from lepidos.core.freezer.freezing_time import (
    Block,
    Frozen,
    fish_of_water,
    freezing_hours,
    plank_hours,
    shape_factor,
)

ENDLESS_M = 3.0  # beside some centimetres of thickness
THICK = st.floats(0.005, 0.08)


def by_differences(
    thick_m: float, air_c: float, start_c: float, surface_w: float, water: float, end_c: float
) -> float:
    """Hours by enthalpy finite differences for an endless slab, cooled from both sides.

    Ice forms as in an ideal solution, 1 − Tf/T of the water (Raoult, as in ASHRAE's handbook);
    conductivity and heat follow the ice. Nothing of it is Pham's.
    """
    freezes_c, nodes = -1.0, 14
    fish = fish_of_water(water)
    dx = thick_m / 2 / nodes
    grid = np.concatenate([np.linspace(-45, freezes_c, 8000), np.linspace(freezes_c, 30, 400)[1:]])
    ice = np.where(grid < freezes_c, 1 - freezes_c / np.minimum(grid, freezes_c), 0.0)
    heat = fish.heat_frozen * ice + fish.heat_unfrozen * (1 - ice)
    steps = np.diff(grid) * (heat[1:] + heat[:-1]) / 2 - 333_200 * water * np.diff(ice)
    enthalpy = np.concatenate([[0.0], np.cumsum(steps)])
    conductivity = 0.5 + (fish.conductivity - 0.5) * ice
    h = np.full(nodes, np.interp(start_c, grid, enthalpy))
    density, seconds = 1000.0, 0.0
    dt = 0.35 * dx**2 * density * fish.heat_frozen / fish.conductivity
    while True:
        t = np.interp(h, enthalpy, grid)
        if t[0] <= end_c:
            return seconds / 3600
        k = np.interp(t, grid, conductivity)
        between = 2 * k[1:] * k[:-1] / (k[1:] + k[:-1]) * (t[1:] - t[:-1]) / dx
        out = (t[-1] - air_c) / (1 / surface_w + dx / 2 / k[-1])
        gain = np.diff(np.concatenate([[0.0], between, [-out]]))
        h = h + gain * dt / (density * dx)
        seconds += dt


class PublishedTest(unittest.TestCase):
    def test_a_sphere_by_plank(self) -> None:
        """Singh & Heldman: 7 cm, h 50, in air of −40 °C."""
        hours = plank_hours(
            0.07, 1 / 6, 1 / 24, density=1000, latent=250e3, surface_w=50, conductivity=1.2,
            freezes_c=-1.25, air_c=-40,
        )  # fmt: skip
        self.assertAlmostEqual(hours or 0, 0.72, delta=0.005)

    def test_a_block_of_lean_beef_by_plank(self) -> None:
        """Singh & Heldman: 1 × 0.6 × 0.25 m, h 30, in air of −30 °C."""
        hours = plank_hours(
            0.25, 0.3, 0.085, density=1050, latent=248.25e3, surface_w=30, conductivity=1.108,
            freezes_c=-1.75, air_c=-30,
        )  # fmt: skip
        self.assertAlmostEqual(hours or 0, 18.7, delta=0.05)

    def test_a_slab_of_meat_between_cold_plates_wrapped_and_bare(self) -> None:
        """Earle, *Unit Operations in Food Processing*, freezing of a slab of meat (memory).

        10 cm, plates at −34 °C: 1.48 × 10⁴ s in 1 mm of cardboard on each side, 7.5 × 10³ s bare.
        """
        for surface, seconds in ((1 / (0.001 / 0.06 + 1 / 600), 1.48e4), (600, 7.5e3)):
            hours = plank_hours(
                0.1, 0.5, 0.125, density=1090, latent=2.56e5, surface_w=surface, conductivity=1.6,
                freezes_c=-2, air_c=-34,
            )  # fmt: skip
            self.assertAlmostEqual((hours or 0) * 3600 / seconds, 1.0, delta=0.01)


class DifferencesTest(unittest.TestCase):
    def test_pham_is_within_a_tenth_of_an_independent_solution(self) -> None:
        for thick, air, start, surface, water in (
            (0.020, -20, 4, 8, 0.80),
            (0.030, -25, 2, 20, 0.80),
            (0.040, -30, 10, 60, 0.74),
            (0.025, -22, 5, 8, 0.66),
            (0.050, -35, 2, 150, 0.80),
        ):
            with self.subTest(thick=thick, air=air):
                # the slab does not swell as it freezes
                fish = replace(fish_of_water(water), density_unfrozen=1000.0)
                block = Block(thick, ENDLESS_M, ENDLESS_M)
                mine = freezing_hours(block, air, start, surface, fish)
                theirs = by_differences(thick, air, start, surface, water, -18)
                self.assertAlmostEqual((mine or 0) / theirs, 1.0, delta=0.10)


class HoldsTest(unittest.TestCase):
    FISH: Frozen = fish_of_water(0.8)

    def hours(self, thick: float, **more: float) -> float:
        values = {"air": -25.0, "start": 4.0, "surface": 10.0} | more
        block = Block(thick, 0.2, 0.3)
        found = freezing_hours(block, values["air"], values["start"], values["surface"], self.FISH)
        assert found is not None
        return found

    @given(THICK, st.floats(1.05, 3))
    def test_thicker_takes_longer(self, thick: float, more: float) -> None:
        self.assertGreater(self.hours(min(0.09, thick * more)), self.hours(thick))

    @given(THICK)
    def test_colder_air_a_cooler_start_and_moving_air_are_quicker(self, thick: float) -> None:
        usual = self.hours(thick)
        self.assertLess(self.hours(thick, air=-35), usual)
        self.assertLess(self.hours(thick, start=0), usual)
        self.assertLess(self.hours(thick, surface=30), usual)

    @given(THICK)
    def test_one_side_alone_takes_about_twice_as_long_or_more(self, thick: float) -> None:
        both, one = (
            freezing_hours(Block(thick, ENDLESS_M, ENDLESS_M, side), -25, 4, 10, self.FISH)
            for side in (False, True)
        )
        self.assertGreaterEqual((one or 0) / (both or 1), 1.99)
        self.assertLessEqual((one or 0) / (both or 1), 4.01)

    def test_a_fish_that_goes_in_below_freezing_has_nothing_above_it_to_give(self) -> None:
        # the mean freezing temperature by Pham: 1.8 + 0.263 · −5 + 0.105 · −6 = −0.145 °C
        at_mean, colder = (
            freezing_hours(Block(0.03, 0.2, 0.3), -6, start, 10, self.FISH, -5)
            for start in (-0.145, -1.0)
        )
        self.assertAlmostEqual(at_mean or 0, colder or 0, places=6)
        warmer = freezing_hours(Block(0.03, 0.2, 0.3), -6, 1.0, 10, self.FISH, -5)
        self.assertGreater(warmer or 0, at_mean or 0)

    def test_air_that_is_not_colder_never_freezes_it(self) -> None:
        block = Block(0.03, 0.2, 0.3)
        self.assertIsNone(freezing_hours(block, -18, 4, 10, self.FISH))
        self.assertIsNone(freezing_hours(block, -5, 4, 10, self.FISH))
        self.assertIsNotNone(freezing_hours(block, -18.5, 4, 10, self.FISH))

    def test_a_short_narrow_bag_is_quicker_than_an_endless_slab(self) -> None:
        self.assertGreater(shape_factor(Block(0.03, 0.06, 0.1), 0.5), 1.2)
        self.assertAlmostEqual(
            shape_factor(Block(0.03, ENDLESS_M, ENDLESS_M), 0.5), 1.0, delta=0.03
        )
        self.assertAlmostEqual(shape_factor(Block(0.05, 0.05, 0.05), 1e-6), 3.0, delta=0.01)

    def test_what_cannot_be_is_refused(self) -> None:
        for block, air, start in (
            (Block(0.0, 0.2, 0.3), -20, 4),
            (Block(0.03, 0.2, 9.0), -20, 4),
            (Block(0.03, 0.2, 0.3), -120, 4),
            (Block(0.03, 0.2, 0.3), -20, 90),
        ):
            with self.subTest(block=block), self.assertRaises(OutOfRange):
                freezing_hours(block, air, start, 10, self.FISH)
        with self.assertRaises(OutOfRange):
            fish_of_water(1.2)
