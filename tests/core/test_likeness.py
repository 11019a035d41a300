"""A shape drawn after another's."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lepidos.core.fish.anatomy import Body
from lepidos.core.fish.likeness import Likeness, reshape
from lepidos.guide.library import load_guide

GUIDE = load_guide()
COD = GUIDE.one("cod").shape


class LikenessTest(unittest.TestCase):
    def test_with_nothing_of_its_own_it_is_the_same_fish(self) -> None:
        same = reshape(COD, Likeness(like="cod", source=COD.source, note=COD.note))
        self.assertEqual(same.head, COD.head)
        for (x, y), (u, v) in zip(same.back, COD.back, strict=True):
            self.assertAlmostEqual(x, u)
            self.assertAlmostEqual(y, v)

    @settings(max_examples=40, deadline=None)
    @given(st.floats(0.08, 0.5), st.floats(0.15, 0.4))
    def test_depth_and_head_come_out_as_asked(self, depth: float, head: float) -> None:
        shape = reshape(COD, Likeness(like="cod", source="memory", depth=depth, head=head))
        body = Body.of(shape)
        deepest = float(np.max(body.depth(np.linspace(0, body.root, 400))))
        self.assertAlmostEqual(deepest, depth, places=3)
        self.assertEqual(shape.head, head)
        self.assertTrue(all(0 <= f.base[0] < f.base[1] <= 1 for f in shape.fins))

    def test_fins_can_be_left_out_and_resized(self) -> None:
        base = GUIDE.one("atlantic_salmon").shape
        own = Likeness(like="atlantic_salmon", source="memory", without=("adipose",), fins=2.0)
        shape = reshape(base, own)
        self.assertNotIn("adipose", [f.name for f in shape.fins])
        self.assertEqual(shape.fins[0].edge[1][1], 2 * base.fins[0].edge[1][1])

    def test_parts_that_do_not_follow_one_another_are_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "must follow one another"):
            reshape(COD, Likeness(like="cod", source="memory", head=0.45, vent=0.3))


if __name__ == "__main__":
    unittest.main()
