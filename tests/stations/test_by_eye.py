"""A fish finished without a scale: what was taken is said once, and goes on at about what it should give."""

from lepidos.core.errors import Conflict, Refused
from lepidos.stations.freezer import moves, places
from lepidos.stations.pack import label, pack
from lepidos.stations.table import by_eye, fish_view, steps
from lepidos.stations.undo import undo
from lepidos.store.records import Weighing
from lepidos.store.schedule.work import BY_EYE
from tests.app import AppTest


class ByEyeTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.fish = self.land(self.trip, "cod", 70).subject_id

    def view(self, fish: str = "") -> fish_view.TableView:
        return fish_view.view_fish(self.ctx, fish or self.fish)

    def finish(self, *taken: str, fish: str = "", said: bool = True) -> str:
        order = steps.CloseFish(fish or self.fish, taken if said else None)
        return steps.close_fish(self.ctx, self.key(), order).subject_id

    def offered(self, fish: str = "") -> dict[str, float]:
        view = self.view(fish)
        found = by_eye.judged(self.ctx, view.species, view.expected)
        return {key: estimate.value for key, estimate in found.items()}

    def test_with_nothing_weighed_and_nothing_said_it_is_asked(self) -> None:
        with self.assertRaises(Refused) as refused:
            self.finish(said=False)
        self.assertIn("Say what you took", refused.exception.problems["taken"])
        self.assertEqual(self.view().now.stage, "slab")

    def test_what_was_taken_is_booked_at_what_this_fish_should_give(self) -> None:
        offered = self.offered()
        self.assertLessEqual({"fillet.A", "fillet.B", "belly.A"}, set(offered))
        self.assertFalse({"gut", "head", "frame", "skin", "trim"} & set(offered))
        self.finish("fillet.A", "fillet.B")
        view = self.view()
        self.assertTrue(view.closed)
        booked = {f"{w.piece}.{w.side}": w for w in view.weighings}
        self.assertEqual(set(booked), {"fillet.A", "fillet.B"})
        for slot, row in booked.items():
            self.assertEqual(row.method, BY_EYE)
            self.assertAlmostEqual(row.kg, offered[slot])
            self.assertTrue(row.low_kg < row.kg < row.high_kg)
        self.assertEqual(view.fillet_yield.numerator, "fillets, judged by eye")
        self.assertFalse(view.fillet_yield.measured)
        self.assertEqual(view.learned.learned_from, 0)

    def test_none_may_be_taken_but_only_what_it_has(self) -> None:
        for wrong in ("wing.A", "fillet", "gut", "nothing"):
            with self.subTest(slot=wrong), self.assertRaises(Refused):
                self.finish("fillet.A", wrong)
        self.assertEqual(self.view().weighings, ())
        self.finish()
        self.assertTrue(self.view().closed)
        self.assertEqual(self.view().weighings, ())

    def test_pieces_that_were_weighed_leave_nothing_to_say(self) -> None:
        self.weigh(self.fish, "fillet.A", 0.6)
        with self.assertRaises(Refused):
            self.finish("fillet.B")
        self.finish(said=False)
        self.assertTrue(self.view().closed)

    def test_undone_it_lies_there_as_before_unless_a_piece_is_in_a_bag(self) -> None:
        closed = self.finish("fillet.A", "fillet.B")
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("fact", closed))
        self.assertEqual((self.view().closed, self.view().weighings), (False, ()))
        closed = self.finish("fillet.A", "fillet.B")
        self.seal(self.view().weighings[0].id)
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("fact", closed))
        self.assertEqual(len(self.view().weighings), 2)

    def test_a_piece_goes_on_into_a_bag_a_label_and_the_freezer_as_about(self) -> None:
        self.finish("fillet.A", "fillet.B")
        waiting = pack.list_pieces(self.ctx, self.trip).waiting
        self.assertEqual(len(waiting), 2)
        bag = self.seal(self.view().weighings[0].id).subject_id
        printed = label.label_of(self.ctx, bag)
        self.assertIn("about", repr(printed).lower())
        place = places.add_place(self.ctx, self.key(), places.AddPlace("chest")).subject_id
        code = printed.code.replace("-", "")
        moves.put_away(self.ctx, self.key(), moves.PutAway((code,), place))

    def test_every_kind_for_every_purpose_can_be_finished_so(self) -> None:
        guide = self.ctx.guide
        for key, one in guide.species.items():
            cm = min(one.longest_cm * 0.6, one.longest_cm)
            # a trip of its own: pages of all fish of a trip grow
            fish = self.land(
                self.start_trip(), key, cm, length_type=one.length_type, states=("iced",)
            ).subject_id
            with self.subTest(fish=key):
                self.finish(*self.offered(fish), fish=fish)
                self.assertTrue(self.view(fish).closed)
                never = guide.never_used(one)
                self.assertFalse({w.piece for w in self.view(fish).weighings} & never)


