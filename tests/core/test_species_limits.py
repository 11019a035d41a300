"""What a fish of the crew's own may be: each bound holds, on both sides. The bounds are practice."""

import unittest
from typing import Any

from pydantic import ValidationError

from lepidos.core.fish.identification import LookAlike
from lepidos.core.fish.species import (
    Counts,
    Fin,
    Known,
    Mark,
    Ratio,
    Tail,
    Yields,
)
from lepidos.guide.library import load_guide

GUIDE = load_guide()
POLLACK = GUIDE.one("pollack")
SHAPE = POLLACK.shape
NEXT = 1e-6

# model, field, the values that are just accepted, those that are just refused
BOUNDS: list[tuple[Known, str, list[Any], list[Any]]] = [
    (POLLACK.length_weight, "a", [1e-5, 1], [0.9e-5, 1.001]),
    (POLLACK.length_weight, "b", [2, 3.6], [1.999, 3.601]),
    (POLLACK.length_weight, "sd_log", [NEXT, 0.999], [0, 1]),
    (POLLACK.length_weight, "smallest_cm", [0.1, 104.9], [0.09, 105]),
    (POLLACK.length_weight, "largest_cm", [20.1, 10_000], [20, 10_001]),
    (POLLACK.length_weight, "n", [3, 3000, None], [2]),
    (POLLACK.total_per_fork, "mean", [0.01, 1000], [0.009, 1000.1]),
    (POLLACK.total_per_fork, "sd", [0, 1000], [-NEXT, 1000.1]),
    (POLLACK.keeping, "months", [1, 24], [0, 25]),
    (SHAPE.tail, "root", [0.5, 0.999], [0.499, 1.0]),
    (SHAPE.tail, "root_depth", [NEXT, 1], [0, 1.001]),
    (SHAPE.tail, "span", [NEXT, 2], [0, 2.001]),
    (SHAPE.tail, "notch", [0, 0.5], [-NEXT, 0.501]),
    (SHAPE.fins[0], "spines", [0, 80], [-1, 81]),
    (SHAPE.fins[0], "base", [(0.0, 1.0), (0.3, 0.31)], [(0.3, 0.3), (-0.01, 0.3), (0.3, 1.01)]),
    (SHAPE.fins[0], "edge", [((0.0, 0.0), (1.0, 10.0))], [((0.0, 0.0), (1.0, 10.1)), ((0.0, 0.0),)]),
    (SHAPE.fins[0], "edge", [((0.0, 0.0),) * 400], [((0.0, 0.0),) * 401]),
    (Mark(kind="spots", colour="dark", size=0.01, at=()), "size", [NEXT, 0.5], [0, 0.501]),
    (Mark(kind="spots", colour="dark", size=0.01, at=()), "colour", ["a", "a" * 20], ["", "a" * 21, "A", "a1"]),
    (Mark(kind="spots", colour="dark", size=0.01, at=()), "at", [((1.0, 0.0),) * 400], [((1.0, 0.0),) * 401]),
    (Mark(kind="line", colour="dark", size=0.01, at=((1, 0), (2, 0))), "at", [((1.0, 0.0),) * 2], [((1.0, 0.0),)]),
    (SHAPE, "head", [0.051, 0.42], [0.05, 0.43]),
    (SHAPE, "vent", [0.246, 0.869], [0.245, 0.87]),
    (SHAPE, "width_per_depth", [0.051, 1.2], [0.05, 1.201]),
    (SHAPE, "eyes", [SHAPE.eyes, SHAPE.eyes * 2], [(), SHAPE.eyes * 3]),
    (SHAPE, "eyes", [((0.1, 0.0, 0.2),)], [((0.1, 0.0, 0.201),), ((0.1, 0.0, 0.0),)]),
    (SHAPE, "barbels", [(SHAPE.mouth,) * 8], [(SHAPE.mouth,) * 9]),
    (SHAPE, "marks", [(Mark(kind="spots", colour="dark", size=0.01, at=()),) * 60],
     [(Mark(kind="spots", colour="dark", size=0.01, at=()),) * 61]),
    (SHAPE, "pectoral", [((1.0, 0.0), (1.1, 0.1), (1.2, 0.0))], [((1.0, 0.0), (1.1, 0.1))]),
    (POLLACK, "scientific", ["x" * 80], ["x" * 81]),
    (POLLACK, "name", ["x", "x" * 60], ["", "x" * 61]),
    (POLLACK, "code", ["P", "PO"], ["", "p", "POL", "P1"]),
    (POLLACK, "longest_cm", [5.1, 499.9], [5, 500]),
    (POLLACK, "venom_spines", [0, 60], [-1, 61]),
]  # fmt: skip
# name, smallest and largest mean, with a standard deviation that may be
RATIOS = (
    ("total_per_fork", 1.0, 2.0),
    ("total_per_standard", 1.0, 2.0),
    ("total_per_lower_jaw_fork", 1.0, 3.0),
    ("total_per_disc_width", 0.5, 5.0),
    ("total_per_mantle", 1.0, 5.0),
    ("round_per_gutted", 1.0, 3.0),
    ("ice_life", 0.5, 100.0),
)


