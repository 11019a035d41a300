"""Heat balance, thawing, keeping time and what to use next: published values, and what must hold."""

import unittest
from datetime import date, timedelta

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.errors import OutOfRange
from lepidos.core.freezer.freezing_curve import freezing_curve
from lepidos.core.freezer.freezing_time import Block, fish_of_water, freezing_hours
from lepidos.core.freezer.heat_balance import (
    Load,
    enthalpy,
    neighbours_c,
    temperature_of,
    together_c,
    wall_w_k,
    without_power,
)
from lepidos.core.freezer.keeping_time import MONTHS, Fat, days_left, pace
from lepidos.core.freezer.thawing_time import thawing_hours
from lepidos.core.freezer.use_next import MealChoice, meals_for, meals_left

DAY = date(2026, 7, 14)
FATS = st.sampled_from(["lean", "medium", "fatty"])
COLD = st.floats(-30, 4)


class HeatTest(unittest.TestCase):
    def test_lean_fish_holds_the_heat_that_was_measured_in_it(self) -> None:
        """Riedel (1956), cod of 80 % water, kJ/kg above −40 °C, as handbooks print it (memory)."""
        for celsius, measured in ((-20, 42), (-10, 74), (-5, 105), (-1, 323), (0, 327)):
            with self.subTest(celsius=celsius):
                self.assertAlmostEqual(enthalpy(celsius, 0.8) / 1000 / measured, 1.0, delta=0.08)

    @given(st.floats(-45, 30), st.floats(0.6, 0.85))
    def test_heat_and_temperature_are_each_others_inverse(
        self, celsius: float, water: float
    ) -> None:
        self.assertAlmostEqual(
            temperature_of(enthalpy(celsius, water), water), celsius, delta=0.001
        )

    @given(st.floats(0.1, 50), st.floats(0.1, 200), st.floats(0, 20), st.floats(-30, -5))
    def test_what_one_gives_the_other_takes(
        self, warm: float, cold: float, start: float, frozen: float
    ) -> None:
        loads = [Load(warm, start), Load(cold, frozen)]
        end = together_c(loads)
        given = sum(
            load.kg * (enthalpy(load.celsius, load.water) - enthalpy(end, load.water))
            for load in loads
        )
        self.assertAlmostEqual(given / (warm + cold), 0, delta=1.0)  # J/kg of 300,000
        self.assertTrue(frozen - 1e-6 <= end <= start + 1e-6)

    def test_a_machine_that_takes_all_of_it_spares_the_neighbours(self) -> None:
        warm, frozen = Load(2, 5), Load(20, -18)
        alone = neighbours_c(warm, frozen, 0, 24)
        helped = neighbours_c(warm, frozen, 10, 24)
        self.assertGreater(alone, helped)
        self.assertGreater(alone, -13)
        self.assertAlmostEqual(neighbours_c(warm, frozen, 200, 24), -18, delta=0.01)

    def test_a_full_freezer_keeps_about_two_days_and_a_half_full_one_about_one(self) -> None:
        """FoodSafety.gov, power outages: 48 h full, 24 h half full, doors closed (memory)."""
        full = without_power(200, Load(100, -18), 22)
        half = without_power(200, Load(50, -18), 22)
        self.assertEqual((full.rule_hours, half.rule_hours), (48, 24))
        self.assertAlmostEqual(full.hours_to[-5.0] / 48, 1.0, delta=0.25)
        self.assertAlmostEqual(half.hours_to[-5.0] / 24, 1.0, delta=0.25)

    def test_an_outage_is_told_until_soft_until_thawing_and_until_thawed(self) -> None:
        self.assertEqual(list(without_power(200, Load(50, -18), 22).hours_to), [-12.0, -5.0, -1.5])

    def test_the_walls_of_a_200_litre_cabinet_let_in_what_such_a_wall_does(self) -> None:
        """U = 0.023 / 0.06 W/(m² K); a cube of 0.2 m³ inside, 6 cm walls, measured in the middle."""
        area = 6 * (0.2 ** (1 / 3) + 0.06) ** 2
        self.assertAlmostEqual(wall_w_k(200), 1.2 * 0.023 / 0.06 * area, places=9)

    @given(st.floats(1, 90), st.floats(1.01, 3), st.floats(5, 35))
    def test_more_fish_and_a_cooler_room_keep_longer(
        self, kg: float, more: float, room: float
    ) -> None:
        less, most = (
            without_power(200, Load(m, -18), room).hours_to[-5.0] for m in (kg, kg * more)
        )
        self.assertGreater(most, less)
        self.assertGreater(without_power(200, Load(kg, -18), room - 3).hours_to[-5.0], less)

    def test_what_cannot_be_is_refused(self) -> None:
        for call in (
            lambda: enthalpy(90, 0.8), lambda: wall_w_k(0), lambda: together_c([]),
            lambda: without_power(200, Load(0, -18), 20), lambda: without_power(200, Load(5, -18), 80),
        ):  # fmt: skip
            with self.subTest(call=call), self.assertRaises(OutOfRange):
                call()


