"""Table: weighings, the balance, what is refused and what is only asked."""

import random
import sqlite3

from lepidos.core.errors import Conflict, Refused, Unknown
from lepidos.stations.table import fish_view, steps, wishes
from lepidos.stations.table.said import Said
from lepidos.stations.undo import undo
from lepidos.store.deck import fishes
from tests.app import AppTest, kg_of


class TableTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.fish = self.land(self.trip, weight_kg=2.91).subject_id

    def view(self) -> fish_view.TableView:
        return fish_view.view_fish(self.ctx, self.fish)

    def undo(self, kind: str, row: str) -> None:
        undo.undo_row(self.ctx, self.key(), undo.UndoRow(kind, row))

    def close(self) -> str:
        return steps.close_fish(self.ctx, self.key(), steps.CloseFish(self.fish)).subject_id


class WeighingTest(TableTest):
    def test_the_next_piece_follows_the_plan(self) -> None:
        order = ["gut", "belly.A", "belly.B", "fillet.A", "fillet.B", "collar.A"]
        for key in order:
            following = self.view().next
            assert following is not None
            self.assertEqual(following.key, key)
            self.weigh(self.fish, key, 0.05)

    def test_the_balance_is_the_fish_to_the_gram_through_takes_and_undos(self) -> None:
        rng = random.Random(3)
        taken: list[str] = []
        for _ in range(25):
            if taken and rng.random() < 0.4:
                self.undo("weighing", taken.pop(rng.randrange(len(taken))))
            else:
                slot = rng.choice(["gut", "fillet.A", "fillet.B", "frame", "trim"])
                taken.append(
                    self.weigh(self.fish, slot, round(rng.uniform(0.005, 0.2), 3)).subject_id
                )
            found = self.view().balance
            self.assertAlmostEqual(found.weighed_kg + found.rest_kg, 2.91, places=9)
            self.assertEqual(len(found.parts), len(taken))

    def test_a_cut_after_undo_counts_once(self) -> None:
        first = self.weigh(self.fish, "fillet.A", 0.6)
        self.undo("weighing", first.subject_id)
        self.weigh(self.fish, "fillet.A", 0.58)
        self.assertAlmostEqual(kg_of(self.view(), "fillet", "A"), 0.58)
        self.assertAlmostEqual(self.view().now.weighed_kg, 0.58)

    def test_takes_the_weight_from_the_scale(self) -> None:
        self.scale.put_on(0.412)
        self.weigh(self.fish, "fillet.A", None)
        (row,) = self.view().weighings
        self.assertAlmostEqual(row.kg, 0.412, delta=0.0011)
        self.assertEqual(row.method, "scale")

    def test_an_empty_silent_or_overloaded_scale_is_refused_at_the_weight(self) -> None:
        for prepare, message in (
            (lambda: self.scale.put_on(0.0), "Nothing lies"),
            (lambda: self.scale.put_on(40.0), "More than 30 kg"),
            (self.scale.unplug, "does not answer"),
        ):
            prepare()
            with self.subTest(message=message), self.assertRaises(Refused) as caught:
                self.weigh(self.fish, "gut", None)
            self.assertIn(message, caught.exception.problems["weight"])
        self.assertEqual(self.view().weighings, ())

    def test_only_what_cannot_be_is_refused(self) -> None:
        done = self.weigh(self.fish, "fillet.A", 5.8)
        self.assertRegex(done.question, r"decimal point .*\? Then it is 580 g\.")
        with self.assertRaises(Refused) as caught:
            self.weigh(self.fish, "fillet.B", 59.0)
        self.assertIn("more than 20 times the whole fish", caught.exception.problems["weight"])

    def test_what_is_no_weight_no_piece_or_no_side_is_refused(self) -> None:
        for slot, kg, field in (
            ("gut", 0.0, "weight"),
            ("gut", -1.0, "weight"),
            ("gut", float("nan"), "weight"),
            ("feather", 0.1, "piece"),
            ("gut.A", 0.1, "side"),
            ("fillet", 0.1, "side"),
            ("fillet.C", 0.1, "side"),
        ):
            with self.subTest(slot=slot, kg=kg), self.assertRaises(Refused) as caught:
                self.weigh(self.fish, slot, kg)
            self.assertIn(field, caught.exception.problems)
        self.assertEqual(self.view().weighings, ())

    def test_a_flatfishs_sides_are_called_eyed_and_blind(self) -> None:
        plaice = self.land(self.trip, "plaice", 43).subject_id
        done = self.weigh(plaice, "back_fillet.B", 0.08)
        self.assertEqual(done.sentence, "PL1 back fillet, blind side: 80 g")

    def test_an_odd_piece_is_booked_and_asked_about(self) -> None:
        done = self.weigh(self.fish, "belly.A", 0.92)
        self.assertRegex(done.question, r"920 g for the belly A of this fish\? .* Then it is 92 g")
        self.undo("weighing", done.subject_id)
        done = self.weigh(self.fish, "belly.A", 0.16)
        self.assertRegex(
            done.question, r"160 g for the belly A of this fish\? Usually \d+ to \d+ g"
        )
        self.assertEqual(self.weigh(self.fish, "belly.B", 0.088).question, "")

    def test_pieces_beyond_the_fish_are_asked_about(self) -> None:
        self.weigh(self.fish, "trim", 1.5)
        self.weigh(self.fish, "spoon_meat", 1.5)
        (question,) = [q for q in self.view().questions if q.key.startswith("over.")]
        self.assertIn("weigh 90 g more than the fish", question.text)
        self.assertTrue(self.view().balance.over)

    def test_an_unknown_fish_is_not_found(self) -> None:
        with self.assertRaises(Unknown):
            self.weigh("nofish", "gut", 0.1)