def with_(one: Known, field: str, value: object) -> Known:
    """The same with another value, checked as when it is read."""
    return type(one).model_validate(one.model_dump() | {field: value})


class BoundsTest(unittest.TestCase):
    def test_each_bound_holds_on_both_sides(self) -> None:
        for one, field, fits, fails in BOUNDS:
            for value in fits:
                with self.subTest(of=type(one).__name__, field=field, value=str(value)[:60]):
                    with_(one, field, value)
            for value in fails:
                with (
                    self.subTest(of=type(one).__name__, field=field, value=str(value)[:60]),
                    self.assertRaises(ValidationError),
                ):
                    with_(one, field, value)

    def test_ratios_are_what_such_ratios_can_be(self) -> None:
        for name, low, high in RATIOS:
            for mean in (low, high):
                with_(POLLACK, name, Ratio(source="memory", mean=mean, sd=0.01))
            for mean in (low * 0.99, high * 1.01):
                with self.subTest(ratio=name, mean=mean), self.assertRaises(ValidationError):
                    with_(POLLACK, name, Ratio(source="memory", mean=mean, sd=0.01))
            with_(POLLACK, name, Ratio(source="memory", mean=low, sd=low))
            with self.subTest(ratio=name), self.assertRaises(ValidationError):
                with_(POLLACK, name, Ratio(source="memory", mean=low, sd=low * 1.01))

    def test_parts_of_a_fish_are_at_most_the_fish(self) -> None:
        """Head 0.20, frame 0.13, gut 0.13, fillet 0.44, collar and cheek 0.036: 0.064 are left."""
        yields = POLLACK.yields.model_dump()
        for gut, fits in ((0.19, True), (0.20, False)):
            of = yields | {"gut": {"mean": gut, "sd": 0.03}}
            with self.subTest(gut=gut):
                if fits:
                    Yields.model_validate(of)
                else:
                    with self.assertRaisesRegex(ValidationError, "add up to"):
                        Yields.model_validate(of)
        with self.assertRaisesRegex(ValidationError, "lighter"):
            Yields.model_validate(yields | {"fillet_skinless": {"mean": 0.44, "sd": 0.03}})

    def test_a_key_whose_answers_lead_to_no_fish_is_refused(self) -> None:
        key = GUIDE.lookalikes["pompanos"].model_dump()
        for question in key["questions"]:
            for answer in question["answers"]:
                answer["leaves"] = tuple(k for k in answer["leaves"] if k != "permit") or (
                    "florida_pompano",
                )
        with self.assertRaisesRegex(ValidationError, "no answer leads to permit"):
            LookAlike.model_validate(key)


class UsualTest(unittest.TestCase):
    def test_what_nobody_says_of_a_tail_or_a_fin_is_not_there(self) -> None:
        tail = Tail(root=0.85, root_depth=0.1, span=0.2, shape="straight")
        self.assertEqual(tail.notch, 0.0)
        fin = Fin(name="dorsal", on="back", base=(0.3, 0.5), edge=((0.0, 0.0), (1.0, 0.1)))
        self.assertEqual((fin.spines, fin.spiny), (0, False))
        mark = Mark(kind="spots", colour="dark", size=0.01, at=())
        self.assertEqual(mark.dead, "stays")


class CountedTest(unittest.TestCase):
    def test_a_count_of_spines_is_a_count(self) -> None:
        for spines, fits in ((1, True), (80, True), (0, False), (81, False)):
            values = {"source": "memory", "head": 0.2, "depth": 0.2, "spines": {"dorsal": spines}}
            with self.subTest(spines=spines):
                if fits:
                    Counts.model_validate(values)
                else:
                    self.assertRaises(ValidationError, Counts.model_validate, values)


if __name__ == "__main__":
    unittest.main()
