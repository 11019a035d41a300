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
