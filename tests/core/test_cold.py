"""Cooling, ice, spoilage and histamine against printed values and independent solutions."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad, solve_ivp
from scipy.special import j0, j1

from lepidos.core.cold import conduction, cooling_body, ice_balance, spoilage, thermal_history
from lepidos.core.errors import OutOfRange
from lepidos.core.schedule.deadline import Ahead
from lepidos.guide.library import load_guide

GUIDE = load_guide()
SHAPES: tuple[conduction.Shape, ...] = ("slab", "cylinder", "sphere")


def finite_differences(
    body: cooling_body.CoolingBody,
    start_c: float,
    stays: list[thermal_history.Stay],
    cells: int = 400,
) -> tuple[float, float]:
    """Core and mean by finite volumes and scipy's stiff integrator; knows nothing of series."""
    power = {"slab": 0, "cylinder": 1, "sphere": 2}[body.shape]
    radius = body.size_m / 2
    faces = np.linspace(0, radius, cells + 1)
    middle = (faces[1:] + faces[:-1]) / 2
    volume = (faces[1:] ** (power + 1) - faces[:-1] ** (power + 1)) / (power + 1)
    area = faces**power
    step = radius / cells
    heat = conduction.DENSITY * conduction.HEAT_CAPACITY
    temperature = np.full(cells, start_c)
    for stay in stays:
        # the last half cell and the surface film in series
        outward = 1 / (step / 2 / conduction.CONDUCTIVITY + 1 / stay.h)

        def slope(
            _t: float, t: np.ndarray, stay: thermal_history.Stay = stay, outward: float = outward
        ) -> np.ndarray:
            flux = np.zeros(cells + 1)
            flux[1:-1] = -conduction.CONDUCTIVITY * np.diff(t) / step * area[1:-1]
            flux[-1] = outward * (t[-1] - stay.celsius) * area[-1]
            return -np.diff(flux) / volume / heat

        bands = (1, 1)
        solved = solve_ivp(slope, (0, stay.seconds), temperature, "LSODA", rtol=1e-8, atol=1e-8,
                           lband=bands[0], uband=bands[1])  # fmt: skip
        temperature = solved.y[:, -1]
    # the core itself, by the parabola through the two innermost cells
    curve = (temperature[1] - temperature[0]) / (middle[1] ** 2 - middle[0] ** 2)
    mean = float(temperature @ volume / volume.sum())
    return float(temperature[0] - curve * middle[0] ** 2), mean


class FirstTermTest(unittest.TestCase):
    # Incropera & DeWitt, table 5.1
    PRINTED = (
        ("slab", 1.0, 0.8603, 1.1191),
        ("cylinder", 1.0, 1.2558, 1.2071),
        ("sphere", 1.0, 1.5708, 1.2732),
        ("slab", 0.1, 0.3111, 1.0161),
        ("cylinder", 0.1, 0.4417, 1.0246),
        ("sphere", 0.1, 0.5423, 1.0298),
        ("slab", 10.0, 1.4289, 1.2620),
        ("cylinder", 10.0, 2.1795, 1.5677),
        ("sphere", 10.0, 2.8363, 1.9249),
    )

    def test_agrees_with_every_printed_constant(self) -> None:
        for shape, biot, zeta, c in self.PRINTED:
            with self.subTest(shape=shape, biot=biot):
                self.assertAlmostEqual(conduction.roots(shape, biot)[0], zeta, delta=6e-5)
                self.assertAlmostEqual(conduction.constants(shape, biot)[0], c, delta=6e-5)

    def test_the_constants_of_an_even_start_add_up_to_one_at_the_core(self) -> None:
        # Σ C over all terms is 1 at the core; 4000 terms of the slab's slow alternating series
        for biot in (0.5, 5.0):
            partial = np.cumsum(conduction.constants("slab", biot, 4000))
            self.assertAlmostEqual((partial[-1] + partial[-2]) / 2, 1.0, delta=1e-3)


