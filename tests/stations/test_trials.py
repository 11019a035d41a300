"""A trial from its beginning to its one sentence, as a crew would run it."""

from lepidos.core.errors import Refused
from lepidos.stations.base import trials as entering
from lepidos.stations.schedule import boards
from lepidos.stations.table import fish_view, steps
from lepidos.stations.undo import undo
from lepidos.stations.yieldbook import trials
from lepidos.store.yieldbook import trials as store
from tests.app import AppTest


class TrialTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()

    def start(self, fish: int = 8, **more: str) -> str:
        order = trials.StartTrial("over the ribs", "straight through", fish, **more)
        return trials.start_trial(self.ctx, self.key(), order).subject_id

    def board(self, species: str = "pollack") -> str:
        fish = self.land(self.trip, species, 62, weight_kg=2.0).subject_id
        self.clock.advance(minutes=1)
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish))
        return fish

    def cut(self, x_kg: float, y_kg: float, whole: bool = True) -> str:
        fish = self.board()
        trial = fish_view.view_fish(self.ctx, fish).how.trial
        x = trial[1].x_side if trial else "A"
        self.weigh(fish, f"fillet.{x}", x_kg)
        if whole:
            self.weigh(fish, f"fillet.{'B' if x == 'A' else 'A'}", y_kg)
        self.clock.advance(minutes=1)
        steps.close_fish(self.ctx, self.key(), steps.CloseFish(fish))
        return fish

    def test_the_table_says_which_side_gets_which_and_each_comes_up_as_often(self) -> None:
        self.start(8)
        drawn = [fish_view.view_fish(self.ctx, self.board()).how.trial[1] for _ in range(8)]
        self.assertEqual([d.number for d in drawn], list(range(1, 9)))
        self.assertEqual(sum(d.x_side == "A" for d in drawn), 4)
        self.assertEqual(sum(d.first_side == d.x_side for d in drawn), 4)
        self.assertIsNone(fish_view.view_fish(self.ctx, self.board()).how.trial)

    def test_nothing_is_read_before_the_planned_fish_are_done(self) -> None:
        self.start(6)
        for n in range(5):
            self.cut(0.45 + 0.001 * n, 0.42)
            self.assertIsNone(trials.view_trials(self.ctx)[0][0].result)
        self.assertIn("it is read when 1 more", trials.view_trials(self.ctx)[0][0].sentence)
        self.cut(0.46, 0.42)
        (found,), _, _ = trials.view_trials(self.ctx)
        self.assertEqual(found.result.fish, 6)
        self.assertAlmostEqual(found.result.p, 2 / 64)
        self.assertTrue(found.result.mean > 0.03)
        self.assertIn("over the ribs: it keeps", found.sentence)
        self.cut(0.30, 0.42)  # a seventh fish is not in it
        self.assertEqual(trials.view_trials(self.ctx)[0][0].result, found.result)

    def test_a_side_is_credited_to_its_way_and_not_to_its_letter(self) -> None:
        self.start(8)
        for _ in range(8):
            self.cut(0.42, 0.44)
        (found,), _, _ = trials.view_trials(self.ctx)
        self.assertAlmostEqual(found.result.mean, -0.02)
        self.assertEqual(found.better, "straight through")

    def test_a_fish_with_one_side_counts_for_nothing_and_another_takes_its_place(self) -> None:
        self.start(6)
        self.cut(0.45, 0.42, whole=False)
        for _ in range(6):
            self.cut(0.45, 0.42)
        (found,), _, _ = trials.view_trials(self.ctx)
        self.assertEqual((found.done, found.result.fish), (6, 6))

    def test_nothing_found_says_how_many_more(self) -> None:
        self.start(6)
        for n in range(6):
            self.cut(0.43 + 0.02 * (-1) ** n, 0.43)
        (found,), _, _ = trials.view_trials(self.ctx)
        self.assertIn("No difference to be seen", found.sentence)
        self.assertGreater(found.more, 6)

    def test_only_the_fish_it_is_for_and_none_that_is_begun(self) -> None:
        self.start(8, species="cod")
        self.assertIsNone(fish_view.view_fish(self.ctx, self.board("pollack")).how.trial)
        fish = self.land(self.trip, "cod", 62, weight_kg=2.0).subject_id
        self.weigh(fish, "fillet.A", 0.4)
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish))
        self.assertIsNone(fish_view.view_fish(self.ctx, fish).how.trial)

    def test_what_cannot_be_a_trial_is_said_at_its_field(self) -> None:
        for order, field in (
            (trials.StartTrial("", "b", 8), "way_x"),
            (trials.StartTrial("a", "A", 8), "way_y"),
            (trials.StartTrial("a", "b", 5), "fish"),
            (trials.StartTrial("a", "b", 8, "xyzzy"), "species"),
        ):
            with self.assertRaises(Refused) as caught:
                trials.start_trial(self.ctx, self.key(), order)
            self.assertEqual(list(caught.exception.problems), [field])

    def test_called_off_it_asks_for_nothing_more(self) -> None:
        trial = self.start(8)
        fish = self.board()
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("trial", trial))
        self.assertIsNone(fish_view.view_fish(self.ctx, fish).how.trial)
        self.assertIsNone(fish_view.view_fish(self.ctx, self.board()).how.trial)

    def test_sides_that_differ_by_habit_widen_what_is_asked_for(self) -> None:
        for n in range(12):
            self.cut(0.45, 0.40 + 0.002 * n)
        _, sd, needed = trials.view_trials(self.ctx)
        self.assertEqual(list(needed), [0.03, 0.02, 0.015, 0.01])
        self.assertAlmostEqual(sd, 0.0404, delta=0.005)
        self.assertGreater(needed[0.01], needed[0.03])

    def test_sides_that_were_typed_alike_do_not_promise_certainty(self) -> None:
        for _ in range(12):
            self.cut(0.45, 0.45)
        _, sd, needed = trials.view_trials(self.ctx)
        self.assertGreater(sd, 0.003)
        self.assertTrue(all(fish and fish >= 6 for fish in needed.values()))

    def test_more_fish_than_planned_are_drawn_in_blocks_too(self) -> None:
        trial = self.start(6)
        with self.ctx.store.reading():
            row = store.get(trial)
        block = {(d.x_side, d.first_side) for d in (entering.draw_of(row, n) for n in range(8, 12))}
        self.assertEqual(len(block), 4)
