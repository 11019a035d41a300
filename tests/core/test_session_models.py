"""Sides, slips, joint weighings, meat on the frame, and what follows from what was seen."""

import math
import unittest
from datetime import date
from random import Random

from hypothesis import given, settings
from hypothesis import strategies as st

from bench.slips import rates
from lepidos.core.cutting.model import FishToCut
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.errors import BadInput, OutOfRange
from lepidos.core.estimate import Estimate
from lepidos.core.fish.anatomy import area, zone_polygon
from lepidos.core.pack.findings import MIN_KEEPING, consequences, shortened, whole_use
from lepidos.core.schedule.cutting_time import worked_seconds
from lepidos.core.yields.entry_errors import find_slip, interval_at, is_outside
from lepidos.core.yields.frame_meat import contact_area, left_on_frame
from lepidos.core.yields.joint_weighing import apportion
from lepidos.core.yields.two_sides import SIDES_SD, after_other_side, differ, total_of
from lepidos.guide.library import load_guide

GUIDE = load_guide()
MEAT = {"fillet", "back_fillet", "belly_fillet", "belly", "high_loin", "low_loin"}
MASSES = st.floats(0.005, 5.0)


def about(kg: float, spread: float = 1.25) -> Estimate:
    return Estimate(kg, kg / spread, kg * spread, 0.8, "kg", "test", "memory")


class SidesTest(unittest.TestCase):
    @settings(max_examples=60)
    @given(MASSES, st.floats(0.6, 1.6))
    def test_the_other_side_pulls_and_narrows(self, kg: float, ratio: float) -> None:
        before = about(kg)
        after = after_other_side(before, kg * ratio)
        self.assertTrue(min(kg, kg * ratio) - 1e-9 <= after.value <= max(kg, kg * ratio) + 1e-9)
        self.assertLess(after.high / after.low, before.high / before.low)

    def test_matches_the_covariance_of_two_sides_drawn_by_hand(self) -> None:
        # a fish's level and each side's own part, as the model says: regress B on A
        rng, z = Random(4), 1.2815515655446004
        total = math.log(1.25) / z
        own = SIDES_SD / math.sqrt(2)
        level = math.sqrt(total**2 - own**2)
        pairs = []
        for _ in range(40_000):
            fish = rng.gauss(0, level)
            pairs.append((fish + rng.gauss(0, own), fish + rng.gauss(0, own)))
        slope = sum(a * b for a, b in pairs) / sum(a * a for a, _ in pairs)
        after = after_other_side(about(1.0), math.exp(0.1))
        self.assertAlmostEqual(math.log(after.value), slope * 0.1, delta=0.002)

    def test_sides_are_asked_about_beyond_their_spread(self) -> None:
        self.assertFalse(differ(0.50, 0.55))
        self.assertTrue(differ(0.40, 0.55))

    def test_the_total_narrows_to_what_was_weighed(self) -> None:
        to_come = {"fillet.A": about(0.6), "fillet.B": about(0.6)}
        first = total_of({}, to_come)
        half = total_of({"fillet.A": 0.55}, to_come)
        self.assertLess(half.high - half.low, first.high - first.low)
        done = total_of({"fillet.A": 0.55, "fillet.B": 0.5}, to_come)
        self.assertEqual((done.low, done.value, done.high), (1.05, 1.05, 1.05))

    def test_spreads_are_added_in_squares_below_and_above(self) -> None:
        to_come = {
            "fillet.A": Estimate(0.6, 0.57, 0.68, 0.8, "kg", "test", "memory"),
            "fillet.B": Estimate(0.5, 0.46, 0.56, 0.8, "kg", "test", "memory"),
        }
        found = total_of({"belly.A": 0.1}, to_come)
        self.assertAlmostEqual(found.value, 1.2)
        self.assertAlmostEqual(found.value - found.low, 0.05)  # of 0.03 and 0.04
        self.assertAlmostEqual(found.high - found.value, 0.10)  # of 0.08 and 0.06


