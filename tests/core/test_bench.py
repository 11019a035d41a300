"""The order of work: never worse than plain rules, exact where it says so, honest about the rest."""

import itertools
import unittest
from contextlib import ExitStack
from dataclasses import replace
from random import Random
from unittest.mock import patch

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lepidos.core.errors import BadInput, OutOfRange
from lepidos.core.schedule import annealing
from lepidos.core.schedule.model import Cutter, Job, Order, Rows
from lepidos.core.schedule.scheduler import Bench

KINDS = ("dark", "white")
CHANGE = {("dark", "white"): 240.0, ("white", "dark"): 120.0}


def job(
    key: str,
    minutes: float,
    by: float,
    *,
    at: float = 0,
    weight: float = 1,
    kind: str = "white",
    boards: int = 1,
) -> Job:
    return Job(key, at * 60, by * 60, weight, kind, (minutes * 60,) * boards)


def random_table(seed: int, fish: int, boards: int) -> Bench:
    rng = Random(seed)
    jobs = []
    for k in range(fish):
        base = rng.uniform(180, 700)
        jobs.append(
            Job(f"F{k}", rng.uniform(0, 1500), rng.uniform(600, 3500), rng.choice((1.0, 2.0, 5.0)),
                rng.choice(KINDS), tuple(base * rng.uniform(0.8, 1.3) for _ in range(boards)))
        )  # fmt: skip
    cutters = [
        Cutter(f"c{k}", rng.uniform(0, 300), "white", ((1200.0, 1500.0),) if k == 0 else ())
        for k in range(boards)
    ]
    return Bench(jobs, cutters, CHANGE)


def by_enumeration(bench: Bench) -> float:
    """Least weighted lateness over every order at every board, by brute force."""
    best = float("inf")
    n, boards = len(bench.jobs), len(bench.cutters)
    for who in itertools.product(range(boards), repeat=n):
        groups = [[j for j in range(n) if who[j] == k] for k in range(boards)]
        late = 0.0
        for k, group in enumerate(groups):
            late += min(lateness(bench, k, row) for row in itertools.permutations(group))
        best = min(best, late)
    return best


def lateness(bench: Bench, k: int, row: tuple[int, ...]) -> float:
    """Written again from the definition, apart from the code under test."""
    cutter, now, kind, late = (
        bench.cutters[k],
        bench.cutters[k].free_s,
        bench.cutters[k].last_kind,
        0.0,
    )
    for j in row:
        fish = bench.jobs[j]
        start = max(now + CHANGE.get((kind, fish.kind), 0.0), fish.release_s)
        for begin, end in cutter.breaks:
            if start < end and start + fish.seconds[k] > begin:
                start = end
        now, kind = start + fish.seconds[k], fish.kind
        late += fish.weight * max(0.0, now - fish.deadline_s)
    return late


class RulesTest(unittest.TestCase):
    def test_the_first_answer_is_never_worse_than_the_plain_rules(self) -> None:
        for seed in range(60):
            bench = random_table(seed, 5 + seed % 40, 1 + seed % 4)
            first = bench.dispatch()
            for rule in ("deadline", "weight", "tardiness"):
                with self.subTest(seed=seed, rule=rule):
                    self.assertLessEqual(first.cost, bench.by_rule(rule).cost)

    def test_improvement_is_never_worse_and_mostly_better(self) -> None:
        better = 0
        for seed in range(12):
            bench = random_table(seed, 25, 1 + seed % 4)
            first = bench.dispatch()
            after = bench.improve(first, Random(seed), 4000)
            self.assertLessEqual(after.cost, first.cost)
            better += after.lateness < first.lateness
        self.assertGreaterEqual(better, 8)

    def test_the_same_seed_gives_the_same_order(self) -> None:
        bench = random_table(3, 20, 2)
        one, two = (bench.improve(bench.dispatch(), Random(1), 3000) for _ in range(2))
        self.assertEqual(one.sequences, two.sequences)

    def test_improvement_can_be_stopped_at_once(self) -> None:
        bench = random_table(3, 20, 2)
        first = bench.dispatch()
        self.assertEqual(bench.improve(first, Random(1), gone=lambda: 1.0), first)


