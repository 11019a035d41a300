"""A second weight for a piece, a step that makes the fish what it does, and what is poisonous."""

from lepidos.core.errors import Refused
from lepidos.stations.table import byproducts, findings, fish_view, steps, weighing
from lepidos.stations.undo.undo import UndoRow, undo_row
from tests.app import AppTest, kg_of


class TwiceTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.fish = self.land(self.start_trip()).subject_id

    def asked(self) -> list:
        return list(fish_view.view_fish(self.ctx, self.fish).questions)

    def test_a_second_weight_is_booked_and_asked_about(self) -> None:
        first = self.weigh(self.fish, "fillet.A", 0.58)
        second = self.weigh(self.fish, "fillet.A", 0.56)
        self.assertIn("Is 560 g instead, or besides?", second.question)
        (question,) = self.asked()
        self.assertEqual(
            (question.weighing, question.instead), (second.subject_id, first.subject_id)
        )

    def test_two_second_weights_are_two_questions_the_latest_first(self) -> None:
        for slot in ("fillet.A", "fillet.B"):
            self.weigh(self.fish, slot, 0.58)
        again = [self.weigh(self.fish, slot, 0.56) for slot in ("fillet.A", "fillet.B")]
        asked = [q.weighing for q in self.asked() if q.key.startswith("again.")]
        self.assertEqual(asked, [row.subject_id for row in again][::-1])

    def test_instead_besides_and_a_slip_each_settle_it(self) -> None:
        for answer, grams in (("instead", 0.56), ("besides", 1.14), ("slip", 0.58)):
            with self.subTest(answer=answer):
                self.fish = self.land(self.start_trip(name=answer)).subject_id
                self.weigh(self.fish, "fillet.A", 0.58)
                self.weigh(self.fish, "fillet.A", 0.56)
                (question,) = self.asked()
                if answer == "besides":
                    weighing.keep_answer(
                        self.ctx, self.key(), weighing.KeepAnswer(self.fish, question.key)
                    )
                else:
                    row = question.instead if answer == "instead" else question.weighing
                    undo_row(self.ctx, self.key(), UndoRow("weighing", row))
                view = fish_view.view_fish(self.ctx, self.fish)
                self.assertAlmostEqual(kg_of(view, "fillet", "A"), grams)
                self.assertFalse(any(q.key.startswith("again.") for q in view.questions))

    def test_what_comes_in_several_loads_is_not_asked_about(self) -> None:
        for slot in ("trim", "trim", "spoon_meat", "spoon_meat", "skin", "skin"):
            self.weigh(self.fish, slot, 0.02)
        self.assertFalse(any(q.key.startswith("again.") for q in self.asked()))

    def test_the_other_side_is_no_second_weight(self) -> None:
        self.weigh(self.fish, "fillet.A", 0.58)
        self.weigh(self.fish, "fillet.B", 0.57)
        self.assertFalse(any(q.key.startswith("again.") for q in self.asked()))


class StepTest(AppTest):
    def tick(self, fish: str, step: str) -> str:
        return steps.tick_step(self.ctx, self.key(), steps.TickStep(fish, step)).subject_id

    def facts(self, fish: str) -> set[str]:
        return set(fish_view.view_fish(self.ctx, fish).now.facts.split())

    def test_ticking_bleed_it_makes_the_fish_bled_and_the_undo_takes_it_back(self) -> None:
        fish = self.land(self.start_trip(), states=()).subject_id
        row = self.tick(fish, "bleed")
        self.assertIn("bled", self.facts(fish))
        states = {s.step.key: s.state for s in fish_view.view_fish(self.ctx, fish).steps}
        self.assertEqual(states["bleed"], "done")
        undo_row(self.ctx, self.key(), UndoRow("fact", row))
        self.assertNotIn("bled", self.facts(fish))

    def test_ticking_the_gut_out_makes_it_gutted_and_the_gut_can_still_be_weighed(self) -> None:
        fish = self.land(self.start_trip(), states=("bled",)).subject_id
        self.tick(fish, "gut_out")
        self.assertIn("gutted", self.facts(fish))
        self.assertIn("gut", {s.piece for s in fish_view.view_fish(self.ctx, fish).plan.slots})

    def test_undoing_a_step_leaves_what_was_noted_on_deck(self) -> None:
        fish = self.land(self.start_trip(), states=()).subject_id
        row = self.tick(fish, "look")
        undo_row(self.ctx, self.key(), UndoRow("fact", row))
        self.tick(fish, "bleed")
        self.tick(fish, "gut_out")
        undo_row(self.ctx, self.key(), UndoRow("fact", self.tick(fish, "spoon")))
        self.assertLessEqual({"bled", "gutted"}, self.facts(fish))


class PoisonTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.fish = self.land(self.start_trip(), "cabezon", 55).subject_id

    def test_roe_is_not_booked_alone_or_with_others(self) -> None:
        with self.assertRaisesRegex(Refused, "poisonous"):
            self.weigh(self.fish, "roe", 0.2)
        order = weighing.WeighTogether(self.fish, ("roe", "trim"), 0.3)
        with self.assertRaisesRegex(Refused, "poisonous"):
            weighing.weigh_together(self.ctx, self.key(), order)
        with self.assertRaisesRegex(Refused, "poisonous"):
            findings.note_sight(self.ctx, self.key(), findings.NoteSight(self.fish, "roe"))

    def test_its_gut_goes_into_the_bin_and_nowhere_else(self) -> None:
        cod = self.land(self.start_trip(name="Other"), "cod", 70).subject_id
        self.weigh(cod, "gut", 0.4)
        byproducts.send_piece(self.ctx, self.key(), byproducts.SendPiece(cod, "gut", "bait"))
        self.weigh(self.fish, "gut", 0.3)
        (row,) = fish_view.view_fish(self.ctx, self.fish).destined
        self.assertEqual([f.key for f in row.offered], ["bin"])
        self.assertEqual(row.fate.key, "bin")
        for fate in ("bait", "crab", "pet", "compost", "eat"):
            with self.assertRaisesRegex(Refused, "poisonous"):
                byproducts.send_piece(
                    self.ctx, self.key(), byproducts.SendPiece(self.fish, "gut", fate)
                )

    def test_liver_that_is_eaten_carries_the_liver_caution(self) -> None:
        eat = self.ctx.guide.byproduct_uses.one("eat")
        self.assertEqual(eat.caution_of("liver"), "liver")
        self.assertEqual(eat.caution_of("trim"), eat.caution)
