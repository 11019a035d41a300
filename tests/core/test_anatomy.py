"""The geometry against analytic shapes, and every species' drawing against itself."""

import math
import unittest
from itertools import combinations

import hypothesis
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.fish import anatomy
from lepidos.core.fish.fins import fin_drawing, tail_drawing
from lepidos.core.fish.species import Shape, Tail
from lepidos.guide.library import load_guide

GUIDE = load_guide()
# From snout to tail root the test bodies are plain ellipsoids of revolution.
HALF, ROOT = 0.1, 0.999


def ellipsoid() -> anatomy.Body:
    xs = (1 - np.cos(np.linspace(0, math.pi, 60))) / 2
    ys = HALF * np.sqrt(np.clip(1 - (2 * xs - 1) ** 2, 0, None))
    shape = Shape(
        source="memory",
        back=tuple((float(x), float(y)) for x, y in zip(xs, ys, strict=True)),
        belly=tuple((float(x), float(-y)) for x, y in zip(xs, ys, strict=True)),
        head=0.2,
        vent=0.5,
        width_per_depth=1.0,
        eyes=((0.1, 0.0, 0.01),),
        mouth=((0.0, 0.0), (0.1, 0.0)),
        lateral_line=((1.0, 0.0), (3.0, 0.0)),
        pectoral=((1.0, 0.0), (1.2, 0.1), (1.2, -0.1)),
        fins=(),
        tail=Tail(root=ROOT, root_depth=0.01, span=0.1, shape="straight"),
    )
    return anatomy.Body.of(shape)


class AnalyticShapesTest(unittest.TestCase):
    def test_area_of_a_circle_of_many_corners(self) -> None:
        corners = [
            (math.cos(t), math.sin(t)) for t in np.linspace(0, 2 * math.pi, 2000, endpoint=False)
        ]
        self.assertAlmostEqual(anatomy.area(corners), math.pi, places=4)

    def test_outline_area_of_an_ellipse(self) -> None:
        # π · a · b with a = 1/2, b = 0.1
        outline = ellipsoid().outline(400)
        self.assertAlmostEqual(anatomy.area(outline), math.pi * 0.5 * HALF, delta=2e-4)

    def test_volume_of_an_ellipsoid_once_the_tail_is_not_flattened(self) -> None:
        body = ellipsoid()
        x = np.linspace(0, body.root, 4001)
        round_section = np.trapezoid(math.pi / 4 * body.depth(x) ** 2, x)
        self.assertAlmostEqual(float(round_section), 4 / 3 * math.pi * 0.5 * HALF**2, delta=2e-5)
        # flattened sections can only take volume away, and take less than the tail half
        self.assertTrue(0.5 * round_section < body.volume() < round_section)

    def test_outline_must_start_at_the_snout(self) -> None:
        shape = ellipsoid().shape
        with self.assertRaisesRegex(ValueError, "snout"):
            anatomy.Body.of(shape.model_copy(update={"back": ((0.1, 0.0), (0.9, 0.1))}))


def turns_round(polygon: anatomy.Polygon, at: tuple[float, float]) -> bool:
    """Whether an edge winds round a point: the angles that it is seen under add up to a turn."""
    x, y = np.array(polygon).T
    angle = np.unwrap(np.arctan2(y - at[1], x - at[0]))
    last = np.arctan2(y[0] - at[1], x[0] - at[0]) - np.arctan2(y[-1] - at[1], x[-1] - at[0])
    last = (last + np.pi) % (2 * np.pi) - np.pi
    return bool(abs(angle[-1] - angle[0] + last) > np.pi)