class RootsTest(unittest.TestCase):
    @settings(deadline=None, max_examples=120)
    @given(st.sampled_from(SHAPES), st.floats(-4, 5))
    def test_every_root_solves_its_equation_in_its_own_interval(
        self, shape: conduction.Shape, power: float
    ) -> None:
        biot = 10.0**power
        z = np.array(conduction.roots(shape, biot))
        self.assertTrue((np.diff(z) > 1.5).all() and z[0] > 0)
        if shape == "slab":
            off = z * np.sin(z) - biot * np.cos(z)
        elif shape == "cylinder":
            off = z * j1(z) - biot * j0(z)
        else:
            off = (1 - biot) * np.sin(z) - z * np.cos(z)
        self.assertLess(float(np.abs(off / (biot + z)).max()), 1e-9)


class SeriesTest(unittest.TestCase):
    def test_worked_example_of_a_wall_heated_by_oil(self) -> None:
        # Incropera & DeWitt, example 5.4 (memory): steel wall of 40 mm insulated behind, k 63.9,
        # rho 7832, c 434, h 500, from -20 to oil of 60 degrees C, 8 min: Bi 0.313, Fo 5.64, printed
        # zeta 0.531, C 1.047, T 42.9. The book carries three digits, which moves T by 0.12.
        self.assertAlmostEqual(conduction.roots("slab", 0.313)[0], 0.531, delta=1e-3)
        self.assertAlmostEqual(conduction.constants("slab", 0.313)[0], 1.047, delta=6e-4)
        wall = 60 - 80 * conduction.core_ratio("slab", 0.313, 5.64)
        self.assertAlmostEqual(wall, 42.9, delta=0.2)

    def test_agrees_with_finite_differences_within_a_tenth_of_a_kelvin(self) -> None:
        for shape in SHAPES:
            for h in (10.0, 120.0, 400.0):
                for seconds in (600.0, 3600.0, 14_400.0):
                    with self.subTest(shape=shape, h=h, seconds=seconds):
                        ours = conduction.core_temperature(shape, 0.08, 14.0, 0.0, h, seconds)
                        body = cooling_body.CoolingBody(shape, 0.08)
                        theirs, _ = finite_differences(
                            body, 14.0, [thermal_history.Stay(seconds, 0.0, h)]
                        )
                        self.assertAlmostEqual(ours, theirs, delta=0.05)

    def test_a_history_through_three_media_agrees_with_finite_differences(self) -> None:
        stays = [
            thermal_history.Stay(2400, 18.0, 10.0),
            thermal_history.Stay(5400, -0.5, 400.0),
            thermal_history.Stay(3600, 6.0, 10.0),
        ]
        for shape in SHAPES:
            with self.subTest(shape=shape):
                body = cooling_body.CoolingBody(shape, 0.09)
                found = thermal_history.history(body, 13.0, stays)
                core, mean = finite_differences(body, 13.0, stays)
                self.assertAlmostEqual(found.core[-1], core, delta=0.1)
                self.assertAlmostEqual(found.mean[-1], mean, delta=0.1)

    def test_the_mean_falls_by_what_its_surface_gives_off(self) -> None:
        # an even body in a very poor medium is one lump: Newton's exponential, from the balance
        body, stay = (
            cooling_body.CoolingBody("cylinder", 0.02),
            thermal_history.Stay(7200, 2.0, 0.5),
        )
        found = thermal_history.history(body, 14.0, [stay])
        lump = 0.5 * 4 / (conduction.DENSITY * conduction.HEAT_CAPACITY * 0.02)
        for t, core, mean in zip(*found, strict=True):
            self.assertAlmostEqual(mean, 2 + 12 * math.exp(-lump * t), delta=0.02)
            self.assertLessEqual(mean, core + 1e-9)

    def test_one_stay_is_the_plain_series(self) -> None:
        body = cooling_body.CoolingBody("cylinder", 0.1)
        times, cores = thermal_history.core_history(
            body, 15.0, [thermal_history.Stay(20_000, 0.0, 120.0)], 500
        )
        for t, core in zip(times[1:], cores[1:], strict=True):
            plain = conduction.core_temperature("cylinder", 0.1, 15.0, 0.0, 120.0, float(t))
            self.assertAlmostEqual(core, plain, delta=1e-6)

    @settings(deadline=None, max_examples=200)
    @given(st.floats(61, 90_000), st.integers(2, 90))
    def test_times_rise_also_when_the_spacing_divides_the_stay(
        self, seconds: float, parts: int
    ) -> None:
        # found on a page: a spacing of a 60th of the stay named its end twice
        body = cooling_body.CoolingBody("cylinder", 0.1)
        every = max(1.0, seconds / parts)
        times, _ = thermal_history.core_history(
            body, 15.0, [thermal_history.Stay(seconds, 0.0, 120.0)], every
        )
        self.assertGreater(float(np.diff(times).min()), 1e-3)
        self.assertEqual(times[-1], seconds)

    def test_two_stays_in_the_same_medium_are_one(self) -> None:
        body = cooling_body.CoolingBody("cylinder", 0.1)
        half = thermal_history.Stay(9000, 0.0, 120.0)
        _, twice = thermal_history.core_history(body, 15.0, [half, half])
        _, once = thermal_history.core_history(
            body, 15.0, [thermal_history.Stay(18_000, 0.0, 120.0)]
        )
        self.assertAlmostEqual(twice[-1], once[-1], delta=0.01)

    def test_what_is_carried_over_equals_its_integral(self) -> None:
        # the closed form against scipy's quadrature of the profile in the next medium's functions
        functions = {
            "slab": lambda x: np.cos(x), "cylinder": lambda x: j0(x),
            "sphere": lambda x: np.sinc(x / math.pi),
        }  # fmt: skip
        for power, shape in enumerate(("slab", "cylinder", "sphere")):
            phi = functions[shape]
            before, after = thermal_history._simple(shape, 0.7), thermal_history._simple(shape, 9.0)
            left = np.array([3.0, -1.2, 0.4])
            z = np.sqrt(before.squares[:3])
            carried = after.carried(before, left)
            for term in (0, 1, 4, 12):
                zeta = math.sqrt(after.squares[term])
                with self.subTest(shape=shape, term=term):
                    over, _ = quad(
                        lambda r, a=left, b=zeta, z=z, p=power, f=phi: a @ f(z * r) * f(b * r) * r**p,
                        0, 1, limit=200,
                    )  # fmt: skip
                    under, _ = quad(
                        lambda r, b=zeta, p=power, f=phi: f(b * r) ** 2 * r**p, 0, 1, limit=200
                    )
                    self.assertAlmostEqual(carried[term], over / under, places=9)

    @settings(deadline=None, max_examples=150)
    @given(
        st.sampled_from(SHAPES), st.floats(0.02, 0.3),
        st.lists(
            st.tuples(st.floats(1, 40_000), st.floats(-2, 25), st.floats(5, 800)),
            min_size=1, max_size=6,
        ),
    )  # fmt: skip
    def test_a_core_stays_between_what_it_came_from_and_lay_in(
        self, shape: conduction.Shape, size: float, stays: list[tuple[float, float, float]]
    ) -> None:
        body = cooling_body.CoolingBody(shape, size)
        _, cores = thermal_history.core_history(
            body, 14.0, [thermal_history.Stay(*s) for s in stays]
        )
        coldest, warmest = (f([14.0, *(c for _, c, _ in stays)]) for f in (min, max))
        self.assertGreaterEqual(cores.min(), coldest - 1e-9)
        self.assertLessEqual(cores.max(), warmest + 1e-9)

    def test_the_core_never_starts_above_the_start(self) -> None:
        for seconds in (0.0, 1.0, 30.0, 120.0):
            self.assertLessEqual(
                conduction.core_temperature("cylinder", 0.12, 14, 0, 400, seconds), 14.0
            )
        first = conduction.constants("cylinder", 40.0)[0]
        self.assertGreater(first, 1.5)  # where the first term alone would have put it

    @settings(deadline=None, max_examples=60)
    @given(
        st.sampled_from(SHAPES), st.floats(0.02, 0.3), st.floats(5, 800), st.floats(60, 60_000),
        st.floats(1.02, 2.0),
    )  # fmt: skip
    def test_cooling_is_monotone_in_time_size_and_medium(
        self, shape: conduction.Shape, size: float, h: float, seconds: float, more: float
    ) -> None:
        base = conduction.core_temperature(shape, size, 15, 0, h, seconds)
        self.assertLessEqual(
            conduction.core_temperature(shape, size, 15, 0, h, seconds * more), base + 1e-9
        )
        self.assertGreaterEqual(
            conduction.core_temperature(shape, size * more, 15, 0, h, seconds), base - 1e-9
        )
        self.assertLessEqual(
            conduction.core_temperature(shape, size, 15, 0, h * more, seconds), base + 1e-9
        )
        self.assertGreaterEqual(
            conduction.core_temperature(shape, size, 15, 2, h, seconds), base - 1e-9
        )

    def test_ends_stop_mattering_beyond_two_and_a_half_diameters(self) -> None:
        endless = conduction.core_temperature("cylinder", 0.1, 15, 0, 120, 7200)
        long = conduction.core_temperature("cylinder", 0.1, 15, 0, 120, 7200, 0.25)
        short = conduction.core_temperature("cylinder", 0.1, 15, 0, 120, 7200, 0.1)
        self.assertAlmostEqual(long, endless, delta=0.3)
        self.assertLess(short, endless - 1.0)


