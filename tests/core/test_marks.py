"""Marks by count, thickness and hand; and profiles that learn from weighed portions."""

import math
import unittest
from itertools import pairwise

import numpy as np
import numpy.typing as npt
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import fixed_quad

from lepidos.core.errors import OutOfRange
from lepidos.core.fish.anatomy import FilletProfile, fillet_profile
from lepidos.core.pack.cuts import by_count, by_thickness, portions_at, squared_off, without_scraps
from lepidos.core.pack.portions import PROFILE_SD, equal_portions
from lepidos.core.pack.profile_learning import Stretch, WeighedBag, learn_profile
from lepidos.guide.library import load_guide

Floats = npt.NDArray[np.float64]
GUIDE = load_guide()
COD = GUIDE.species["cod"]
FILLET = fillet_profile(GUIDE.body_of(COD), GUIDE.plan_of(COD), "fillet")
WEDGE = FilletProfile((0.0, 1.0), (1.0, 1.0), (1.0, 0.001))


def grams_by_quad(profile: FilletProfile, kg: float, start: float, end: float) -> float:
    """Weight between two shares of the length by scipy's Gauss quadrature, knots as breaks.

    Between them the section is a line times a line, for which two points are exact; three are taken.
    """

    def section(x: Floats) -> Floats:
        return np.interp(x, profile.x, profile.width) * np.interp(x, profile.x, profile.thickness)

    def mass(a: float, b: float) -> float:
        knots = [k for k in profile.x if a < k < b]
        return sum(float(fixed_quad(section, p, q, n=3)[0]) for p, q in pairwise([a, *knots, b]))

    return 1000 * kg * mass(start, end) / mass(0.0, 1.0)


class MarksTest(unittest.TestCase):
    @given(st.lists(st.integers(4, 96), max_size=6, unique=True))
    def test_grams_agree_with_another_integration_to_half_a_gram(self, places: list[int]) -> None:
        """Marks at whole multiples of 5 mm."""
        plan = portions_at(FILLET, 0.93, 0.5, 0.2, [x * 0.005 for x in sorted(places)])
        for portion in plan.portions:
            grams = grams_by_quad(FILLET, 0.93, portion.from_m / 0.5, portion.to_m / 0.5)
            self.assertAlmostEqual(portion.kg * 1000, grams, delta=0.5)
        self.assertAlmostEqual(sum(p.kg for p in plan.portions), 0.93)

    @given(st.integers(1, 12))
    def test_so_many_portions_are_equal(self, count: int) -> None:
        plan = portions_at(FILLET, 1.2, 0.5, 0.2, by_count(FILLET, 0.5, count))
        self.assertEqual(len(plan.portions), count)
        for portion in plan.portions:
            self.assertLess(abs(portion.kg / (1.2 / count) - 1), 1e-6)

    def test_a_wedge_is_halved_at_the_root_of_a_half(self) -> None:
        """Mass before x of a wedge is 1 - (1 - x)²: half of it at 1 - √½."""
        (mark,) = by_count(FilletProfile((0.0, 1.0), (1.0, 1.0), (1.0, 0.0)), 1.0, 2)
        self.assertAlmostEqual(mark, 1 - math.sqrt(0.5), places=6)

    @given(st.floats(0.05, 0.8), st.floats(0.015, 0.05), st.floats(20, 90))
    def test_slices_are_as_thick_as_asked_and_no_scrap_is_left(
        self, length: float, slice_m: float, angle: float
    ) -> None:
        edges = [0.0, *by_thickness(length, slice_m, angle), length]
        step = slice_m / math.sin(math.radians(angle))
        for low, high in list(pairwise(edges))[:-1]:
            self.assertAlmostEqual((high - low) * math.sin(math.radians(angle)), slice_m)
        if len(edges) > 2:
            self.assertGreaterEqual(edges[-1] - edges[-2], step / 2 - 1e-9)

    def test_the_head_end_is_squared_off_where_it_is_wide(self) -> None:
        marks = squared_off(FILLET, 0.5, (0.01, 0.2))
        self.assertEqual(marks[1:], (0.2,))
        width = np.interp(marks[0] / 0.5, FILLET.x, FILLET.width)
        self.assertAlmostEqual(width / max(FILLET.width), 0.8, delta=0.05)
        self.assertEqual(squared_off(WEDGE, 0.5, (0.2,)), (0.2,))

    @given(st.integers(5, 20), st.floats(0.02, 0.3))
    def test_no_portion_is_lighter_than_the_least(self, count: int, least: float) -> None:
        cuts = without_scraps(FILLET, 0.9, 0.5, by_thickness(0.5, 0.5 / count), least)
        masses = [p.kg for p in portions_at(FILLET, 0.9, 0.5, 0.2, cuts).portions]
        self.assertTrue(len(masses) == 1 or min(masses) >= least - 1e-9)

    def test_marks_that_cannot_be_are_refused(self) -> None:
        for cuts in ((0.3, 0.2), (0.6,), (-0.1,), (0.2, 0.2005), (float("nan"),)):
            with self.subTest(cuts=cuts), self.assertRaises(OutOfRange):
                portions_at(FILLET, 0.9, 0.5, 0.2, cuts)
        for order in ((0.5, 0.001, 90), (0.5, 0.02, 5), (0.5, float("nan"), 90), (20.0, 0.003, 90)):
            with self.subTest(order=order), self.assertRaises(OutOfRange):
                by_thickness(*order)