class TookItTest(AppTest):
    """A piece at a time: taken, and known as well as what was seen of it."""

    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.fish = self.land(self.trip, "cod", 70).subject_id

    def take(self, slot: str, looks_like: str = "", times: float = 1.0) -> Weighing:
        order = by_eye.TakePiece(self.fish, slot, looks_like, times)
        row_id = by_eye.take_piece(self.ctx, self.key(), order).subject_id
        self.clock.advance(minutes=1)
        return next(w for w in self.view().weighings if w.id == row_id)

    def view(self) -> fish_view.TableView:
        return fish_view.view_fish(self.ctx, self.fish)

    def test_it_counts_as_its_plan_expects_it(self) -> None:
        usual = self.view().expected["fillet.A"]
        row = self.take("fillet.A")
        self.assertEqual((row.method, row.kg, row.low_kg, row.high_kg), (
            BY_EYE, usual.value, usual.low, usual.high,
        ))  # fmt: skip
        # what nobody weighed says nothing of the other side
        self.assertEqual(self.view().expected["fillet.B"].value, usual.value)

    def test_a_side_on_the_scale_narrows_the_one_that_was_not(self) -> None:
        usual = self.view().expected["fillet.B"]
        self.weigh(self.fish, "fillet.A", usual.value * 0.9)
        row = self.take("fillet.B")
        self.assertTrue(usual.value * 0.9 < row.kg < usual.value)
        self.assertLess(row.high_kg - row.low_kg, (usual.high - usual.low) * 0.8)

    def test_what_the_hand_says_of_it_narrows_it_too(self) -> None:
        usual = self.view().expected["fillet.A"]
        row = self.take("fillet.A", "palm", 2)
        self.assertTrue(0.23 < row.kg < usual.value)
        self.assertLess(row.high_kg / row.low_kg, usual.high / usual.low)

    def test_twice_or_what_is_no_piece_of_it_is_refused(self) -> None:
        self.take("fillet.A")
        with self.assertRaises(Conflict):
            self.take("fillet.A")
        for wrong in ("gut", "wing.A", "fillet", ""):
            with self.subTest(slot=wrong), self.assertRaises(Refused):
                self.take(wrong)
        for looks, times in (("palm", 99.0), ("elbow", 1.0)):
            with self.assertRaises(Refused):
                self.take("fillet.B", looks, times)
        self.assertEqual(len(self.view().weighings), 1)

    def test_a_fish_of_both_teaches_neither_yield_nor_forecast(self) -> None:
        self.weigh(self.fish, "fillet.A", 0.5)
        self.take("fillet.B")
        steps.close_fish(self.ctx, self.key(), steps.CloseFish(self.fish))
        view = self.view()
        self.assertEqual((view.learned.learned_from, view.held.fish), (0, 0))
        self.assertEqual(view.fillet_yield.numerator, "fillets, judged by eye")

    def test_a_piece_of_which_nothing_is_known_needs_a_measure_of_the_hand(self) -> None:
        with self.assertRaises(Refused):
            self.take("spoon_meat")
        self.assertAlmostEqual(self.take("spoon_meat", "fist", 0.5).kg, 0.159)

    def test_what_its_plan_does_not_give_may_be_taken_too_but_never_poison(self) -> None:
        self.assertAlmostEqual(self.take("roe", "palm").kg, 0.115)
        for slot in ("gut", "frame"):
            with self.assertRaises(Refused) as refused:
                self.take(slot, "fist")
            self.assertIn("goes into no bag", refused.exception.problems["piece"])
        guide = self.ctx.guide
        one, poison = next(
            (one, key)
            for one in guide.species.values()
            for key in sorted(guide.never_used(one))
            if guide.piece(key).counts_as != "rest" and not guide.piece(key).sided
        )
        self.fish = self.land(
            self.trip, one.key, one.longest_cm * 0.6, length_type=one.length_type
        ).subject_id
        with self.assertRaises(Refused) as refused:
            self.take(poison, "palm")
        self.assertIn("poisonous", refused.exception.problems["piece"])

    def test_what_was_judged_leaves_the_sum_as_doubtful_as_before(self) -> None:
        before = self.view().fillet_now
        self.take("fillet.A")
        self.assertEqual(self.view().fillet_now, before)
        self.weigh(self.fish, "fillet.B", self.view().expected["fillet.B"].value)
        after = self.view().fillet_now
        self.assertLess(after.high - after.low, before.high - before.low)
        self.assertGreater(after.high, after.low)

    def test_only_what_was_weighed_is_asked_about(self) -> None:
        self.take("fillet.A")
        self.assertEqual(self.view().questions, ())
        self.weigh(self.fish, "fillet.B", 5.0)
        self.assertEqual([q.slot for q in self.view().questions], ["fillet.B"])

    def test_it_is_taken_back_by_one_touch(self) -> None:
        row = self.take("fillet.A")
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("weighing", row.id))
        self.assertEqual(self.view().weighings, ())
