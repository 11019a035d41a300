"""A scale for each board: given, kept for the cutter, undone; and what is weighed comes from it."""

from dataclasses import replace
from random import Random

from lepidos.core.errors import Refused
from lepidos.devices.scale import SimulatedScale
from lepidos.devices.scales import Scales
from lepidos.stations.schedule import boards, scales
from lepidos.stations.table.fish_view import scale_display, view_fish
from lepidos.stations.undo.undo import UndoRow, undo_row
from tests.app import AppTest


class BoardScaleTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        named = {
            name: SimulatedScale(lambda: next(self.seconds), Random(seed))
            for seed, name in enumerate(("Quay", "Ines", "Galley"))
        }
        self.ctx = replace(self.ctx, scale=named["Quay"], scales=Scales(named))
        for name, kg in (("Quay", 0.1), ("Ines", 0.2), ("Galley", 0.3)):
            named[name].put_on(kg)
        self.trip = self.start_trip()

    def at_board(self, cutter: str, trip: str = "") -> str:
        trip = trip or self.trip
        board = boards.add_board(self.ctx, self.key(), boards.AddBoard(trip, cutter)).subject_id
        fish = self.land(trip).subject_id
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish, board))
        return fish

    def weighed(self, fish: str) -> float:
        self.weigh(fish, "gut", None)
        return view_fish(self.ctx, fish).weighings[0].kg

    def give(self, fish: str, scale: str) -> str:
        board = view_fish(self.ctx, fish).board
        assert board
        order = scales.GiveScale(board.board.id, scale)
        return scales.give_scale(self.ctx, self.key(), order).subject_id

    def test_a_scale_of_the_cutters_name_is_that_cutters_and_others_have_the_first(self) -> None:
        self.assertAlmostEqual(self.weighed(self.at_board("ines")), 0.2, delta=0.002)
        self.assertAlmostEqual(self.weighed(self.at_board("Tobias")), 0.1, delta=0.002)

    def test_a_given_one_is_kept_for_the_next_trip_and_can_be_undone(self) -> None:
        fish = self.at_board("Tobias")
        given = self.give(fish, "Galley")
        self.assertEqual(view_fish(self.ctx, fish).scale, "Galley")
        self.assertAlmostEqual(self.weighed(fish), 0.3, delta=0.002)
        later = self.at_board("Tobias", self.start_trip())
        self.assertEqual(view_fish(self.ctx, later).scale, "Galley")
        undo_row(self.ctx, self.key(), UndoRow("change", given))
        self.assertEqual(view_fish(self.ctx, later).scale, "Quay")

    def test_one_that_is_not_attached_is_refused_and_one_taken_away_is_the_first_again(
        self,
    ) -> None:
        fish = self.at_board("Tobias")
        with self.assertRaises(Refused) as caught:
            self.give(fish, "Nowhere")
        self.assertIn("scale", caught.exception.problems)
        self.give(fish, "Galley")
        self.ctx = replace(
            self.ctx, scales=Scales({k: self.ctx.scales.named[k] for k in ("Quay", "Ines")})
        )
        self.assertEqual(view_fish(self.ctx, fish).scale, "Quay")

    def test_the_display_is_that_of_the_scale_that_is_asked_for(self) -> None:
        for name, kg in (("", 0.1), ("Galley", 0.3), ("nobody's", 0.1)):
            shown = scale_display(self.ctx, name)
            self.assertAlmostEqual(shown.kg, kg, delta=0.002)  # type: ignore[union-attr]