class ZoneAtTest(unittest.TestCase):
    @settings(max_examples=300, deadline=None)
    @given(st.sampled_from(sorted(GUIDE.species)), st.floats(0.02, 0.9), st.floats(-0.98, 0.98))
    def test_a_touch_is_in_the_smallest_zone_round_it_else_in_the_nearest(
        self, key: str, x: float, v: float
    ) -> None:
        body, plan = GUIDE.bodies[key], GUIDE.plan_of(GUIDE.one(key))
        keys = [zone.key for zone in plan.zones]
        middle, half = float(body.back_y(x) + body.belly_y(x)) / 2, float(body.depth(x)) / 2
        at = (x, middle + v * half)
        polygons = {k: anatomy.zone_polygon(body, plan, k) for k in keys}
        # a point on an edge is in neither or both
        hypothesis.assume(
            all(np.hypot(*(np.array(p) - at).T).min() > 2e-3 for p in polygons.values())
        )
        round_it = [k for k in keys if turns_round(polygons[k], at)]
        found = anatomy.zone_at(body, plan, keys, at)
        if round_it:
            self.assertEqual(found, min(round_it, key=lambda k: anatomy.area(polygons[k])))
        else:
            near = {k: np.hypot(*(np.array(p) - at).T).min() for k, p in polygons.items()}
            self.assertAlmostEqual(near[found], min(near.values()))


