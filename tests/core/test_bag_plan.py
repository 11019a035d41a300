"""Bags: how pieces lie in one, which pieces share one, how few do, and what the box holds."""

import itertools
import math
import unittest
from collections.abc import Iterator
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from lepidos.core.errors import OutOfRange
from lepidos.core.pack.bag_plan import BagOf, Part, plan_bags
from lepidos.core.pack.bag_sizes import (
    HEAD_ROOM_M,
    BagSize,
    LaidShape,
    Supply,
    lay,
    take_from_stock,
    ways_to_lay,
)
from lepidos.core.pack.outlines import portion_outline

SIZES = [BagSize(0.15, 0.25), BagSize(0.20, 0.30), BagSize(0.25, 0.35), BagSize(0.28, 0.0)]
SHAPES = st.builds(LaidShape, st.floats(0.01, 0.4), st.floats(0.01, 0.25), st.floats(0.004, 0.06))
PARTS = st.lists(
    st.tuples(
        st.sampled_from(["cod", "ling"]), st.sampled_from(["on", "off"]),
        st.integers(1, 5), st.floats(0.05, 1.6), SHAPES,
    ),
    min_size=1, max_size=14,
)  # fmt: skip


def parts_of(drawn: list[tuple[str, str, int, float, LaidShape]], most: float = 2.0) -> list[Part]:
    """Pieces of one to five portions each; a single portion counts by its weight."""
    return [
        Part(f"{n}:{k}", str(n), (kind, skin), 0.2 * size, 1.0 if many > 1 else size, shape, most)
        for n, (kind, skin, many, size, shape) in enumerate(drawn)
        for k in range(many)
    ]


def plain(key: str, servings: float, thick_m: float = 0.02, **more: object) -> Part:
    shape = LaidShape(0.05, 0.04, thick_m)
    return replace(Part(key, key, ("cod",), servings * 0.2, servings, shape), **more)


class LayingTest(unittest.TestCase):
    @given(st.lists(SHAPES, min_size=1, max_size=8), st.sampled_from(SIZES))
    def test_pieces_lie_apart_inside_the_bag_and_below_its_head_room(
        self, shapes: list[LaidShape], size: BagSize
    ) -> None:
        laid = lay(shapes, size)
        if laid is None:
            return
        for spot, shape in zip(laid.spots, shapes, strict=True):
            self.assertEqual((spot.width_m, spot.length_m), (shape.width_m, shape.length_m))
            self.assertGreaterEqual(spot.x_m, 0)
            self.assertLessEqual(spot.x_m + spot.width_m, size.width_m)
            self.assertGreaterEqual(spot.y_m, 0)
            self.assertLessEqual(spot.y_m + spot.length_m, laid.length_m - HEAD_ROOM_M + 1e-9)
        for a, b in itertools.combinations(laid.spots, 2):
            beside = a.x_m + a.width_m <= b.x_m or b.x_m + b.width_m <= a.x_m
            above = a.y_m + a.length_m <= b.y_m or b.y_m + b.length_m <= a.y_m
            self.assertTrue(beside or above)

    def test_the_thickness_takes_from_the_width(self) -> None:
        """A round bag of circumference 2 x width goes over the piece: flat width less thickness."""
        wide = LaidShape(0.1, 0.1, 0.01)
        self.assertIsNotNone(lay([wide], BagSize(0.141, 0.3)))
        self.assertIsNone(lay([wide._replace(thick_m=0.03)], BagSize(0.141, 0.3)))

    def test_a_roll_is_cut_to_whole_centimetres_and_no_longer_than_it_must(self) -> None:
        laid = lay([LaidShape(0.20, 0.1, 0.02)], BagSize(0.28, 0.0))
        needed = 0.20 + 0.015 + 0.02 + HEAD_ROOM_M
        self.assertAlmostEqual(laid.length_m, math.ceil(needed * 100) / 100)

    def test_the_smallest_bag_that_is_large_enough_comes_first(self) -> None:
        ways = ways_to_lay([LaidShape(0.1, 0.08, 0.02)], SIZES)
        self.assertEqual([w.area_m2 for w in ways], sorted(w.area_m2 for w in ways))
        self.assertEqual(ways[0].size, SIZES[0])

    def test_a_piece_without_size_is_refused(self) -> None:
        for shape in (LaidShape(0, 0.1, 0.01), LaidShape(0.1, 0, 0.01), LaidShape(0.1, 0.1, 0)):
            with self.subTest(shape=shape), self.assertRaises(OutOfRange):
                lay([shape], SIZES[0])


