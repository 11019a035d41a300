"""Fair split: brute force on small cases, never worse than greedy, pins, names, turns."""

import itertools
import unittest
from random import Random

from hypothesis import given, settings
from hypothesis import strategies as st

from lepidos.core.errors import OutOfRange
from lepidos.core.pack.even_split import even_split, shared_again
from lepidos.core.pack.fair_split import (
    Bag,
    deviations,
    greedy,
    in_turn,
    polished,
    split_of,
)
from lepidos.core.pack.whole_grams import nearest, whole_targets

BAGS = st.lists(
    st.builds(
        Bag,
        st.uuids().map(str),
        st.sampled_from(["cod", "ling"]),
        st.integers(20, 600),
        st.sampled_from([None, None, None, 0, 1]),
        st.sampled_from([frozenset(), frozenset(), frozenset({1})]),
    ),
    min_size=1,
    max_size=7,
)
SHARES = st.sampled_from([(1, 1), (2, 1), (1, 1, 1), (3, 2, 1)])


def brute(bags: list[Bag], shares: tuple[int, ...]) -> tuple[float, float]:
    """The best rank of all splits that respect the pins."""
    choices = [b.takers(len(shares)) for b in bags]
    return min(split_of(bags, shares, way).rank for way in itertools.product(*choices))


class EvenTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(BAGS, SHARES)
    def test_brute_force_agrees(self, bags: list[Bag], shares: tuple[int, ...]) -> None:
        found = even_split(bags, shares, 5.0)
        best = brute(bags, shares)
        self.assertAlmostEqual(found.worst_g, best[0], places=3)
        self.assertLessEqual(found.overall_g, best[1] + 0.5)
        self.assertLessEqual(found.least_g, best[0] + 1e-3)

    @settings(max_examples=60, deadline=None)
    @given(BAGS, SHARES)
    def test_pinned_bags_stay_and_nothing_is_worse_than_at_once(
        self, bags: list[Bag], shares: tuple[int, ...]
    ) -> None:
        first, found = greedy(bags, shares), even_split(bags, shares, 2.0)
        self.assertLessEqual(found.rank, first.rank)
        for split in (first, found):
            self.assertEqual(len(split.party_of), len(bags))
            for bag, party in zip(bags, split.party_of, strict=True):
                self.assertIn(party, bag.takers(len(shares)))
                if bag.pinned is not None:
                    self.assertEqual(party, bag.pinned)

    def test_the_same_bags_give_the_same_answer_whatever_they_are_called(self) -> None:
        grams = [410, 395, 388, 371, 352, 290, 211, 205, 204, 190, 97, 96]
        first = [Bag(f"a{n}", "cod" if n % 3 else "ling", g) for n, g in enumerate(grams)]
        renamed = [Bag(f"z{99 - n}", "zander" if b.kind == "cod" else "bream", b.grams)
                   for n, b in enumerate(first)]  # fmt: skip
        for bags in (first, renamed):
            with self.subTest(bags=bags[0].key):
                self.assertEqual(greedy(bags, (1, 1, 1)), greedy(first, (1, 1, 1)))
        again = [even_split(bags, (1, 1, 1), 5.0).worst_g for bags in (first, first, renamed)]
        self.assertEqual(len(set(again)), 1)

    def test_it_stops_when_it_is_no_longer_wanted(self) -> None:
        bags = [Bag(str(n), "cod", 100 + 7 * n) for n in range(20)]
        self.assertEqual(even_split(bags, (1, 1), 5.0, lambda: False), greedy(bags, (1, 1)))

    def test_better_splits_are_told_on_the_way(self) -> None:
        bags = [Bag(str(n), "cod" if n % 2 else "ling", 101 + 37 * n) for n in range(14)]
        told: list[tuple[float, float]] = []
        found = even_split(bags, (1, 1, 1), 5.0, better=lambda split: told.append(split.rank))
        self.assertEqual(told[-1], found.rank)
        self.assertEqual(told, sorted(told, reverse=True))

    def test_sixty_bags_among_four_are_proven_even(self) -> None:
        """One turbot more than four can share: whoever has none lacks a quarter of it."""
        bags = [
            Bag(str(n), ("pollack", "cod", "ling")[n % 3], 150 + (n * 53) % 300) for n in range(59)
        ]
        found = even_split([*bags, Bag("t", "turbot", 800)], (1, 1, 1, 1), 10.0)
        self.assertAlmostEqual(found.worst_g, 600.0)
        self.assertTrue(found.proven)
        self.assertLess(found.overall_g, 5.0)


class AnewTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(BAGS, SHARES)
    def test_two_parties_that_share_anew_lose_nothing_and_keep_what_is_theirs(
        self, bags: list[Bag], shares: tuple[int, ...]
    ) -> None:
        first = greedy(bags, shares)
        found = shared_again(bags, shares, first, lambda: True)
        self.assertLessEqual(found.rank, first.rank)
        self.assertEqual(found.rank, split_of(bags, shares, found.party_of).rank)
        for bag, party in zip(bags, found.party_of, strict=True):
            self.assertIn(party, bag.takers(len(shares)))

    def test_of_one_kind_between_two_it_is_the_best_there_is(self) -> None:
        bags = [
            Bag(str(n), "cod", g) for n, g in enumerate((301, 290, 277, 203, 199, 188, 101, 55, 41))
        ]
        worst = split_of(bags, (1, 1), (0,) * len(bags))
        found = shared_again(bags, (1, 1), worst, lambda: True)
        self.assertEqual(found.rank, brute(bags, (1, 1)))

    def test_forty_bags_of_each_of_six_kinds_among_eight_are_even_to_some_grams(self) -> None:
        bags = [Bag(str(n), f"kind {n % 6}", 60 + (n * 7919) % 461) for n in range(240)]
        first = greedy(bags, (1,) * 8)
        found = shared_again(bags, (1,) * 8, first, lambda: True)
        self.assertGreater(first.worst_g, 15)
        self.assertLess(found.worst_g, 5)


class WholeGramsTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(BAGS, SHARES)
    def test_no_split_is_more_even_than_whole_grams_can_be(
        self, bags: list[Bag], shares: tuple[int, ...]
    ) -> None:
        targets, bound = whole_targets(bags, shares)
        first = greedy(bags, shares)
        self.assertLessEqual(bound, first.worst_g + 1e-6)
        for kind, aims in targets.items():
            self.assertEqual(sum(aims), sum(b.grams for b in bags if b.kind == kind))
        found = nearest(bags, shares, first, targets, lambda: True)
        self.assertLessEqual(found.rank, first.rank)
        self.assertEqual(found.rank, split_of(bags, shares, found.party_of).rank)
        for bag, party in zip(bags, found.party_of, strict=True):
            self.assertIn(party, bag.takers(len(shares)))

    def test_three_grams_and_four_between_two_are_half_a_gram_off(self) -> None:
        bags = [Bag("a", "cod", 3), Bag("b", "cod", 4)]
        self.assertEqual(whole_targets(bags, (1, 1))[1], 0.5)
        # of two kinds that half can go the other way in the second, and of all nobody is off
        self.assertEqual(whole_targets([*bags, Bag("c", "ling", 5)], (1, 1))[1], 0.5)

    def test_who_has_two_gives_one_away(self) -> None:
        bags = [Bag("a", "cod", 100), Bag("b", "cod", 100)]
        both = split_of(bags, (1, 1), (0, 0))
        self.assertEqual(sorted(polished(bags, (1, 1), both).party_of), [0, 1])

    def test_two_bags_that_lie_the_wrong_way_round_change_places(self) -> None:
        bags, shares = [Bag("a", "cod", 100), Bag("b", "cod", 60)], (1, 2)
        wrong = split_of(bags, shares, (0, 1))
        targets, _ = whole_targets(bags, shares)
        self.assertEqual(nearest(bags, shares, wrong, targets, lambda: True).party_of, (1, 0))

    def test_with_few_bags_it_stops_where_nobody_gains(self) -> None:
        asked = 0

        def wanted() -> bool:
            nonlocal asked
            asked += 1
            return True

        bags, shares = [Bag(str(n), "cod", 97 + 13 * n) for n in range(6)], (1, 1, 1)
        targets, _ = whole_targets(bags, shares)
        nearest(bags, shares, greedy(bags, shares), targets, wanted)
        self.assertLess(asked, 12)

    def test_of_eight_with_forty_bags_of_a_kind_each_weighs_just_what_it_should(self) -> None:
        rng = Random(4)
        bags = [Bag(str(n), f"kind {n % 2}", rng.randint(60, 520)) for n in range(80)]
        targets, bound = whole_targets(bags, (1,) * 8)
        found = nearest(bags, (1,) * 8, greedy(bags, (1,) * 8), targets, lambda: True)
        self.assertAlmostEqual(found.worst_g, bound)
        self.assertLess(bound, 1.0)
        best = even_split(bags, (1,) * 8, 60.0)
        self.assertTrue(best.proven)
        self.assertAlmostEqual(best.worst_g, bound)