class Cutter:
    """A crew whose fish differ from the guide by a known shape, and whose knife strays."""

    def __init__(self, seed: int, tilt: float, belly: float, knife: float = 0.03) -> None:
        self.rng = np.random.default_rng(seed)
        x = np.asarray(FILLET.x)
        at = 2 * x - 1
        factor = np.exp(tilt * at + belly * (3 * at**2 - 1) / 2)
        thick = tuple(float(t) for t in np.asarray(FILLET.thickness) * factor)
        self.truth = FilletProfile(FILLET.x, FILLET.width, thick)
        self.knife = knife

    def bags(self, fillets: int) -> list[WeighedBag]:
        found = []
        for _ in range(fillets):
            kg = float(self.rng.uniform(0.5, 1.2))
            cuts = [0.0, *(m / 0.5 for m in equal_portions(FILLET, kg, 0.5, 0.2).marks_m), 1.0]
            for start, end in pairwise(cuts):
                grams = grams_by_quad(self.truth, kg, start, end)
                weighed = grams / 1000 * math.exp(self.rng.normal(0, self.knife))
                found.append(WeighedBag(weighed, (Stretch(start, end, kg),)))
        return found

    def off(self, profile: FilletProfile) -> float:
        """Half of the equal portions by a profile are off by less than this part in truth."""
        plan = equal_portions(profile, 0.8, 0.5, 0.2)
        true = [grams_by_quad(self.truth, 0.8, p.from_m / 0.5, p.to_m / 0.5) for p in plan.portions]
        return float(
            np.median(
                [abs(t / (p.kg * 1000) - 1) for t, p in zip(true, plan.portions, strict=True)]
            )
        )


class LearningTest(unittest.TestCase):
    def test_more_weighed_fillets_make_smaller_errors(self) -> None:
        """Twelve crews with shapes drawn from the prior: the median error after 0, 5, 20, 50."""
        rng = np.random.default_rng(3)
        off: dict[int, list[float]] = {0: [], 5: [], 20: [], 50: []}
        for seed in range(12):
            cutter = Cutter(seed, *rng.normal(0, (0.10, 0.08)))
            bags = cutter.bags(50)
            each = len(bags) // 50
            for fillets in off:
                learned = learn_profile(FILLET, bags[: fillets * each])
                off[fillets].append(cutter.off(learned.profile))
        medians = [float(np.median(errors)) for errors in off.values()]
        self.assertLess(medians[1], 0.6 * medians[0])
        self.assertLess(medians[2], 0.4 * medians[0])
        self.assertLess(medians[3], 0.25 * medians[0])

    def test_equal_portions_differ_under_three_per_cent_when_the_profile_is_right(self) -> None:
        cutter = Cutter(1, 0.12, -0.08)
        learned = learn_profile(FILLET, cutter.bags(200))
        plan = equal_portions(learned.profile, 0.8, 0.5, 0.2, tail_apart=False)
        true = [
            grams_by_quad(cutter.truth, 0.8, p.from_m / 0.5, p.to_m / 0.5) for p in plan.portions
        ]
        self.assertLess(max(true) / min(true) - 1, 0.03)

    def test_a_cutters_own_bags_correct_the_crews_once_more(self) -> None:
        crew, own = Cutter(5, 0.1, 0.0), Cutter(6, 0.2, 0.0)
        crews, mine = crew.bags(30), own.bags(30)
        together = learn_profile(FILLET, crews)
        corrected = learn_profile(FILLET, crews, mine)
        self.assertLess(own.off(corrected.profile), own.off(together.profile))

    def test_nothing_weighed_leaves_the_guides_profile_and_its_spread(self) -> None:
        learned = learn_profile(FILLET, [])
        self.assertEqual(
            (learned.profile, learned.sd, learned.typical_g), (FILLET, PROFILE_SD, None)
        )
        whole = [WeighedBag(0.8, (Stretch(0.0, 1.0, 0.8),))] * 5
        self.assertEqual(
            learn_profile(FILLET, whole).bags, 0
        )  # a whole piece says nothing of shape

    def test_the_spread_narrows_and_a_wrong_bag_is_no_teacher(self) -> None:
        bags = Cutter(2, 0.08, 0.0).bags(20)
        learned = learn_profile(FILLET, bags)
        self.assertLess(learned.sd, PROFILE_SD)
        self.assertEqual(len(learned.off_g), 10)
        slip = WeighedBag(bags[0].kg * 3, bags[0].inside)
        self.assertEqual(learn_profile(FILLET, [slip, *bags]).profile, learned.profile)

    def test_what_is_said_of_the_last_bags_was_foretold_before_they_were_weighed(self) -> None:
        """Only the last bag is changed: what was foretold of those before it stays the same."""
        bags = Cutter(2, 0.08, 0.0).bags(12)
        last = WeighedBag(bags[-1].kg * 1.1, bags[-1].inside)
        first, second = learn_profile(FILLET, bags), learn_profile(FILLET, [*bags[:-1], last])
        self.assertEqual(first.off_g[:-1], second.off_g[:-1])
        self.assertAlmostEqual(second.off_g[-1] - first.off_g[-1], bags[-1].kg * 100, places=6)

    def test_a_bag_of_several_pieces_teaches_too(self) -> None:
        cutter = Cutter(4, 0.15, 0.0, knife=0.0)
        bags = cutter.bags(20)
        pairs = [WeighedBag(a.kg + b.kg, (*a.inside, *b.inside)) for a, b in pairwise(bags[::2])]
        learned = learn_profile(FILLET, pairs)
        self.assertLess(cutter.off(learned.profile), 0.5 * cutter.off(FILLET))
