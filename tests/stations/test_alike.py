"""A dozen alike: landed in one entry, finished in one touch, undone in one; fish weighed without a length."""

from datetime import date

from lepidos.core.catch.rule_cards import RuleCard
from lepidos.core.errors import Conflict, Refused
from lepidos.stations.base.fish import find_fish, round_weight
from lepidos.stations.deck import handling, landing, landing_check, rule_cards, slab
from lepidos.stations.guide import nearest
from lepidos.stations.pack import pack
from lepidos.stations.table import fish_view, steps
from lepidos.stations.undo import undo
from lepidos.store.deck import fishes
from tests.app import AppTest


class LotTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()

    def land_all(self, count: int = 12, cm: float | None = 24, **more: object) -> str:
        """The key of the dozen."""
        length_m = cm / 100 if cm else None
        order = landing_check.LandFish(
            self.trip, str(more.pop("species", "mackerel")), length_m, count=count, **more
        )
        done = nearest.land(self.ctx, self.key(), order)
        self.assertEqual(done.subject_kind, "lot")
        return done.subject_id

    def on_slab(self) -> list[slab.SlabFish]:
        return list(slab.view_slab(self.ctx, self.trip).waiting)


class LandingTest(LotTest):
    def refusal(self, **more: object) -> dict[str, str]:
        with self.assertRaises(Refused) as refused:
            self.land_all(**more)
        return refused.exception.problems

    def test_a_dozen_is_twelve_fish_from_the_shortest_to_the_longest(self) -> None:
        self.land_all(longest_m=0.35)
        found = sorted(self.on_slab(), key=lambda f: f.now.length_m)
        self.assertEqual([f.fish.code for f in found], [f"M{n}" for n in range(1, 13)])
        self.assertEqual((found[0].now.length_m, found[-1].now.length_m), (0.24, 0.35))
        # only the ends were measured
        self.assertEqual([f.now.length_about for f in found], [False, *[True] * 10, False])

    def test_a_weight_of_all_is_shared_out_and_known_of_none(self) -> None:
        self.land_all(longest_m=0.35, weight_kg=2.6)
        found = self.on_slab()
        self.assertAlmostEqual(sum(f.weight.kg for f in found), 2.6, places=6)
        self.assertTrue(all(f.weight.estimate for f in found))
        self.assertTrue(all(f.now.whole_kg is None for f in found))

    def test_gutted_ones_weighed_together_were_more_whole(self) -> None:
        self.land_all(weight_kg=1.2, weighed_as="lies", states=("gutted",))
        ratio = self.ctx.guide.one("mackerel").round_per_gutted.mean
        self.assertAlmostEqual(sum(f.weight.kg for f in self.on_slab()), 1.2 * ratio, places=6)

    def test_what_cannot_be_is_refused_at_its_field_and_nothing_is_landed(self) -> None:
        self.assertIn("shorter", self.refusal(longest_m=0.2)["longest"])
        self.assertIn("together", self.refusal(weight_kg=260.0)["weight"])
        self.assertIn("At most 60", self.refusal(count=61)["count"])
        self.assertIn("one by one", self.refusal(called="horse fish")["count"])
        self.assertIn("how many", self.refusal(count=1, longest_m=0.3)["count"])
        self.assertIn("Measure it, or weigh it", self.refusal(cm=None)["length"])
        self.assertEqual(self.on_slab(), [])

    def test_one_undo_takes_the_dozen_back_and_a_weighed_piece_holds_it(self) -> None:
        lot = self.land_all(count=3)
        first = self.on_slab()[0].fish.id
        row = self.weigh(first, "fillet.A", 0.05)
        with self.assertRaises(Conflict):
            undo.undo_row(self.ctx, self.key(), undo.UndoRow("lot", lot))
        self.assertEqual(len(self.on_slab()), 3)
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("weighing", row.subject_id))
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("lot", lot))
        self.assertEqual(self.on_slab(), [])

    def test_the_same_entry_again_lands_no_second_dozen(self) -> None:
        order = landing_check.LandFish(self.trip, "mackerel", 0.3, count=12)
        key = self.key()
        first = nearest.land(self.ctx, key, order)
        self.assertTrue(nearest.land(self.ctx, key, order).repeated)
        self.assertEqual(len(self.on_slab()), 12)
        with self.ctx.store.reading():
            self.assertEqual(len(fishes.of_lot(first.subject_id)), 12)