class TimeToTest(unittest.TestCase):
    def test_is_the_way_back(self) -> None:
        seconds = conduction.time_to("cylinder", 0.1, 15, 0, 120, 4)
        self.assertAlmostEqual(
            conduction.core_temperature("cylinder", 0.1, 15, 0, 120, seconds), 4.0, places=5
        )

    def test_colder_than_the_medium_is_never(self) -> None:
        self.assertEqual(conduction.time_to("cylinder", 0.1, 15, 0, 120, 0.0), math.inf)
        self.assertEqual(conduction.time_to("slab", 0.1, 15, 4, 8, 2.0), math.inf)

    def test_already_there_is_now(self) -> None:
        self.assertEqual(conduction.time_to("slab", 0.1, 3, 0, 120, 4.0), 0.0)
        self.assertEqual(conduction.time_to("slab", 0.1, 4, 0, 120, 4.0), 0.0)

    def test_refuses_what_cannot_be(self) -> None:
        for size, start, medium, h in (
            (0.0, 15, 0, 120),
            (0.1, 85, 0, 120),
            (0.1, 15, 0, 0.0),
            (math.nan, 15, 0, 120),
        ):
            with self.subTest((size, start, h)), self.assertRaises(OutOfRange):
                conduction.time_to("slab", size, start, medium, h, 4.0)
        with self.assertRaises(OutOfRange):
            conduction.core_temperature("slab", 0.1, 15, 0, 120, 60, 0.3)


