"""How many fish to keep: what the freezer holds counts, and cards stand beside it."""

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.errors import Refused
from lepidos.stations.base.own_measures import as_measured
from lepidos.stations.freezer import moves, places
from lepidos.stations.yieldbook import keep
from lepidos.stations.yieldbook.keep import ToKeep, Wanted
from lepidos.store.deck import fish_now, fishes
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


class OwnMeasuresTest(AppTest):
    def test_fish_weighed_whole_and_measured_twice_correct_the_guide(self) -> None:
        trip, species = self.start_trip(), self.ctx.guide.species["pollack"]
        usual = weight_from_length(0.60, "total", species).value
        with self.ctx.store.reading():
            self.assertEqual(as_measured(self.ctx, species), (species, 0))
        for n in range(8):
            cm = 56 + n
            kg = weight_from_length(cm / 100, "total", species).value * 1.2
            fish = self.land(trip, "pollack", cm, weight_kg=round(kg, 3)).subject_id
            with self.ctx.store.writing():
                fishes.measure(
                    self.ctx.ids, self.clock(), fish=fish, quantity="length",
                    value=cm / 100 / 1.06, length_type="fork", method="typed",
                )  # fmt: skip
                fish_now.refresh(fish, self.ctx.is_fillet)
        with self.ctx.store.reading():
            own, number = as_measured(self.ctx, species)
        self.assertEqual(number, 8)
        self.assertTrue(1.05 < own.total_per_fork.mean < 1.06, own.total_per_fork)
        now = weight_from_length(0.60, "total", own).value
        self.assertTrue(1.08 < now / usual < 1.22, now / usual)

    def test_two_lengths_without_the_total_teach_their_ratio_too(self) -> None:
        trip, species = self.start_trip(), self.ctx.guide.species["pollack"]
        guide = species.total_per
        for n in range(6):
            cm = 50.0 + n
            fish = self.land(trip, "pollack", cm, length_type="fork").subject_id
            with self.ctx.store.writing():
                fishes.measure(
                    self.ctx.ids, self.clock(), fish=fish, quantity="length",
                    value=cm / 100 / 1.10, length_type="standard", method="typed",
                )  # fmt: skip
                fish_now.refresh(fish, self.ctx.is_fillet)
        with self.ctx.store.reading():
            own, _ = as_measured(self.ctx, species)
        self.assertEqual(own.total_per["fork"], guide["fork"])
        wanted = (guide["standard"].mean + 6 * 1.10 * guide["fork"].mean) / 7
        self.assertAlmostEqual(own.total_per["standard"].mean, wanted, places=6)