class CompiledTest(unittest.TestCase):
    def test_compiled_and_plain_take_the_same_moves(self) -> None:
        # numba and numpy draw the same numbers from the same seed
        bench = random_table(5, 14, 3)
        first = bench.dispatch()
        found = []
        for search in (annealing.anneal, annealing.anneal.py_func):
            with ExitStack() as plain:
                for name in ("finish", "_settle", "_put", "_total"):
                    if search is not annealing.anneal:
                        written = getattr(annealing, name).py_func
                        plain.enter_context(patch.object(annealing, name, written))
                rows = Rows(
                    np.array([[*row, *[0] * (14 - len(row))] for row in first.sequences]),
                    np.array([len(row) for row in first.sequences]),
                )
                best = Rows(rows.fish.copy(), rows.length.copy())
                least = search(bench.table(), rows, best, 1e9, 400.0, 3000, 11)
            found.append((least, best.fish.tolist(), best.length.tolist()))
        self.assertEqual(found[0][1:], found[1][1:])
        self.assertAlmostEqual(found[0][0], found[1][0], places=6)
        late = sum(
            lateness(bench, k, tuple(row[:n]))
            for k, (row, n) in enumerate(zip(*found[0][1:], strict=True))
        )
        self.assertAlmostEqual(late, found[0][0], delta=1.0)  # the rest is the finish, faded


class InsertTest(unittest.TestCase):
    def test_a_fish_that_is_new_costs_what_its_row_then_costs(self) -> None:
        """By the definition written again, for rows with breaks and late fish and without."""
        for seed in range(12):
            waits = random_table(seed, 9, 2)
            there = Bench([j._replace(release_s=0.0) for j in waits.jobs], waits.cutters, CHANGE)
            for bench in (waits, there):
                for k in (0, 1):  # the first board has a break
                    for length in (0, 1, 8):
                        row = tuple(range(1, 1 + length))
                        found = bench._insertions(k, row, 0, 0)
                        self.assertEqual(len(found), length + 1)
                        for at, (late, finish) in enumerate(found):
                            then = (*row[:at], 0, *row[at:])
                            with self.subTest(seed=seed, board=k, row=row, at=at):
                                self.assertAlmostEqual(late, lateness(bench, k, then), places=5)
                                self.assertAlmostEqual(finish, bench._run(k, then)[1], places=6)

    def test_new_fish_go_where_they_cost_least_and_what_is_held_stays_first(self) -> None:
        rng = Random(4)
        jobs = [
            job(f"F{n}", rng.uniform(3, 10), rng.uniform(10, 90), kind=rng.choice(KINDS))
            for n in range(12)
        ]
        bench = Bench(jobs, [Cutter("Ines", holding=("F3",))], CHANGE)
        known = bench.follow([[f"F{n}" for n in (3, 5, 7, 9, 11)]])
        (row,) = known.sequences
        self.assertEqual(row[0], 3)
        self.assertEqual(sorted(row), list(range(12)))
        plain = bench.follow([[f"F{n}" for n in (3, *(n for n in range(12) if n != 3))]])
        self.assertLessEqual(known.lateness, plain.lateness)


class ExactTest(unittest.TestCase):
    def test_equals_full_enumeration_on_small_tables(self) -> None:
        for seed in range(30):
            bench = random_table(seed, 2 + seed % 4, 1 + seed % 3)
            proven = bench.exact()
            assert proven is not None
            with self.subTest(seed=seed):
                self.assertTrue(proven.proven)
                self.assertAlmostEqual(proven.lateness, by_enumeration(bench), places=6)

    def test_is_never_beaten_by_annealing_and_annealing_comes_close(self) -> None:
        for seed in range(8):
            bench = random_table(seed, 8, 1 + seed % 3)
            proven = bench.exact()
            assert proven is not None
            found = bench.improve(bench.dispatch(), Random(seed), 20_000)
            self.assertGreaterEqual(found.lateness, proven.lateness - 1e-6)
            self.assertLessEqual(found.lateness, proven.lateness * 1.05 + 60)

    def test_a_large_table_is_not_claimed_as_proven(self) -> None:
        bench = random_table(1, 30, 2)
        self.assertIsNone(bench.exact())
        self.assertFalse(bench.dispatch().proven)
        self.assertEqual(bench.improve(bench.dispatch(), Random(1), 500).proven, False)