class StockTest(unittest.TestCase):
    ONE = (LaidShape(0.1, 0.08, 0.02),)

    @given(
        st.lists(st.lists(SHAPES, min_size=1, max_size=3), max_size=12),
        st.lists(st.integers(0, 3), min_size=3, max_size=3), st.floats(0, 2),
    )  # fmt: skip
    def test_no_stock_goes_below_nothing_and_all_is_accounted_for(
        self, bags: list[list[LaidShape]], held: list[int], roll_m: float
    ) -> None:
        counted = [*map(float, held), roll_m]
        supplies = [Supply(size, left) for size, left in zip(SIZES, counted, strict=True)]
        taken = take_from_stock(bags, supplies)
        used: dict[BagSize, float] = {}
        for shapes, laid in zip(bags, taken.laid, strict=True):
            self.assertEqual(laid is None, not ways_to_lay(shapes, SIZES))
            if laid:
                use = laid.length_m if laid.size.roll else 1.0
                used[laid.size] = used.get(laid.size, 0.0) + use
        for size, there in zip(SIZES, counted, strict=True):
            self.assertGreaterEqual(taken.left[size], -1e-9)
            short = taken.short.get(size, 0.0)
            self.assertAlmostEqual(there - taken.left[size] + short, used.get(size, 0.0))

    def test_when_the_best_size_is_gone_the_next_larger_is_taken(self) -> None:
        supplies = [Supply(SIZES[0], 1.0), Supply(SIZES[1], 5.0)]
        taken = take_from_stock([self.ONE] * 3, supplies)
        self.assertEqual([laid.size for laid in taken.laid], [SIZES[0], SIZES[1], SIZES[1]])
        self.assertEqual(taken.short, {})

    def test_what_is_not_there_is_to_buy(self) -> None:
        taken = take_from_stock([self.ONE] * 3, [Supply(SIZES[0], 1.0)])
        self.assertEqual(taken.short, {SIZES[0]: 2.0})

    def test_what_nobody_counted_does_not_run_out(self) -> None:
        self.assertEqual(take_from_stock([self.ONE] * 99, [Supply(SIZES[0])]).short, {})