class SlipTest(unittest.TestCase):
    def test_each_kind_is_found_with_its_corrected_weight(self) -> None:
        for kg, trays, kind, right in (
            (5.8, (), "decimal", 0.58),
            (0.058, (), "decimal", 0.58),
            (0.58 + 0.412, (0.412,), "tray", 0.58),
            (1.28, (), "unit", 0.5806),
        ):
            with self.subTest(kg=kg):
                found = find_slip(kg, about(0.58), trays, typed=True)
                assert found is not None
                self.assertEqual(found.kind, kind)
                self.assertAlmostEqual(found.kg, right, places=3)

    def test_a_slip_of_scale_is_weighed_by_its_own_density(self) -> None:
        # Bayes by hand: the density of the weight typed is that of the right weight times the
        # factor between them, since a narrower stretch of right weights ends in it
        expected = about(0.5, 1.3)
        for kg, factor in ((5.0, 0.1), (0.05, 10.0)):
            slip = find_slip(kg, expected, typed=True)
            assert slip is not None

            def density(x: float) -> float:
                sd = math.log(1.3) / 1.2815515655446004
                off = math.log(x / 0.5)
                law = sum(
                    p / s * math.exp(-0.5 * (off / s) ** 2) for p, s in ((0.98, sd), (0.02, 3 * sd))
                )
                return law / x

            parts = [0.94 * density(kg)]
            parts += [0.01 * f * density(kg * f) for f in (0.1, 10.0)]
            parts += [0.005 * f * density(kg * f) for f in (0.45359237, 1 / 0.45359237)]
            self.assertAlmostEqual(
                slip.probability, 0.01 * factor * density(kg * factor) / sum(parts), places=6
            )

    def test_a_usual_weight_is_no_slip(self) -> None:
        for kg in (0.47, 0.58, 0.70):
            self.assertIsNone(find_slip(kg, about(0.58), (0.412, 0.09), typed=True))

    def test_a_scale_has_no_decimal_point_to_slip(self) -> None:
        self.assertIsNone(find_slip(5.8, about(0.58)))

    def test_outside_and_its_interval_say_the_same(self) -> None:
        low, high = interval_at(about(0.58), 0.99)
        self.assertFalse(is_outside(low * 1.001, about(0.58)))
        self.assertTrue(is_outside(high * 1.001, about(0.58)))
        self.assertLess(low, about(0.58).low)

    def test_finds_most_slips_and_cries_wolf_seldom(self) -> None:
        found = rates(400, seed=3)
        self.assertGreater(found.hits["decimal"], 0.95)
        self.assertGreater(found.hits["tray"], 0.4)
        self.assertLess(found.false_alarms, 0.02)


class JointTest(unittest.TestCase):
    @settings(max_examples=80)
    @given(MASSES, st.lists(st.none() | MASSES, min_size=2, max_size=6))
    def test_the_parts_are_the_whole(self, total: float, expected: list[float | None]) -> None:
        parts = apportion(total, [about(e) if e else None for e in expected])
        self.assertAlmostEqual(math.fsum(p.kg for p in parts), total, places=12)
        for part in parts:
            self.assertGreaterEqual(part.kg, 0.0)
            self.assertTrue(part.low_kg <= part.kg + 1e-12 and part.kg <= part.high_kg + 1e-12)

    def test_is_the_normal_law_given_its_sum(self) -> None:
        # means 0.04 and 0.10, SDs 0.01 and 0.03, sum 0.16: each gets its variance's part of 0.02
        z = 1.2815515655446004
        one = Estimate(0.04, 0.04 - 0.01 * z, 0.04 + 0.01 * z, 0.8, "kg", "", "")
        two = Estimate(0.10, 0.10 - 0.03 * z, 0.10 + 0.03 * z, 0.8, "kg", "", "")
        a, b = apportion(0.16, [one, two])
        self.assertAlmostEqual(a.kg, 0.042, places=6)
        self.assertAlmostEqual(b.kg, 0.118, places=6)
        sd = math.sqrt(0.0001 - 0.0001**2 / 0.001)
        self.assertAlmostEqual(a.high_kg - a.kg, z * sd, places=6)

    def test_two_pieces_weighed_together_are_as_sure_as_each_other(self) -> None:
        # given the sum, what one has too much the other has too little: the same spread for both
        a, b = apportion(0.16, [about(0.04, 1.5), about(0.10, 1.2)])
        self.assertAlmostEqual(a.high_kg - a.kg, b.high_kg - b.kg, places=9)

    def test_where_nobody_foresees_any_each_is_an_even_share_give_or_take(self) -> None:
        parts = apportion(0.3, [None, None, None])
        each = (0.6 * 0.1) ** 2  # its variance, before the sum is known
        for part in parts:
            self.assertAlmostEqual(part.kg, 0.1)
            off = 1.2815515655446004 * math.sqrt(each - each / 3)
            self.assertAlmostEqual(part.high_kg - part.kg, off, places=6)

    def test_a_piece_nobody_can_foresee_is_the_least_sure(self) -> None:
        known, unknown = apportion(0.2, [about(0.1, 1.05), None])
        z = 1.2815515655446004
        v = ((0.105 - 0.1 / 1.05) / (2 * z)) ** 2, (0.6 * 0.1) ** 2
        self.assertAlmostEqual(
            unknown.kg - unknown.low_kg, z * math.sqrt(v[0] * v[1] / sum(v)), places=9
        )
        self.assertAlmostEqual(known.high_kg - known.kg, unknown.high_kg - unknown.kg, places=9)

    def test_a_piece_of_nothing_is_nothing_and_not_less(self) -> None:
        # a piece whose part is cut off at nothing once took what rounding left over: −1 mg
        doubtful = Estimate(0.05, 0.001, 0.6, 0.8, "kg", "", "")
        for grams in range(3, 700, 7):
            known = [about(kg, 1.1) for kg in (0.1114753, 0.2992594, 0.2218088)]
            parts = apportion(grams / 1000, [*known, doubtful])
            self.assertGreaterEqual(min(p.kg for p in parts), 0.0)
            positive = math.fsum(p.kg for p in parts if p.kg > 0)
            self.assertAlmostEqual(positive, grams / 1000, places=12)

    def test_refuses_one_piece_and_no_weight(self) -> None:
        with self.assertRaises(BadInput):
            apportion(0.2, [None])
        with self.assertRaises(OutOfRange):
            apportion(0.0, [None, None])


