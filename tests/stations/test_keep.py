"""How many fish to keep: what the freezer holds counts, and cards stand beside it."""

from lepidos.core.errors import Refused
from lepidos.stations.freezer import moves, places
from lepidos.stations.yieldbook import keep
from lepidos.stations.yieldbook.keep import ToKeep, Wanted
from tests.app import AppTest


class KeepTest(AppTest):
    def ask(self, portions: int = 8, species: str = "pollack", **more: object) -> ToKeep:
        values = {"length_m": 0.6, "serving_kg": 0.2} | more
        return keep.how_many(self.ctx, Wanted(species, portions=portions, **values))

    def test_more_portions_and_smaller_fish_need_more_and_off_the_skin_too(self) -> None:
        usual = self.ask()
        self.assertEqual(usual.need_kg, 1.6)
        self.assertGreaterEqual(usual.fish * usual.fillet.value, 1.6)
        self.assertGreater(self.ask(30).fish, usual.fish)
        self.assertGreater(self.ask(length_m=0.4).fish, usual.fish)
        self.assertLess(self.ask(skin="off").fillet.value, usual.fillet.value)

    def test_what_lies_in_the_freezer_counts(self) -> None:
        before = self.ask(8)
        trip = self.start_trip()
        place = places.add_place(self.ctx, self.key(), places.AddPlace("chest")).subject_id
        fish = self.land(trip, "cod", 70).subject_id
        bag = self.seal(self.weigh(fish, "fillet.A", 0.4).subject_id).subject_id
        moves.put_away(self.ctx, self.key(), moves.PutAway((self.code_of(bag),), place))
        after = self.ask(8)
        self.assertGreater(after.frozen, 0)
        self.assertAlmostEqual(before.need_kg - after.need_kg, after.frozen * 0.2)
        enough = self.ask(after.frozen)
        self.assertEqual((enough.need_kg, enough.fish), (0, 0))

    def test_what_cannot_be_is_refused_at_its_field(self) -> None:
        for more, field in (
            ({"portions": 0}, "portions"), ({"serving_kg": 9.0}, "serving"), ({"length_m": 9.0}, "length"), ({"species": "pollck"}, "species"),
        ):  # fmt: skip
            with self.subTest(more=more), self.assertRaises(Refused) as caught:
                self.ask(**more)
            self.assertIn(field, caught.exception.problems)