class PlanTest(unittest.TestCase):
    @settings(max_examples=150)
    @given(PARTS, st.integers(1, 4), st.booleans())
    def test_no_rule_is_broken(
        self, drawn: list[tuple[str, str, int, float, LaidShape]], most: int, any_size: bool
    ) -> None:
        parts = parts_of(drawn, float(most))
        sizes = [] if any_size else SIZES
        plan = plan_bags(parts, sizes)
        packed = [p.key for bag in plan.bags for p in bag.parts]
        self.assertEqual(sorted(packed), sorted(p.key for p in parts))
        for bag in plan.bags:
            self.assertEqual(len({p.kin for p in bag.parts}), 1)
            if len(bag.parts) > 1:
                self.assertLessEqual(bag.servings, most + 1e-6)
                if sizes:
                    self.assertTrue(ways_to_lay([p.shape for p in bag.parts], sizes))
        self.assertGreaterEqual(len(plan.bags), plan.least)

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.floats(0.1, 1.0), min_size=1, max_size=7))
    def test_small_pieces_go_into_nearly_the_fewest_bags(self, sizes: list[float]) -> None:
        """Brute force over every way to divide them; first fit decreasing keeps 11/9 + 6/9."""
        parts = [plain(f"p{n}", size) for n, size in enumerate(sizes)]
        fewest = min((len(set(way)) for way in _ways(len(sizes)) if _holds(way, sizes)), default=0)
        found = plan_bags(parts, [])
        self.assertLessEqual(found.least, fewest)
        self.assertLessEqual(len(found.bags), math.floor(11 / 9 * fewest + 6 / 9))
        if found.fewest:
            self.assertEqual(len(found.bags), fewest)

    @given(st.lists(st.integers(1, 6), min_size=1, max_size=12), st.integers(1, 4))
    def test_equal_portions_are_proven_to_be_in_the_fewest(
        self, portions: list[int], most: int
    ) -> None:
        parts = [
            plain(f"{n}:{k}", 1.0, 0.01 + n / 1000, piece=str(n), most=float(most))
            for n, many in enumerate(portions)
            for k in range(many)
        ]
        plan = plan_bags(parts, [])
        self.assertEqual(len(plan.bags), math.ceil(sum(portions) / most))
        self.assertTrue(plan.fewest)

    def test_of_what_is_left_over_thick_lies_with_thick(self) -> None:
        thick = [0.030, 0.010, 0.029, 0.011]
        parts = [plain(f"p{n}", 1.0, t) for n, t in enumerate(thick)]
        together = {frozenset(p.key for p in bag.parts) for bag in plan_bags(parts, []).bags}
        self.assertEqual(together, {frozenset({"p0", "p2"}), frozenset({"p1", "p3"})})

    def test_cheeks_of_many_fish_share_one_bag(self) -> None:
        parts = [plain(f"c{n}", 0.08) for n in range(12)]
        self.assertEqual(len(plan_bags(parts, SIZES).bags), 1)

    def test_what_was_laid_together_by_hand_stays_so(self) -> None:
        parts = [plain(f"p{n}", 1.0, pin="mine" if n < 3 else "") for n in range(5)]
        plan = plan_bags(parts, [])
        mine = next(bag for bag in plan.bags if bag.by_hand)
        self.assertEqual([p.key for p in mine.parts], ["p0", "p1", "p2"])
        self.assertEqual(len(plan.bags), 2)

    def test_a_change_moves_only_what_is_like_it(self) -> None:
        parts = [
            plain(f"{n}:{k}", 1.0, 0.02 + n / 1000, piece=str(n), kin=(kind,))
            for n, kind in enumerate(["cod"] * 4 + ["ling"] * 4)
            for k in range(3)
        ]
        before = {_of(bag) for bag in plan_bags(parts, SIZES).bags}
        after = {_of(bag) for bag in plan_bags(parts[1:], SIZES).bags}
        moved = {key for bag in before - after for key in bag}
        # the changed fillet's own, and the odd portions of the other cod: no ling, no full bag
        self.assertLessEqual(moved, {"0:0", "0:1", "0:2", "1:2", "2:2", "3:2"})

    def test_a_piece_larger_than_any_bag_has_one_of_its_own(self) -> None:
        large = plain("p", 9.0, shape=LaidShape(1.5, 0.3, 0.06))
        plan = plan_bags([large, plain("q", 1.0)], SIZES)
        self.assertEqual(sorted(len(bag.parts) for bag in plan.bags), [1, 1])

    def test_a_bag_holds_between_one_serving_and_twelve(self) -> None:
        for most in (0.0, 13.0, float("nan")):
            with self.subTest(most=most), self.assertRaises(OutOfRange):
                plan_bags([plain("p", 1.0, most=most)], [])


class OutlineTest(unittest.TestCase):
    def test_a_stretch_of_a_triangle_is_the_trapezoid_it_should_be(self) -> None:
        """Base 2 at the head, point at the tail, cut at the half: widths 2 and 1, by proportion."""
        outline = portion_outline([(0, -1), (4, 0), (0, 1)], 0.0, 0.5)
        at_head = sorted(x for x, y in outline if y < 1e-9)
        at_cut = sorted(x for x, y in outline if y > 1 - 1e-9)
        self.assertAlmostEqual(at_head[-1] - at_head[0], 1.0)
        self.assertAlmostEqual(at_cut[-1] - at_cut[0], 0.5)

    @given(st.floats(0, 0.8), st.floats(0.05, 0.2))
    def test_it_fills_the_unit_square(self, start: float, long: float) -> None:
        outline = portion_outline(
            [(0, 0), (1, 0.2), (5, 0.1), (5, -0.1), (1, -0.2)], start, start + long
        )
        for values in zip(*outline, strict=True):
            self.assertAlmostEqual(min(values), 0.0)
            self.assertAlmostEqual(max(values), 1.0)


def _ways(number: int) -> Iterator[tuple[int, ...]]:
    """Every way to divide so many things: a thing goes into a bag that is there, or the next one."""
    ways: list[tuple[int, ...]] = [()]
    for _ in range(number):
        ways = [(*way, bag) for way in ways for bag in range(max(way, default=-1) + 2)]
    return iter(ways)


def _holds(way: tuple[int, ...], sizes: list[float]) -> bool:
    return all(
        sum(s for s, bag in zip(sizes, way, strict=True) if bag == b) <= 2 + 1e-9 for b in set(way)
    )


def _of(bag: BagOf) -> frozenset[str]:
    return frozenset(p.key for p in bag.parts)