class AnyMediumTest(unittest.TestCase):
    def test_the_core_is_there_at_the_time_that_is_said_in_any_medium(self) -> None:
        for start, medium, target in ((14.0, -18.0, 1.0), (14.0, 4.0, 6.0), (-18.0, 12.0, -2.0)):
            with self.subTest(medium=medium):
                seconds = conduction.time_to("cylinder", 0.05, start, medium, 100.0, target)
                core = conduction.core_temperature("cylinder", 0.05, start, medium, 100.0, seconds)
                self.assertAlmostEqual(core, target, places=3)


class FishTest(unittest.TestCase):
    def test_a_fish_cools_as_its_own_section(self) -> None:
        for key, least, most in (
            ("plaice", 4, 7),
            ("turbot", 3, 7),
            ("cod", 1.1, 2),
            ("ling", 1, 2),
        ):
            found = cooling_body.cooling_body(GUIDE.bodies[key], 0.6, 2.0)
            self.assertEqual(found.shape, "ellipse")
            self.assertTrue(0.02 < found.size_m < 0.15)
            self.assertTrue(least < found.across_m / found.size_m < most, found)

    def test_a_plumper_fish_cools_more_slowly(self) -> None:
        lean, plump = (cooling_body.cooling_body(GUIDE.bodies["cod"], 0.7, kg) for kg in (3.0, 4.0))
        self.assertAlmostEqual(plump.size_m / lean.size_m, math.sqrt(4 / 3), places=6)

    def test_every_medium_lies_inside_its_own_range(self) -> None:
        for medium in load_guide().media.values():
            self.assertTrue(medium.h_low < medium.h < medium.h_high)