class LeftoverTest(unittest.TestCase):
    def test_grams_over_the_contact_area_are_millimetres(self) -> None:
        # 100 g over 0.05 m² at 1060 kg/m³: 1.887 mm
        found = left_on_frame(0.50, about(0.60, 1.08), 0.05)
        assert found is not None
        self.assertAlmostEqual(found.thickness_m * 1000, 0.1 / 0.05 / 1060 * 1000, places=9)

    def test_a_side_inside_its_interval_or_spooned_is_not_asked_about(self) -> None:
        self.assertIsNone(left_on_frame(0.56, about(0.60, 1.08), 0.05))
        self.assertIsNone(left_on_frame(0.50, about(0.60, 1.08), 0.05, spooned_kg=0.095))

    def test_the_area_of_a_side_is_that_of_its_meat(self) -> None:
        species = GUIDE.one("pollack")
        plan = GUIDE.plan_of(species)
        cut = plan_cut(FishToCut(2.9, 0.68), species, plan, GUIDE.pieces, GUIDE.methods)
        found = contact_area(GUIDE.body_of(species), plan, cut, GUIDE.pieces, 0.68)
        # a side of a 68 cm pollack: some 40 cm long and 10 to 15 cm deep
        self.assertTrue(0.03 < found < 0.065, found)
        self.assertAlmostEqual(
            contact_area(GUIDE.body_of(species), plan, cut, GUIDE.pieces, 0.34) * 4, found, places=9
        )

    def test_a_flatfishs_area_is_its_fillets_and_not_its_fin_muscle(self) -> None:
        species = GUIDE.one("turbot")
        plan, body = GUIDE.plan_of(species), GUIDE.body_of(species)
        cut = plan_cut(FishToCut(4.0, 0.6), species, plan, GUIDE.pieces, GUIDE.methods)
        self.assertIn("fin_muscle", {p.piece for p in cut.pieces if p.zone})
        meat = [p.zone for p in cut.pieces if p.zone and p.piece in MEAT]
        self.assertTrue(meat)
        by_hand = sum(area(zone_polygon(body, plan, zone)) for zone in meat) * 0.6**2
        self.assertAlmostEqual(contact_area(body, plan, cut, GUIDE.pieces, 0.6), by_hand, places=12)


class SeenTest(unittest.TestCase):
    def see(self, *keys: str):
        return consequences([s for s in GUIDE.findings.kinds if s.key in keys])

    def test_nothing_seen_changes_nothing(self) -> None:
        self.assertEqual((self.see().raw, self.see().keeping, self.see().labels), ("", 1.0, ()))

    def test_worms_force_the_hold_and_gall_forbids_raw(self) -> None:
        self.assertEqual(self.see("worms").raw, "hold")
        self.assertEqual(self.see("worms", "gall_cut").raw, "never")

    def test_keeping_is_cut_but_never_to_nothing(self) -> None:
        self.assertLess(self.see("blood", "gut_cut").keeping, self.see("blood").keeping)
        self.assertEqual(self.see("blood", "gut_cut", "gall_cut").keeping, 0.75**3)
        self.assertGreaterEqual(
            self.see(*(s.key for s in GUIDE.findings.kinds)).keeping, MIN_KEEPING
        )

    def test_the_same_sight_twice_counts_once(self) -> None:
        blood = GUIDE.findings.one("blood")
        assert blood is not None
        self.assertEqual(consequences([blood, blood]).keeping, blood.keeping)

    def test_a_date_is_cut_short(self) -> None:
        self.assertEqual(shortened(date(2026, 7, 14), date(2026, 7, 14), 0.5), date(2026, 7, 14))
        with self.assertRaises(OutOfRange):
            shortened(date(2026, 7, 14), date(2026, 8, 14), 1.5)

    def test_whole_use_adds_up(self) -> None:
        use = whole_use(2.0, [(0.8, True), (0.3, False), (0.5, None)])
        self.assertEqual((use.used_kg, use.waste_kg, use.undecided_kg), (0.8, 0.3, 0.5))
        self.assertAlmostEqual(use.fraction, 0.4)


class WorkedTest(unittest.TestCase):
    @given(st.lists(st.floats(0, 1000), max_size=8))
    def test_never_more_than_the_time_passed(self, times: list[float]) -> None:
        marks = [(t, k % 2 == 0) for k, t in enumerate(sorted(times))]
        worked = worked_seconds(0, 1000, marks)
        self.assertTrue(0 <= worked <= 1000 + 1e-9)

    def test_two_pauses_are_left_out(self) -> None:
        marks = [(100.0, True), (150.0, False), (400.0, True), (500.0, False)]
        self.assertEqual(worked_seconds(0, 600, marks), 450.0)
        self.assertEqual(worked_seconds(0, 450, marks[:3]), 350.0)
