"""The history of a fish and of a bag: everything that was done, once, with its device."""

from lepidos.stations.base import acting
from lepidos.stations.base.history import history_of_bag, history_of_fish
from lepidos.stations.deck import handling, landing, landing_check
from lepidos.stations.freezer import moves, places
from lepidos.stations.undo.undo import UndoRow, undo_row
from tests.app import AppTest


class HistoryTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()

    def on(self, device: str) -> None:
        token = acting.device_name.set(device)
        self.addCleanup(acting.device_name.reset, token)

    def test_a_fish_from_landing_to_bag(self) -> None:
        self.on("Ines's phone")
        fish = self.land(self.trip, "pollack", 68).subject_id
        self.land(self.trip, "cod", 50)
        state = handling.mark_state(self.ctx, self.key(), handling.MarkState(fish, "gutted"))
        undo_row(self.ctx, self.key(), UndoRow("fact", state.subject_id))
        self.on("Galley tablet")
        noted = landing_check.LandFish(self.trip, "pollack", 0.67, "total")
        landing.correct_fish(self.ctx, self.key(), landing.CorrectFish(fish, noted))
        fillet = self.weigh(fish, "fillet.A", 0.5)
        bag = self.seal(fillet.subject_id)
        self.on("")
        found = history_of_fish(self.ctx, fish)
        self.assertEqual(
            [(d.device, d.is_undone) for d in found],
            [
                ("Ines's phone", False),
                ("Ines's phone", True),
                ("Ines's phone", False),
                ("Galley tablet", False),
                ("Galley tablet", False),
                ("Galley tablet", False),
            ],
        )
        self.assertEqual(found[0].sentence, "P1 landed")
        self.assertEqual(found[3].sentence, "P1 corrected")
        self.assertIn("sealed", found[-1].sentence)
        self.assertEqual([d.sentence for d in history_of_bag(self.ctx, bag.subject_id)],
                         [found[-1].sentence])  # fmt: skip

    def test_a_bag_that_was_moved_among_others(self) -> None:
        place = places.add_place(self.ctx, self.key(), places.AddPlace("chest")).subject_id
        codes, bags = [], []
        for cm in (60, 61):
            fish = self.land(self.trip, "pollack", cm).subject_id
            bag = self.seal(self.weigh(fish, "fillet.A", 0.4).subject_id).subject_id
            bags.append(bag)
            codes.append(self.code_of(bag))
            self.clock.advance(minutes=1)
        together = moves.put_away(self.ctx, self.key(), moves.PutAway(tuple(codes), place))
        undo_row(self.ctx, self.key(), UndoRow(together.subject_kind, together.subject_id))
        self.clock.advance(minutes=1)
        moves.put_away(self.ctx, self.key(), moves.PutAway((codes[1],), place))
        told = [[d.sentence for d in history_of_bag(self.ctx, bag)] for bag in bags]
        self.assertEqual([len(said) for said in told], [3, 4])  # the second was put away again
        self.assertIn("2 bags", told[0][1])
        self.assertIn("2 bags", told[1][1])
        for bag in bags:
            self.assertTrue(history_of_bag(self.ctx, bag)[1].is_undone)

    def test_what_there_is_not_has_none(self) -> None:
        self.assertEqual(history_of_fish(self.ctx, "nothing"), [])
        self.assertEqual(history_of_bag(self.ctx, "nothing"), [])
