"""The blade's ways: the cut that takes venomous spines off passes at the foot of every one."""

import unittest
from itertools import pairwise

import numpy as np

from lepidos.core.cutting.model import FishToCut
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.fish.blade import blade_paths
from lepidos.core.fish.bodyplan import Step
from lepidos.core.fish.fins import fin_drawing
from lepidos.core.fish.species import Point
from lepidos.guide.library import load_guide

GUIDE = load_guide()
VENOMOUS = [s for s in GUIDE.species.values() if s.counted and s.counted.stings]


def steps_of(key: str) -> tuple[Step, ...]:
    one = GUIDE.one(key)
    fish = FishToCut(1.0, one.longest_cm / 200)
    return plan_cut(fish, one, GUIDE.plan_of(one), GUIDE.pieces, GUIDE.methods).steps


def ways(key: str, step: Step) -> list[np.ndarray]:
    one = GUIDE.one(key)
    paths = blade_paths(GUIDE.bodies[key], one, GUIDE.plan_of(one), step)
    return [np.array(path) for path in paths]


def gap(way: np.ndarray, at: Point) -> float:
    """How far a way passes from a point, in total lengths."""
    nearest = np.inf
    for (ax, ay), (bx, by) in pairwise(way):
        dx, dy = bx - ax, by - ay
        along = np.clip(
            ((at[0] - ax) * dx + (at[1] - ay) * dy) / max(dx * dx + dy * dy, 1e-18), 0, 1
        )
        nearest = min(nearest, np.hypot(at[0] - ax - along * dx, at[1] - ay - along * dy))
    return float(nearest)


class DisarmingTest(unittest.TestCase):
    def test_the_shears_pass_at_the_foot_of_every_spine_that_stings(self) -> None:
        for one in VENOMOUS:
            assert one.counted is not None
            body = GUIDE.bodies[one.key]
            disarming = [s for s in steps_of(one.key) if s.disarms]
            found = [way for step in disarming for way in ways(one.key, step)]
            feet = [
                foot
                for fin in one.shape.fins
                if fin.name in one.counted.stings
                for foot, _ in fin_drawing(body, fin).spines
            ]
            bearers = {
                "pectoral": body.point(*one.shape.pectoral[0]),
                "pelvic": body.point(*one.shape.pelvic[0]) if one.shape.pelvic else (0.0, 0.0),
                "gill cover": body.point(1.01, 0.45),
                "tail": body.point(2.45, 0.0),
            }
            feet += [at for name, at in bearers.items() if name in one.counted.stings]
            with self.subTest(fish=one.key):
                self.assertTrue(disarming)
                self.assertTrue(feet)
                for foot in feet:
                    self.assertLess(min(gap(way, foot) for way in found), 2e-3, foot)
                # one way for each fin and for each of the others, none for what does not sting
                self.assertEqual(len(found), len(one.counted.stings))

    def test_the_first_and_the_last_spine_are_reached_past(self) -> None:
        lionfish = GUIDE.one("lionfish")
        back = next(f for f in lionfish.shape.fins if f.name == "dorsal")
        feet = [foot for foot, _ in fin_drawing(GUIDE.bodies["lionfish"], back).spines]
        (step,) = [s for s in steps_of("lionfish") if s.disarms]
        way = next(w for w in ways("lionfish", step) if gap(w, feet[0]) < 1e-9)
        self.assertAlmostEqual(way[0][0], feet[0][0] - 0.012)
        self.assertAlmostEqual(way[-1][0], feet[-1][0] + 0.012)

    def test_a_weevers_gill_spines_are_a_cut_of_their_own(self) -> None:
        back, gills = [s for s in steps_of("greater_weever") if s.disarms]
        at = GUIDE.bodies["greater_weever"].point(1.01, 0.45)
        self.assertEqual(len(ways("greater_weever", gills)), 1)
        self.assertLess(gap(ways("greater_weever", gills)[0], at), 2e-3)
        self.assertGreater(min(gap(w, at) for w in ways("greater_weever", back)), 0.01)
        reworded = gills.model_copy(update={"title": "Shear both gill spines"})
        self.assertLess(gap(ways("greater_weever", reworded)[0], at), 2e-3)

    def test_any_other_step_follows_its_cut_or_shows_none(self) -> None:
        one = GUIDE.one("pollack")
        plan, body = GUIDE.plan_of(one), GUIDE.bodies["pollack"]
        for step in steps_of("pollack"):
            cut = next((c for c in plan.cuts if c.key == step.cut), None)
            with self.subTest(step=step.key):
                paths = blade_paths(body, one, plan, step)
                self.assertEqual(paths, (body.path(cut.path),) if cut else ())


if __name__ == "__main__":
    unittest.main()