class ProgressTest(TableTest):
    def say(self, **said: str) -> None:
        order = wishes.WishForFish(self.fish, Said(**said))
        wishes.wish_for_fish(self.ctx, self.key(), order)

    def test_ticked_steps_move_the_present_one(self) -> None:
        first = self.view().present
        assert first is not None
        steps.tick_step(self.ctx, self.key(), steps.TickStep(self.fish, first.key))
        second = self.view().present
        assert second is not None
        self.assertNotEqual(first.key, second.key)
        self.assertEqual(self.view().now.stage, "table")
        for step, message in ((first.key, "already"), ("somersault", "not in this fish's plan")):
            with self.assertRaisesRegex(Refused, message):
                steps.tick_step(self.ctx, self.key(), steps.TickStep(self.fish, step))

    def test_skin_off_changes_the_plan_until_a_fillet_is_weighed(self) -> None:
        self.say(skin="off")
        self.assertIn("skin_off", [s.step.key for s in self.view().steps])
        self.weigh(self.fish, "fillet.A", 0.5)
        figure = self.view().fillet_yield
        assert figure is not None
        self.assertEqual(figure.numerator, "fillets, skinless")
        with self.assertRaisesRegex(Refused, "weighed already"):
            self.say(skin="on")
        with self.assertRaises(Refused):
            self.say(skin="inside out")

    def test_the_yield_is_complete_only_with_every_planned_fillet(self) -> None:
        self.weigh(self.fish, "fillet.A", 0.55)
        self.assertFalse(self.view().fillets_complete)
        for slot in ("fillet.B", "belly.A", "belly.B"):
            self.weigh(self.fish, slot, 0.1)
        self.assertTrue(self.view().fillets_complete)

    def test_a_finished_fish_takes_nothing_more_until_it_is_opened_again(self) -> None:
        with self.assertRaisesRegex(Refused, "Nothing of P1"):
            self.close()
        weighing = self.weigh(self.fish, "gut", 0.35).subject_id
        fact = self.close()
        self.assertTrue(self.view().closed)
        with self.assertRaisesRegex(Refused, "finished"):
            self.weigh(self.fish, "frame", 0.4)
        with self.assertRaisesRegex(Conflict, "finished"):
            self.undo("weighing", weighing)
        self.undo("fact", fact)
        self.assertFalse(self.view().closed)
        self.weigh(self.fish, "frame", 0.4)


class DerivedTest(TableTest):
    def test_what_is_derived_equals_what_the_rows_say(self) -> None:
        self.weigh(self.fish, "fillet.A", 0.55)
        taken = self.weigh(self.fish, "fillet.B", 0.5).subject_id
        self.undo("weighing", taken)
        self.weigh(self.fish, "gut", 0.35)
        file = sqlite3.connect(self.ctx.store.path)
        weighed, fillet = file.execute(
            """SELECT SUM(kg), SUM(CASE piece WHEN 'fillet' THEN kg ELSE 0 END) FROM weighing w
               WHERE fish_id = ? AND NOT EXISTS (SELECT 1 FROM undo u WHERE u.target_id = w.id)""",
            (self.fish,),
        ).fetchone()
        kept = file.execute(
            "SELECT weighed_kg, fillet_kg FROM fish_now WHERE fish_id = ?", (self.fish,)
        ).fetchone()
        file.close()
        self.assertAlmostEqual(kept[0], weighed)
        self.assertAlmostEqual(kept[1], fillet)

    def test_rows_of_weighings_are_never_changed_or_removed(self) -> None:
        taken = self.weigh(self.fish, "fillet.A", 0.55).subject_id
        self.undo("weighing", taken)
        file = sqlite3.connect(self.ctx.store.path)
        self.assertEqual(file.execute("SELECT kg FROM weighing").fetchall(), [(0.55,)])
        file.close()
        with self.ctx.store.reading():
            self.assertEqual(fishes.weighings_of(self.fish), [])