class IceTest(unittest.TestCase):
    def test_fao_short_form_and_heat_balance_agree_within_a_tenth(self) -> None:
        # FAO FTP 331/436 (memory): 10 kg from 25 °C take 2.5 kg
        self.assertEqual(ice_balance.ice_to_cool_fao(10, 25), 2.5)
        self.assertAlmostEqual(ice_balance.ice_to_cool(10, 25) / 2.5, 1.0, delta=0.1)

    @given(st.floats(0.1, 500), st.floats(0, 30), st.floats(0, 5), st.floats(0, 86_400))
    def test_melted_ice_takes_up_exactly_the_heat(
        self, kg: float, warm: float, ua: float, t: float
    ) -> None:
        melted = ice_balance.ice_to_cool(kg, warm) + ice_balance.box_melt(ua, 20, t)
        heat_kj = kg * ice_balance.FISH_KJ * warm + ua * 20 * t / 1000
        self.assertAlmostEqual(
            melted * ice_balance.FUSION_KJ, heat_kj, delta=1e-6 * max(1, heat_kj)
        )

    @given(
        st.floats(0, 500), st.floats(0, 5e4), st.floats(0, 5e4), st.floats(0, 5),
        st.floats(-5, 40), st.floats(0, 1e6), st.floats(0, 1e6),
    )  # fmt: skip
    def test_the_account_closes_to_the_last_kilojoule(
        self,
        aboard: float,
        taken: float,
        to_take: float,
        ua: float,
        air: float,
        passed: float,
        to_come: float,
    ) -> None:
        found = ice_balance.account(aboard, taken, to_take, ua, air, passed, to_come, 14.0)
        melted = found.melted_by_fish + found.melted_by_box
        self.assertAlmostEqual(found.aboard, found.left + melted, delta=1e-6 * max(1, aboard))
        heat = taken + ua * max(0.0, air) * passed / 1000
        self.assertAlmostEqual(
            melted * ice_balance.FUSION_KJ + found.unmet_kj, heat, delta=1e-6 * max(1, heat)
        )
        self.assertTrue(found.left == 0 or found.unmet_kj <= 1e-6 * max(1, heat))
        # what it would still carry takes exactly what is over
        assert found.carries is not None
        over = ice_balance.ice_to_cool(min(1e6, found.carries), 14.0)
        self.assertAlmostEqual(over, max(0.0, found.over), delta=1e-6 * max(1, aboard))

    def test_an_account_of_no_ice_and_no_warm_fish(self) -> None:
        none = ice_balance.account(0.0, 334.0, 0.0, 0.0, 18.0, 0.0, 0.0)
        self.assertEqual((none.left, none.unmet_kj, none.carries), (0.0, 334.0, None))
        self.assertEqual(ice_balance.account(0.0, 0.0, 0.0, 0.0, 18.0, 0.0, 0.0).left, 0.0)
        with self.assertRaises(OutOfRange):
            ice_balance.account(-1.0, 0.0, 0.0, 0.0, 18.0, 0.0, 0.0)

    def test_cold_fish_and_cold_days_melt_none(self) -> None:
        self.assertEqual(ice_balance.ice_to_cool(10, 0), 0)
        self.assertEqual(ice_balance.box_melt(1.5, -5, 3600), 0)
        for bad in (-1.0, math.nan):
            with self.assertRaises(OutOfRange):
                ice_balance.ice_to_cool(bad, 10)


