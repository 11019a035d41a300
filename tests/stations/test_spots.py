"""A wound, worms or gall cut out: where, how much, and that nothing then is asked in vain."""

from lepidos.core.errors import Refused
from lepidos.stations.table import byproducts, findings, forecasts
from lepidos.stations.table.spots import Spot
from tests.stations.test_session import SessionTest

KG = 0.120


class SpotTest(SessionTest):
    def spot(self, what: str = "wound", **spot: object):
        order = findings.NoteSight(self.fish, what, spot=Spot(**spot))
        return findings.note_sight(self.ctx, self.key(), order)

    def usual(self, slot: str) -> float:
        return self.view().expected[slot].value

    def test_a_touch_on_the_drawing_finds_its_piece_and_its_grams(self) -> None:
        species = self.ctx.guide.one("pollack")
        body, plan = self.ctx.guide.body_of(species), self.ctx.guide.plan_of(species)
        x, y = body.point(*plan.zone("fillet").caption)
        said = self.spot(side="A", x=x, y=y, across_m=0.025).sentence
        seen = self.view().seen[0]
        self.assertEqual(
            (seen.row.piece, seen.row.side, seen.row.lost_how), ("fillet", "A", "estimated")
        )
        self.assertGreater(seen.row.lost_kg, 0.004)
        self.assertIn(f"fillet A, about {seen.row.lost_kg * 1000:.0f} g cut out", said)

    def test_what_was_weighed_is_not_worked_out(self) -> None:
        said = self.spot(piece="fillet", side="B", across_m=0.08, lost_kg=KG).sentence
        self.assertIn("wound, fillet B, 120 g cut out", said)
        self.assertNotIn("about", said)

    def test_the_piece_is_lighter_by_it_and_no_question_is_asked(self) -> None:
        whole = self.usual("fillet.A")
        self.spot(piece="fillet", side="A", lost_kg=KG)
        self.assertAlmostEqual(self.usual("fillet.A"), whole - KG)
        self.assertAlmostEqual(self.usual("fillet.B"), whole)
        self.take("fillet.A", kg=whole - KG)
        self.take("fillet.B", kg=whole)
        for piece in ("belly.A", "belly.B"):
            self.take(piece, kg=self.usual(piece))
        self.assertEqual({"sides", "frame", "weight"} & set(self.keys()), set())

    def test_without_the_spot_the_same_weights_are_asked_about(self) -> None:
        whole = self.usual("fillet.A")
        self.take("fillet.A", kg=whole - KG)
        self.take("fillet.B", kg=whole)
        self.assertTrue({"sides", "frame", "weight"} & set(self.keys()))

    def test_it_is_accounted_for_and_can_be_sent_somewhere(self) -> None:
        self.spot(piece="fillet", side="A", lost_kg=KG)
        self.take("fillet.A", kg=0.5)
        view = self.view()
        self.assertAlmostEqual(view.balance.weighed_kg, 0.5 + KG)
        self.assertEqual([row.piece.key for row in view.destined], ["cut_out"])
        day = byproducts.waste_list(self.ctx, self.trip)
        self.assertAlmostEqual(day.lines[0].kg, KG)

    def test_cut_out_after_the_weighing_it_is_in_the_weight_already(self) -> None:
        self.take("fillet.A", kg=0.55)
        said = self.spot(piece="fillet", side="A", lost_kg=KG).sentence
        self.assertIn("Its piece was weighed with it", said)
        self.assertAlmostEqual(self.view().balance.weighed_kg, 0.55)

    def test_undone_it_never_was(self) -> None:
        before = self.view().expected
        self.undo("sight", self.spot(piece="fillet", side="A", lost_kg=KG).subject_id)
        self.assertEqual(self.view().expected, before)
        self.assertEqual(self.view().balance.weighed_kg, 0)

    def test_a_wound_teaches_nothing_of_the_next_fish(self) -> None:
        for slot in ("fillet.A", "fillet.B", "belly.A", "belly.B"):
            self.take(slot, kg=self.usual(slot))
        self.close()
        gave = self.view().now.fillet_kg
        with self.ctx.store.reading():
            plain = forecasts.learned(self.ctx, self.ctx.guide.one("pollack"))
        other = self.land(self.trip, weight_kg=2.91).subject_id
        self.fish = other
        self.spot(piece="fillet", side="A", lost_kg=KG)
        for slot in ("fillet.A", "fillet.B", "belly.A", "belly.B"):
            self.take(slot, kg=self.usual(slot))
        self.close()
        self.assertLess(self.view().now.fillet_kg, gave)
        self.assertAlmostEqual(self.view().gone_kg, KG)
        with self.ctx.store.reading():
            both = forecasts.learned(self.ctx, self.ctx.guide.one("pollack"))
            held = forecasts.held(self.ctx)
        self.assertAlmostEqual(
            both.species_for("", 2.91).yields.fillet_skin_on.mean,
            plain.species_for("", 2.91).yields.fillet_skin_on.mean,
            delta=0.004,
        )
        self.assertEqual((held.inside, held.fish), (2, 2))

    def test_nonsense_is_refused_at_its_field(self) -> None:
        for spot, field in (
            ({"across_m": 0.02}, "slot"),
            ({"piece": "roe", "across_m": 0.02}, "slot"),
            ({"piece": "fillet", "across_m": 0.02}, "slot"),  # no side
            ({"side": "A", "x": 1.5, "y": 0.0}, "slot"),
            ({"side": "A", "x": float("nan"), "y": 0.0}, "slot"),
            ({"piece": "fillet", "side": "A", "across_m": 3.0}, "size"),
            ({"piece": "fillet", "side": "A", "lost_kg": 40.0}, "lost"),
            ({"piece": "fillet", "side": "A", "lost_kg": -0.1}, "lost"),
        ):
            with self.subTest(spot=spot), self.assertRaises(Refused) as caught:
                self.spot(**spot)
            self.assertEqual(list(caught.exception.problems), [field])
        with self.assertRaises(Refused):
            self.spot("torn", piece="fillet", side="A", across_m=0.02)
        self.assertEqual(self.view().seen, ())