def thawed_by_differences(thick_m: float, around_c: float, surface_w: float, water: float) -> float:
    """Hours from −18 °C to −0.5 °C in the middle of an endless slab, by enthalpy differences."""
    nodes, fish = 8, fish_of_water(water)
    dx = thick_m / 2 / nodes
    grid = np.concatenate([np.linspace(-40, -1, 6000), np.linspace(-1, 30, 400)[1:]])
    ice = np.where(grid < -1, 1 + 1 / np.minimum(grid, -1), 0.0)
    heat = fish.heat_frozen * ice + fish.heat_unfrozen * (1 - ice)
    steps = np.diff(grid) * (heat[1:] + heat[:-1]) / 2 - 333_200 * water * np.diff(ice)
    stored = np.concatenate([[0.0], np.cumsum(steps)])
    conductivity = 0.5 + (fish.conductivity - 0.5) * ice
    h, seconds = np.full(nodes, np.interp(-18, grid, stored)), 0.0
    dt = 0.35 * dx**2 * 1000 * fish.heat_frozen / fish.conductivity
    while True:
        t = np.interp(h, stored, grid)
        if t[0] >= -0.5:
            return seconds / 3600
        k = np.interp(t, grid, conductivity)
        between = 2 * k[1:] * k[:-1] / (k[1:] + k[:-1]) * (t[1:] - t[:-1]) / dx
        into = (around_c - t[-1]) / (1 / surface_w + dx / 2 / k[-1])
        h = h + np.diff(np.concatenate([[0.0], between, [into]])) * dt / (1000 * dx)
        seconds += dt


class CurveTest(unittest.TestCase):
    def test_it_ends_within_a_tenth_of_pham_and_falls_all_the_way(self) -> None:
        for thick, air, start, surface, water, one_side in (
            (0.02, -20, 4, 8, 0.8, False), (0.03, -25, 2, 20, 0.8, False), (0.04, -30, 10, 60, 0.74, False),
            (0.025, -22, 5, 8, 0.66, False), (0.05, -35, 2, 150, 0.8, False), (0.03, -22, 5, 8, 0.8, True),
        ):  # fmt: skip
            with self.subTest(thick=thick, air=air):
                curve = freezing_curve(thick, air, start, surface, water, one_side)
                pham = freezing_hours(
                    Block(thick, 3, 3, one_side), air, start, surface, fish_of_water(water)
                )
                self.assertAlmostEqual(curve.hours[-1] / (pham or 1), 1.0, delta=0.10)
                self.assertTrue(np.all(np.diff(curve.middle_c) <= 0.01))
                self.assertAlmostEqual(curve.middle_c[-1], -18, delta=0.1)

    def test_in_air_that_is_too_warm_it_stays_above_it(self) -> None:
        curve = freezing_curve(0.02, -6, 5, 8, 0.8)
        self.assertAlmostEqual(curve.middle_c[-1], -5.5, delta=0.1)
        with self.assertRaises(OutOfRange):
            freezing_curve(0.0, -20, 5, 8, 0.8)


class ThawingTest(unittest.TestCase):
    def test_it_is_near_an_independent_solution(self) -> None:
        for thick, around, surface, water in (
            (0.02, 4, 8, 0.8),
            (0.03, 4, 8, 0.66),
            (0.03, 10, 200, 0.8),
            (0.05, 4, 8, 0.8),
        ):
            with self.subTest(thick=thick, around=around):
                mine = thawing_hours(Block(thick, 3, 3), around, -18, surface, water)
                theirs = thawed_by_differences(thick, around, surface, water)
                self.assertAlmostEqual((mine or 0) / theirs, 1.0, delta=0.12)

    def test_nothing_thaws_in_a_place_that_is_not_warmer(self) -> None:
        self.assertIsNone(thawing_hours(Block(0.03, 0.2, 0.3), -1, -18, 8, 0.8))

    def test_a_bag_of_usual_thickness_is_thawed_overnight_to_a_day(self) -> None:
        """Advice is a night to a day in the refrigerator for a pound (FoodSafety.gov, memory)."""
        hours = thawing_hours(Block(0.025, 0.15, 0.2), 4, -18, 8, 0.8) or 0
        self.assertTrue(8 < hours < 30, hours)