class SpoilageTest(unittest.TestCase):
    def test_published_rates(self) -> None:
        # (1 + 0.1 T)²: 1 at 0 °C, 4 at 10 °C, 0 at −10 °C and below; exp(0.12 T) at 0 and 10 °C
        for celsius, rate in ((0, 1.0), (10, 4.0), (5, 2.25), (-10, 0.0), (-30, 0.0)):
            self.assertAlmostEqual(spoilage.spoilage_rate(celsius), rate)
        self.assertAlmostEqual(spoilage.spoilage_rate(10, "tropical"), math.exp(1.2))

    def test_a_day_at_ten_degrees_is_four_on_ice(self) -> None:
        self.assertAlmostEqual(spoilage.ice_days([0, 86_400], [10, 10]), 4.0)

    @given(st.lists(st.floats(-15, 30), min_size=2, max_size=6))
    def test_is_integrated_along_the_line_and_not_held_in_steps(
        self, temperatures: list[float]
    ) -> None:
        times = [3600.0 * k for k in range(len(temperatures))]
        for climate in ("temperate", "tropical"):
            whole, _ = quad(
                lambda t, c=climate: spoilage.spoilage_rate(
                    float(np.interp(t, times, temperatures)), c
                ),
                times[0], times[-1], points=times, limit=500,
            )  # fmt: skip
            ours = spoilage.ice_days(times, temperatures, climate)
            self.assertAlmostEqual(ours, whole / 86_400, delta=1e-6)

    def test_refuses_a_history_that_cannot_be(self) -> None:
        for times, temperatures in (
            ([0], [1]),
            ([0, 0], [1, 1]),
            ([0, 60], [1, 85]),
            ([0, 60], [1]),
            ([60, 0], [1, 1]),
        ):
            with (
                self.subTest(times=times, temperatures=temperatures),
                self.assertRaises(OutOfRange),
            ):
                spoilage.ice_days(times, temperatures)


class ClimateTest(unittest.TestCase):
    def test_a_warm_water_fish_uses_its_days_by_its_own_law(self) -> None:
        # exp(0.12 T) of FAO Fisheries Technical Paper 348 (memory) against (1 + 0.1 T)²
        hours = (0.0, 86_400.0)
        for climate, days in (("temperate", 4.0), ("tropical", math.exp(1.2))):
            ahead = Ahead(hours, (10.0, 10.0), 0.0, 10.0, climate)
            self.assertAlmostEqual(ahead.used_days[-1], days, places=6)
            self.assertAlmostEqual(ahead.spoils_at_s(1.0), 10 * 86_400 / days, delta=1)


class HistamineTest(unittest.TestCase):
    def test_hours_to_chilling_of_the_guidance(self) -> None:
        # FDA hazards guidance, chapter 7 (memory)
        self.assertEqual(spoilage.hours_until_chilled_by(29.0), 6.0)
        self.assertEqual(spoilage.hours_until_chilled_by(15.0), 9.0)
        self.assertEqual(spoilage.hours_until_chilled_by(15.0, gutted=True), 12.0)
        self.assertEqual(spoilage.hours_until_chilled_by(29.0, gutted=True), 6.0)

    def test_four_hours_when_it_was_warm_and_eight_when_not(self) -> None:
        cool = spoilage.histamine_clock([0, 7200, 14_400], [14, 4.4, 0])
        warm = spoilage.histamine_clock([0, 7200, 14_400], [22, 4.4, 0])
        self.assertEqual((cool.allowed_above, warm.allowed_above), (8.0, 4.0))
        self.assertAlmostEqual(cool.hours_above, 2.0)
        self.assertAlmostEqual(cool.left, 6.0)
        self.assertAlmostEqual(cool.hours_to_chill, 2.0)
        self.assertTrue(cool.chilled)

    def test_crossings_are_found_between_the_points(self) -> None:
        clock = spoilage.histamine_clock([0, 3600, 7200, 10_800], [0, 8.8, 0, 0])
        self.assertAlmostEqual(clock.hours_above, 1.0)

    def test_never_chilled_counts_all_of_it(self) -> None:
        clock = spoilage.histamine_clock([0, 36_000], [15, 10])
        self.assertAlmostEqual(clock.hours_to_chill, 10.0)
        self.assertFalse(clock.chilled)  # ten hours so far: nobody may read them as done
        self.assertAlmostEqual(clock.left, -2.0)