class CardTest(LotTest):
    def pressing(self, min_cm: float, **more: object) -> list[bool]:
        """Of four mackerel, what a card with that smallest size says of each."""
        card = RuleCard(
            "mackerel", "Skarrow", "invented", date(2026, 7, 1), min_cm=min_cm, length_type="fork"
        )
        rule_cards.save_card(self.ctx, self.key(), rule_cards.SaveCard(card))
        self.land_all(count=4, length_type="fork", **more)
        found = sorted(self.on_slab(), key=lambda f: f.fish.code)
        with self.ctx.store.reading():
            said = [rule_cards.verdicts(self.ctx, f.fish, f.now, "metric") for f in found]
        return [any(v.presses for v in verdicts) for verdicts in said]

    def test_between_two_that_are_long_enough_none_has_to_be_measured(self) -> None:
        self.assertEqual(self.pressing(20, longest_m=0.34), [False] * 4)

    def test_where_the_shortest_is_too_short_those_between_have_to_be(self) -> None:
        self.assertEqual(self.pressing(28, longest_m=0.34), [True, True, True, False])

    def test_of_fish_that_were_only_weighed_each_has_to_be(self) -> None:
        self.assertEqual(self.pressing(20, cm=None, weight_kg=1.0), [True] * 4)


class CorrectTest(LotTest):
    def correct(self, fish: slab.SlabFish, **noted: object) -> None:
        order = landing_check.LandFish(self.trip, "mackerel", **noted)
        landing.correct_fish(self.ctx, self.key(), landing.CorrectFish(fish.fish.id, order))

    def second(self) -> slab.SlabFish:
        return next(f for f in self.on_slab() if f.fish.code == "M2")

    def test_who_corrects_something_else_has_not_measured_it(self) -> None:
        self.land_all(count=4, longest_m=0.35)
        shown = round(self.second().now.length_m, 3)  # as the form has it, to the millimetre
        self.assertNotEqual(shown, self.second().now.length_m)
        self.correct(self.second(), length_m=shown, length_type="total", weight_kg=0.2)
        self.assertTrue(self.second().now.length_about)
        self.correct(self.second(), length_m=0.29, length_type="total")
        self.assertEqual(
            (self.second().now.length_m, self.second().now.length_about), (0.29, False)
        )

    def test_a_weight_alone_measures_no_length(self) -> None:
        self.land_all(count=4)
        self.correct(self.second(), length_type="total", weight_kg=0.3)
        self.assertTrue(self.second().now.length_about)
        self.assertEqual(self.second().weight.kg, 0.3)