class TailTest(unittest.TestCase):
    def test_a_tail_spreads_evenly_about_the_middle_of_its_root(self) -> None:
        apart = 0.0
        for key, body in GUIDE.bodies.items():
            root = body.shape.tail.root
            middle = (float(body.back_y(root)) + float(body.belly_y(root))) / 2
            apart = max(apart, abs(middle))
            ys = [y for _, y in tail_drawing(body).outline]
            above, below = max(ys) - middle, middle - min(ys)
            with self.subTest(species=key):
                if body.shape.tail.shape == "uneven":
                    self.assertGreater(above, 1.5 * below)
                else:
                    self.assertAlmostEqual(above, below, delta=2e-3)
        self.assertGreater(apart, 0.002)  # some tail's root is not in the middle of the drawing

    def test_a_tails_rays_fan_out_in_pairs_and_its_edge_stays_on_its_own_side(self) -> None:
        for key, body in GUIDE.bodies.items():
            tail = body.shape.tail
            if tail.shape in {"uneven", "pointed"}:
                continue
            middle = (float(body.back_y(tail.root)) + float(body.belly_y(tail.root))) / 2
            drawn = tail_drawing(body)
            tips = [tip for _, tip in drawn.rays]
            with self.subTest(species=key):
                # a tail that is even: the ray above the middle and the one below are a pair
                for (x, y), (x2, y2) in zip(tips, reversed(tips), strict=True):
                    self.assertAlmostEqual(x, x2, delta=0.01)
                    self.assertAlmostEqual(y - middle, middle - y2, delta=0.12 * tail.span)
                self.assertEqual(tips, sorted(tips, key=lambda tip: -tip[1]))
                if tail.shape == "rounded":
                    continue
                # from the upper tip to the fork, and from there to the lower tip
                n = len(drawn.outline) // 4
                rim = drawn.outline[n : 3 * n]
                upper, lower = rim[: len(rim) // 2], rim[len(rim) // 2 :]
                self.assertTrue(all(y >= middle - 1e-9 for _, y in upper))
                self.assertTrue(all(y <= middle + 1e-9 for _, y in lower))


class EverySpeciesTest(unittest.TestCase):
    def test_volume_agrees_with_length_weight_within_a_third(self) -> None:
        for key, species in GUIDE.species.items():
            with self.subTest(species=key):
                length_m = species.longest_cm / 200
                by_volume = anatomy.volume_weight_kg(GUIDE.bodies[key], length_m)
                by_length = weight_from_length(length_m, "total", species).value
                self.assertTrue(0.67 < by_volume / by_length < 1.5, by_volume / by_length)

    def test_zones_of_one_plan_do_not_overlap(self) -> None:
        # whole sides and quarters are two ways to cut the same meat; the cheek lies on the head
        apart = {"side", "whole_side", "cheek"}
        for key, species in GUIDE.species.items():
            body, plan = GUIDE.bodies[key], GUIDE.plan_of(species)
            zones = [z.key for z in plan.zones if z.key not in apart]
            for one, other in combinations(zones, 2):
                with self.subTest(species=key, one=one, other=other):
                    a = anatomy.zone_polygon(body, plan, one)
                    b = anatomy.zone_polygon(body, plan, other)
                    self.assertLess(_shared(a, b), 0.03 * min(anatomy.area(a), anatomy.area(b)))

    def test_zones_lie_inside_the_body(self) -> None:
        for key, species in GUIDE.species.items():
            body, plan = GUIDE.bodies[key], GUIDE.plan_of(species)
            for zone in plan.zones:
                with self.subTest(species=key, zone=zone.key):
                    for x, y in anatomy.zone_polygon(body, plan, zone.key):
                        self.assertLessEqual(float(body.belly_y(x)) - 1e-9, y)
                        self.assertLessEqual(y, float(body.back_y(x)) + 1e-9)

    def test_fins_stand_on_the_body_and_the_tail_ends_it(self) -> None:
        for key, body in GUIDE.bodies.items():
            with self.subTest(species=key):
                for fin in body.shape.fins:
                    drawn = fin_drawing(body, fin)
                    self.assertGreater(anatomy.area(drawn.outline), 0)
                    self.assertEqual(len(drawn.rays), 0 if fin.spiny else 9)
                    if fin.spines:
                        self.assertEqual(len(drawn.spines), fin.spines)
                    for foot, tip in (*drawn.spines, *drawn.rays):
                        self.assertLessEqual(fin.base[0] - 1e-9, foot[0])
                        self.assertLessEqual(foot[0], fin.base[1] + 1e-9)
                        self.assertNotEqual(foot, tip)
                self.assertAlmostEqual(
                    max(x for x, _ in tail_drawing(body).outline), 1.0, delta=0.05
                )

    def test_fillet_profiles_are_positive_and_thin_towards_the_tail(self) -> None:
        for key, species in GUIDE.species.items():
            plan = GUIDE.plan_of(species)
            for zone in plan.zones:
                if not GUIDE.pieces[zone.piece].tail_apart:
                    continue
                with self.subTest(species=key, zone=zone.key):
                    profile = anatomy.fillet_profile(GUIDE.bodies[key], plan, zone.key)
                    self.assertGreater(min(profile.width), 0)
                    self.assertGreater(min(profile.thickness), 0)
                    if max(s for s, _ in zone.outline) > 2.8:  # it reaches the tail
                        self.assertLess(profile.thickness[-1], 0.6 * max(profile.thickness))
                    self.assertEqual((profile.x[0], profile.x[-1]), (0.0, 1.0))


def _shared(a: anatomy.Polygon, b: anatomy.Polygon, steps: int = 160) -> float:
    """Area that two polygons share, by counting the points of a fine grid inside both."""
    xs = [p[0] for p in (*a, *b)]
    ys = [p[1] for p in (*a, *b)]
    gx, gy = np.meshgrid(np.linspace(min(xs), max(xs), steps), np.linspace(min(ys), max(ys), steps))
    both = _inside(np.array(a), gx, gy) & _inside(np.array(b), gx, gy)
    cell = (max(xs) - min(xs)) * (max(ys) - min(ys)) / steps**2
    return float(both.sum()) * cell


def _inside(polygon: anatomy.Floats, gx: anatomy.Floats, gy: anatomy.Floats) -> anatomy.Floats:
    inside = np.zeros(gx.shape, dtype=bool)
    for (x0, y0), (x1, y1) in zip(polygon, np.roll(polygon, -1, axis=0), strict=True):
        if y0 == y1:
            continue
        crosses = (y0 > gy) != (y1 > gy)
        inside ^= crosses & (gx < (x1 - x0) * (gy - y0) / (y1 - y0) + x0)
    return inside