class LawTest(unittest.TestCase):
    def check(self, bench: Bench, order: Order) -> None:
        jobs = {j.key: j for j in bench.jobs}
        self.assertEqual(sorted(t.key for t in order.turns), sorted(jobs))
        self.assertAlmostEqual(
            sum(lateness(bench, k, row) for k, row in enumerate(order.sequences)),
            order.lateness,
            places=4,
        )
        for name in {t.cutter for t in order.turns}:
            turns = [t for t in order.turns if t.cutter == name]
            for before, after in itertools.pairwise(turns):
                self.assertLessEqual(before.end_s, after.start_s + 1e-6)
        for turn in order.turns:
            self.assertGreaterEqual(turn.start_s, jobs[turn.key].release_s - 1e-6)
            self.assertAlmostEqual(turn.late_s, max(0.0, turn.end_s - jobs[turn.key].deadline_s))

    @settings(max_examples=30, deadline=None)
    @given(st.integers(0, 10_000), st.integers(0, 25), st.integers(1, 4))
    def test_every_fish_is_cut_once_after_it_came_and_alone_at_its_board(
        self, seed: int, fish: int, boards: int
    ) -> None:
        bench = random_table(seed, fish, boards)
        first = bench.dispatch()
        self.check(bench, first)
        self.check(bench, bench.improve(first, Random(seed), 300))

    def test_no_fish_is_cut_across_a_break(self) -> None:
        bench = Bench(
            [job("A", 10, 60), job("B", 10, 60)], [Cutter("Ines", breaks=((900.0, 1800.0),))]
        )
        turns = bench.dispatch().turns
        self.assertEqual([(t.start_s, t.end_s) for t in turns], [(0.0, 600.0), (1800.0, 2400.0)])

    def test_a_fish_in_hand_stays_first_at_its_board(self) -> None:
        jobs = [
            job("A", 10, 500, boards=2),
            job("B", 10, 5, weight=9, boards=2),
            job("C", 10, 6, boards=2),
        ]
        bench = Bench(jobs, [Cutter("Ines", holding=("A",)), Cutter("Tobias")])
        for order in (
            bench.dispatch(),
            bench.improve(bench.dispatch(), Random(2), 3000),
            bench.exact(),
        ):
            assert order is not None
            self.assertEqual(next(t.key for t in order.turns if t.cutter == "Ines"), "A")

    def test_changeovers_keep_kinds_together_when_nobody_hurries(self) -> None:
        jobs = [job(f"{kind}{k}", 10, 1e4, kind=kind) for k in range(3) for kind in KINDS]
        order = Bench(jobs, [Cutter("Ines", last_kind="white")], CHANGE).exact()
        assert order is not None
        self.assertEqual([t.key[:4] for t in order.turns], ["whit"] * 3 + ["dark"] * 3)

    def test_warm_fish_with_an_early_deadline_goes_first(self) -> None:
        jobs = [job("cold", 10, 600), job("warm", 10, 12), job("resting", 10, 900, at=30)]
        self.assertEqual(Bench(jobs, [Cutter("Ines")]).dispatch().turns[0].key, "warm")

    def test_an_empty_table_is_clear(self) -> None:
        order = Bench([], [Cutter("Ines")]).dispatch()
        self.assertEqual(
            (order.turns, order.lateness, order.clear_s, order.proven), ((), 0.0, 0.0, True)
        )


class RefusalTest(unittest.TestCase):
    def test_what_cannot_be_is_named(self) -> None:
        one, board = job("A", 10, 60), Cutter("Ines")
        cases = (
            ([one, one], [board], "same key"),
            ([one._replace(seconds=(1.0, 2.0))], [board], "one cutting time"),
            ([one._replace(seconds=(0.0,))], [board], "A cutting time"),
            ([one._replace(weight=float("nan"))], [board], "A weight"),
            ([one._replace(deadline_s=float("inf"))], [board], "A deadline"),
            ([one], [], "number of cutters"),
            ([one], [replace(board, holding=("Z",))], "Ines holds Z"),
            (
                [job("A", 10, 60, boards=2)],
                [replace(board, holding=("A",)), Cutter("T", holding=("A",))],
                "two boards",
            ),
        )
        for jobs, cutters, message in cases:
            with (
                self.subTest(message=message),
                self.assertRaisesRegex((OutOfRange, BadInput), message),
            ):
                Bench(jobs, cutters)