class GramsTest(unittest.TestCase):
    def test_kinds_stand_in_the_order_of_the_bags_in_every_start_of_python(self) -> None:
        # the search tries kinds in this order, so another order is another answer
        names = [f"kind {n}" for n in (5, 3, 0, 4, 1, 2, 7, 6)]
        bags = [Bag(str(n), name, 100) for n, name in enumerate(names * 2)]
        self.assertEqual(list(deviations(bags, (1, 1), [0, 1] * 8)), [*names, ""])

    @given(BAGS, SHARES)
    def test_deviations_add_up_to_nothing(self, bags: list[Bag], shares: tuple[int, ...]) -> None:
        for grams in deviations(bags, shares, greedy(bags, shares).party_of).values():
            self.assertAlmostEqual(sum(grams), 0.0, places=6)

    def test_what_somebody_does_not_take_is_due_to_the_others(self) -> None:
        bags = [Bag(str(n), "tuna", 300, None, frozenset({0})) for n in range(4)]
        bags += [Bag(f"c{n}", "cod", 300) for n in range(6)]
        found = greedy(bags, (1, 1, 1))
        self.assertNotIn(0, found.party_of[:4])
        self.assertEqual(found.worst_g, 0.0)
        with self.assertRaises(OutOfRange):
            greedy([Bag("a", "tuna", 300, None, frozenset({0, 1}))], (1, 1))

    def test_a_double_share_is_due_twice_as_much(self) -> None:
        off = deviations([Bag("a", "cod", 600), Bag("b", "cod", 300)], (2, 1), (0, 1))
        self.assertEqual(off, {"cod": (0.0, 0.0), "": (0.0, 0.0)})


class TurnTest(unittest.TestCase):
    @given(BAGS, st.integers(1, 4))
    def test_everybody_draws_as_often_as_the_others(self, bags: list[Bag], parties: int) -> None:
        free = [Bag(b.key, b.kind, b.grams) for b in bags]  # all of them for everybody
        drawn = in_turn(free, parties)
        often = [drawn.count(p) for p in range(parties)]
        self.assertLessEqual(max(often) - min(often), 1)

    def test_there_and_back_again(self) -> None:
        bags = [Bag(str(g), "cod", g) for g in (60, 50, 40, 30, 20, 10)]
        self.assertEqual(in_turn(bags, 3), (0, 1, 2, 2, 1, 0))


class RefusedTest(unittest.TestCase):
    def test_what_cannot_be_shared_is_refused(self) -> None:
        bag = Bag("a", "cod", 100)
        for bags, shares in (
            ([], (1, 1)),
            ([bag], ()),
            ([bag], (0, 1)),
            ([bag], (1,) * 13),
            ([Bag("a", "cod", -1)], (1, 1)),
            ([Bag("a", "cod", 100, 2)], (1, 1)),
        ):
            with self.subTest(bags=bags, shares=shares), self.assertRaises(OutOfRange):
                greedy(bags, shares)
