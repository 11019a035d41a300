"""The cut across: its area and bones, and the blade's way over them."""

import math
import unittest

import numpy as np

from lepidos.core.cutting.worth_filleting import fillet_thickness
from lepidos.core.errors import OutOfRange
from lepidos.core.fish.anatomy import area
from lepidos.core.fish.section import section
from lepidos.guide.library import load_guide

GUIDE = load_guide()


def cut(key: str, s: float):
    one = GUIDE.one(key)
    return section(GUIDE.body_of(one), GUIDE.plan_of(one), s)


class BackboneTest(unittest.TestCase):
    def test_the_backbone_has_a_twentyfifth_of_the_depth_for_its_radius(self) -> None:
        found = section(GUIDE.bodies["cod"], GUIDE.plans["round"], 1.5)
        self.assertAlmostEqual(found.spine_radius, 0.04 * found.depth)


class SectionTest(unittest.TestCase):
    def test_its_area_is_that_of_the_ellipse(self) -> None:
        for key in GUIDE.species:
            for s in (0.5, 1.5, 2.5):
                found = cut(key, s)
                self.assertAlmostEqual(
                    area(found.outline) / (math.pi / 4 * found.depth * found.width), 1.0, delta=0.01
                )

    def test_sections_add_up_to_the_bodys_volume(self) -> None:
        body = GUIDE.body_of(GUIDE.one("cod"))
        stations = np.linspace(0.2, 2.95, 160)
        xs = [body.point(float(s), 0.0)[0] for s in stations]
        areas = [area(cut("cod", float(s)).outline) for s in stations]
        inside = float(np.trapezoid(areas, xs))
        x = np.linspace(xs[0], xs[-1], 800)
        whole = float(np.trapezoid(np.pi / 4 * body.depth(x) * body.width(x), x))
        self.assertAlmostEqual(inside / whole, 1.0, delta=0.01)

    def test_ribs_and_gut_lie_between_gill_cover_and_vent_only(self) -> None:
        self.assertEqual(len(cut("cod", 1.5).bones), 3)
        self.assertTrue(cut("cod", 1.5).cavity)
        self.assertEqual(len(cut("cod", 2.5).bones), 2)
        self.assertEqual(cut("cod", 2.5).cavity, ())

    def test_everything_lies_inside_the_skin(self) -> None:
        for key in ("cod", "cobia", "swordfish", "plaice", "northern_pike"):
            found = cut(key, 1.6)
            for x, y in [*found.blade, *found.cavity, *(p for b in found.bones for p in b)]:
                inside = (2 * x / found.width) ** 2 + (2 * y / found.depth) ** 2
                self.assertLessEqual(inside, 1.0 + 1e-9, key)

    def test_pin_bones_lie_in_the_meat_beside_the_spine(self) -> None:
        near, far = cut("cod", 1.5).pin_bones
        for x, y in (near, far):
            found = cut("cod", 1.5)
            self.assertLess((2 * x / found.width) ** 2 + (2 * y / found.depth) ** 2, 1.0)
            self.assertGreater(x, 0.0)
        self.assertLess(near[0], far[0])
        self.assertEqual(cut("cod", 2.9).pin_bones, ())

    def test_the_blade_goes_round_the_ribs_and_not_through_them(self) -> None:
        found = cut("cod", 1.5)
        ribs = {round(y, 4): x for x, y in found.bones[2]}
        lowest = min(ribs)
        for x, y in found.blade:
            if lowest <= y <= found.spine[1]:
                near = min(ribs, key=lambda h: abs(h - y))
                self.assertGreater(x, ribs[near] - 1e-3)

    def test_a_flatfishs_blade_runs_from_edge_to_edge_on_the_bones(self) -> None:
        found = cut("turbot", 1.8)
        self.assertGreater(found.blade[0][1], 0.4 * found.depth)
        self.assertLess(found.blade[-1][1], -0.4 * found.depth)

    def test_a_head_has_a_skull_and_no_blade(self) -> None:
        for key in ("cod", "plaice", "swordfish", "conger"):
            found = cut(key, 0.7)
            self.assertEqual(found.blade, (), key)
            self.assertAlmostEqual(area(found.skull) / area(found.outline), 0.36, delta=0.01)
            self.assertEqual(cut(key, 1.5).skull, ())

    def test_flat_fish_lie_on_the_board_and_round_ones_do_not(self) -> None:
        for key in ("plaice", "turbot", "thornback_ray", "european_squid"):
            self.assertTrue(cut(key, 1.5).lies_flat, key)
        self.assertFalse(cut("cod", 1.5).lies_flat)

    def test_gristle_fish_have_no_ribs_and_their_gut(self) -> None:
        for key in ("smooth_hound", "white_sturgeon", "conger"):
            self.assertTrue(cut(key, 1.5).cavity, key)
            self.assertLess(len(cut(key, 1.5).bones), 3, key)
        self.assertEqual(cut("smooth_hound", 1.5).bones, ())
        self.assertEqual(cut("monkfish", 1.5).cavity, ())

    def test_a_wing_is_cut_off_beside_the_gut(self) -> None:
        found = cut("thornback_ray", 1.4)
        (x0, y0), (x1, y1) = found.blade
        self.assertEqual(y0, y1)
        self.assertAlmostEqual(x0, -x1)
        self.assertGreater(y0, max(y for _, y in found.cavity))
        self.assertEqual(cut("thornback_ray", 2.5).cavity, ())
        # a row of gristle in the middle of each wing, from the gut nearly to its edge
        edge = max(y for _, y in found.outline)
        self.assertEqual(len(found.bones), 2)
        for (x0, y0), (x1, y1) in found.bones:
            self.assertEqual((x0, x1), (0.0, 0.0))
            self.assertGreater(abs(y1), abs(y0))
            self.assertTrue(0.8 * edge < abs(y1) < edge, (y1, edge))

    def test_a_squids_arms_are_no_tube(self) -> None:
        self.assertEqual(cut("european_squid", 0.5).cavity, ())
        self.assertTrue(cut("european_squid", 1.0).cavity)
        self.assertTrue(cut("european_squid", 1.5).cavity)

    def test_a_tube_is_hollow_and_slit_through_its_wall(self) -> None:
        found = cut("european_squid", 2.0)
        self.assertAlmostEqual(area(found.cavity) / area(found.outline), 0.78**2, delta=0.01)
        (x0, _), (x1, _) = found.blade
        self.assertAlmostEqual(x0, found.width / 2)
        self.assertAlmostEqual(x1 / x0, 0.78)
        self.assertEqual(found.spine_radius, 0.0)

    def test_a_loin_comes_off_along_the_seam_in_which_the_dark_meat_lies(self) -> None:
        found = cut("swordfish", 1.8)
        end = found.blade[-1]
        self.assertAlmostEqual(end[1], found.spine[1])
        for wedge in found.red:
            self.assertTrue(min(y for _, y in wedge) < end[1] < max(y for _, y in wedge))
        self.assertEqual(cut("plaice", 1.8).red, ())

    def test_how_far_the_dark_meat_goes_in_is_the_plans(self) -> None:
        def inwards(key: str) -> float:
            found = cut(key, 1.6)
            (_, skin, _, tip) = found.red[1]
            return (skin[0] - tip[0]) / (found.width / 2)

        self.assertTrue(inwards("cod") < inwards("mackerel") < inwards("bluefin_tuna"))

    def test_pike_have_forked_bones_in_the_back_on_both_sides(self) -> None:
        forked = [b for b in cut("northern_pike", 2.3).bones if len(b) == 5]
        self.assertEqual(len(forked), 2)
        for (x0, y0), (x1, y1) in zip(*forked, strict=True):
            self.assertAlmostEqual(x0, -x1)
            self.assertEqual(y0, y1)
        self.assertFalse([b for b in cut("cod", 2.3).bones if len(b) == 5])

    def test_a_place_off_the_fish_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            cut("cod", 3.5)

    def test_a_fillets_thickness_grows_with_the_fish_and_its_plumpness(self) -> None:
        one = GUIDE.one("plaice")
        body, plan = GUIDE.body_of(one), GUIDE.plan_of(one)
        thin, long, plump = (
            fillet_thickness(body, plan, m, kg) for m, kg in ((0.4, 0.64), (0.8, 5.12), (0.4, 0.9))
        )
        self.assertAlmostEqual(long / thin, 2.0, places=6)
        self.assertGreater(plump, thin)


if __name__ == "__main__":
    unittest.main()
