"""Cutters' lines from fish that went through the day: as foreseen, then less and less."""

from random import Random

from lepidos.stations.schedule import boards
from lepidos.stations.table import steps
from lepidos.stations.yieldbook import drift
from lepidos.stations.yieldbook.drift import Drift
from tests.app import AppTest


class DriftTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.boards: dict[str, str] = {}
        self.chance = Random(5)

    def finish(self, cutter: str, share: float, sides: str = "AB") -> None:
        """A pollack of 2 kg at a cutter's board, with so much fillet of its round weight a side."""
        if cutter not in self.boards:
            order = boards.AddBoard(self.trip, cutter)
            self.boards[cutter] = boards.add_board(self.ctx, self.key(), order).subject_id
        fish = self.land(self.trip, weight_kg=2.0).subject_id
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish, self.boards[cutter]))
        for side in sides:
            kg = 2.0 * share * self.chance.gauss(1.0, 0.03)
            self.weigh(fish, f"belly.{side}", 0.06)
            self.weigh(fish, f"fillet.{side}", round(kg - 0.06, 3))
        steps.close_fish(self.ctx, self.key(), steps.CloseFish(fish))
        self.clock.advance(minutes=10)

    def view(self) -> Drift:
        return drift.view_drift(self.ctx)

    def test_nothing_is_said_before_there_are_fish_and_of_too_few(self) -> None:
        self.assertEqual(self.view().cutters, ())
        for _ in range(3):
            self.finish("Ines", 0.22)
        (found,) = self.view().cutters
        self.assertEqual((found.fish, found.since), (3, 0))
        self.assertIn("too few", found.finding)

    def test_a_blade_that_goes_dull_is_seen_and_the_other_cutter_is_not_blamed(self) -> None:
        for n in range(14):
            self.finish("Tobias", 0.22)
            self.finish("Ines", 0.22 if n < 6 else 0.17)
        ines, tobias = self.view().cutters
        self.assertEqual((ines.name, tobias.name, tobias.since), ("Ines", "Tobias", 0))
        self.assertGreater(ines.since, 0)
        self.assertIn("less than foreseen", ines.finding)
        self.assertIn("as foreseen", tobias.finding)
        self.assertTrue(0.7 < ines.lately < 0.95)
        self.assertAlmostEqual(self.view().run_length, 500, delta=2)

    def test_a_fish_with_one_side_weighed_says_nothing(self) -> None:
        self.finish("Ines", 0.22, "A")
        self.assertEqual(self.view().cutters, ())