class KeepingTest(unittest.TestCase):
    def test_at_the_tables_points_it_is_the_table(self) -> None:
        """International Institute of Refrigeration (1986), practical storage life (memory)."""
        for fat, months in MONTHS.items():
            for celsius, life in zip((-30, -24, -18, -12), months, strict=False):
                with self.subTest(fat=fat, celsius=celsius):
                    self.assertAlmostEqual(float(pace(celsius, fat)), months[2] / life, places=9)

    @given(FATS, st.floats(0.5, 20))
    def test_beyond_the_table_its_last_lines_go_on(self, fat: Fat, more: float) -> None:
        def log_pace(celsius: float) -> float:
            return float(np.log(pace(celsius, fat)))

        for edge, before in ((-30.0, -24.0), (0.0, -12.0)):
            slope = (log_pace(edge) - log_pace(before)) / (edge - before)
            beyond = edge + (more if edge > before else -more)
            self.assertAlmostEqual(log_pace(beyond), log_pace(edge) + slope * (beyond - edge))

    @given(COLD, st.floats(0, 20), FATS)
    def test_warmer_is_never_slower(self, celsius: float, more: float, fat: Fat) -> None:
        self.assertLessEqual(float(pace(celsius, fat)), float(pace(celsius + more, fat)) + 1e-12)

    @given(st.lists(COLD, min_size=1, max_size=40), st.integers(0, 39), st.floats(0, 20), FATS)
    def test_a_warm_spell_never_lengthens_what_is_left(
        self, days: list[float], at: int, more: float, fat: Fat
    ) -> None:
        warmer = list(days)
        warmer[at % len(days)] += more
        left = [
            days_left(240, float(pace(np.array(d), fat).sum()), -18, fat) for d in (days, warmer)
        ]
        self.assertLessEqual(left[1], left[0] + 1e-9)

    def test_nothing_is_left_of_a_life_that_is_used(self) -> None:
        self.assertEqual(days_left(240, 300, -18, "lean"), 0)


def bag(code: str, servings: int, days: int, kind: str = "pollack fillet") -> MealChoice:
    return MealChoice(code, kind, servings, DAY + timedelta(days))


BAGS = st.lists(
    st.tuples(st.integers(1, 4), st.integers(0, 30), st.sampled_from(["cod", "ling"])),
    min_size=1,
    max_size=14,
)


class UseNextTest(unittest.TestCase):
    def test_nothing_is_left_over_where_that_can_be(self) -> None:
        (meal,) = meals_for(6, [bag("A", 4, 1), bag("B", 3, 2), bag("C", 3, 3), bag("D", 2, 9)])
        self.assertEqual(([b.code for b in meal.bags], meal.over), (["A", "D"], 0))

    def test_what_is_due_first_is_offered_first(self) -> None:
        meals = meals_for(2, [bag("A", 2, 9, "cod"), bag("B", 2, 3, "ling")])
        self.assertEqual([m.kind for m in meals], ["ling", "cod"])

    def test_too_few_are_offered_last_and_say_how_many_go_without(self) -> None:
        meals = meals_for(4, [bag("A", 2, 1, "cod"), bag("B", 4, 30, "ling")])
        self.assertEqual([(m.kind, m.short) for m in meals], [("ling", 0), ("cod", 2)])

    @given(BAGS, st.integers(1, 9))
    def test_an_older_equal_bag_is_never_left_behind(
        self, rows: list[tuple[int, int, str]], people: int
    ) -> None:
        bags = [bag(f"{i:02}", s, d, k) for i, (s, d, k) in enumerate(rows)]
        for meal in meals_for(people, bags):
            left = [b for b in bags if b.kind == meal.kind and b not in meal.bags]
            for taken in meal.bags:
                for other in left:
                    if other.servings == taken.servings:
                        self.assertGreaterEqual(other.best_by, taken.best_by)

    @given(BAGS, st.integers(1, 9))
    def test_the_fewest_are_left_over(self, rows: list[tuple[int, int, str]], people: int) -> None:
        bags = [bag(f"{i:02}", s, d, k) for i, (s, d, k) in enumerate(rows)]
        for meal in meals_for(people, bags):
            sums = {0}
            for b in bags:
                if b.kind == meal.kind:
                    sums |= {s + b.servings for s in sums}
            enough = [s for s in sums if s >= people]
            self.assertEqual(meal.over, min(enough) - people if enough else 0)
            self.assertEqual(sum(b.servings for b in meal.bags), people + meal.over - meal.short)

    def test_parts_of_a_serving_add_up_by_what_they_are(self) -> None:
        small = [bag(str(i), 0.3, i) for i in range(4)]
        (meal,) = meals_for(4, small)
        self.assertEqual(meal.short, 2.8)
        (meal,) = meals_for(1, [*small, bag("Z", 0.0, 0)])
        self.assertEqual((len(meal.bags), meal.over, meal.short), (4, 0.2, 0))
        self.assertEqual(meals_left([0.3] * 4, 4, 1), (0, 0.0))
        self.assertEqual(meals_left([0.3] * 14, 4, 1), (1, 1.0))

    def test_meals_left(self) -> None:
        self.assertEqual(meals_left([2, 2, 3, 1], 4, 2), (2, 1.0))
        self.assertEqual(meals_left([], 4, 2), (0, 0.0))
        with self.assertRaises(OutOfRange):
            meals_left([2], 0, 1)