class FinishTest(LotTest):
    def finish_all(self, fish: str, **more: object) -> str:
        order = steps.CloseFish(fish, ("fillet.A", "fillet.B"), alike=True, **more)
        return steps.close_fish(self.ctx, self.key(), order).subject_id

    def test_twelve_are_finished_as_one_and_each_gives_what_its_size_foretells(self) -> None:
        self.land_all(longest_m=0.36)
        first = self.on_slab()[0].fish.id
        view = fish_view.view_fish(self.ctx, first)
        self.assertEqual(view.alike, 12)
        self.finish_all(first)
        self.assertEqual(self.on_slab(), [])
        pieces = pack.list_pieces(self.ctx, self.trip).waiting
        self.assertEqual(len(pieces), 24)
        done = slab.view_slab(self.ctx, self.trip).further
        for one in done:
            expected = fish_view.view_fish(self.ctx, one.fish.id).expected
            given = sum(expected[slot].value for slot in ("fillet.A", "fillet.B"))
            self.assertAlmostEqual(one.now.fillet_kg, given, places=6)
            self.assertEqual(one.now.doubt, "eye")  # nothing is learned from them

    def test_a_weight_of_all_their_pieces_is_shared_out_as_their_sizes_foretell(self) -> None:
        self.land_all(longest_m=0.36)
        first = self.on_slab()[0].fish.id
        usual = fish_view.view_fish(self.ctx, first).expected["fillet.A"]
        with self.assertRaises(Refused) as refused:
            self.finish_all(first, all_kg=16.0)
        self.assertIn("usual", refused.exception.problems["all"])
        self.assertEqual(len(self.on_slab()), 12)
        self.finish_all(first, all_kg=1.6)
        pieces = pack.list_pieces(self.ctx, self.trip).waiting
        self.assertAlmostEqual(sum(p.weighing.kg for p in pieces), 1.6, places=6)
        mine = next(p.weighing for p in pieces if p.weighing.fish_id == first)
        self.assertNotAlmostEqual(mine.kg, usual.value, places=3)
        self.assertAlmostEqual(mine.low_kg / mine.kg, usual.low / usual.value, places=6)
        self.assertTrue(
            all(f.now.doubt == "eye" for f in slab.view_slab(self.ctx, self.trip).further)
        )

    def test_what_was_weighed_together_asks_nothing_of_one_side(self) -> None:
        fish = self.land(self.trip, "cod", 70).subject_id
        usual = fish_view.view_fish(self.ctx, fish).expected
        kg = 0.6 * sum(usual[slot].value for slot in ("fillet.A", "fillet.B"))
        order = steps.CloseFish(fish, ("fillet.A", "fillet.B"), all_kg=kg)
        self.assertEqual(steps.close_fish(self.ctx, self.key(), order).question, "")
        self.assertEqual(fish_view.view_fish(self.ctx, fish).questions, ())

    def test_one_that_was_begun_or_is_of_another_party_is_left(self) -> None:
        self.land_all(count=4)
        begun, *others = (f.fish.id for f in self.on_slab())
        self.weigh(begun, "fillet.A", 0.05)
        self.finish_all(others[0])
        self.assertEqual([f.fish.id for f in self.on_slab()], [begun])

    def test_one_undo_opens_all_again(self) -> None:
        self.land_all(count=4)
        fact = self.finish_all(self.on_slab()[0].fish.id)
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("alike", fact))
        self.assertEqual(len(self.on_slab()), 4)
        self.assertTrue(all(f.now.weighed_kg == 0 for f in self.on_slab()))

    def test_of_a_fish_landed_alone_it_is_that_fish(self) -> None:
        fish = self.land(self.trip).subject_id
        self.assertEqual(fish_view.view_fish(self.ctx, fish).alike, 1)
        self.finish_all(fish)
        self.assertEqual(find_fish(self.ctx, fish)[1].stage, "done")

    def test_all_are_put_on_ice_in_one_touch_and_taken_back_in_one(self) -> None:
        self.land_all(count=5)
        first, second, *_ = (f.fish.id for f in self.on_slab())
        handling.mark_state(self.ctx, self.key(), handling.MarkState(second, "iced"))
        self.clock.advance(minutes=1)
        done = handling.mark_state(
            self.ctx, self.key(), handling.MarkState(first, "iced", alike=True)
        )
        self.assertEqual([f.handled.lies for f in self.on_slab()], ["iced"] * 5)
        undo.undo_row(self.ctx, self.key(), undo.UndoRow(done.subject_kind, done.subject_id))
        lying = {f.fish.id: f.handled.lies for f in self.on_slab()}
        self.assertEqual(lying.pop(second), "iced")
        self.assertEqual(set(lying.values()), {""})


class WithoutLengthTest(LotTest):
    def round_kg(self, **more: object) -> float:
        order = landing_check.LandFish(self.trip, "cod", **more)
        fish, now = find_fish(self.ctx, nearest.land(self.ctx, self.key(), order).subject_id)
        self.assertTrue(now.length_about)
        cod = self.ctx.guide.one(fish.species)
        return round_weight(now, cod).kg

    def test_a_fish_without_its_head_is_landed_by_its_weight(self) -> None:
        found = self.round_kg(weight_kg=2.0, weighed_as="lies", states=("headed",))
        self.assertAlmostEqual(found, 2.0 / (1 - 0.21 - 0.14), places=6)

    def test_a_gutted_and_a_whole_one_too(self) -> None:
        self.assertAlmostEqual(
            self.round_kg(weight_kg=2.0, weighed_as="lies", states=("gutted",)), 2.34, places=6
        )
        self.assertAlmostEqual(self.round_kg(weight_kg=2.0), 2.0, places=6)

    def test_whole_with_its_head_off_is_asked_about(self) -> None:
        order = landing_check.LandFish(self.trip, "cod", 0.7, weight_kg=2.0, states=("headed",))
        with self.assertRaises(Refused) as refused:
            nearest.land(self.ctx, self.key(), order)
        self.assertIn("no head", refused.exception.problems["weighed_as"])
