"""Freezer places: what they are like, how long bags take there, what goes in tonight."""

from dataclasses import replace

from lepidos.core.errors import Conflict, Refused, Unknown
from lepidos.stations.base.context import Receipt
from lepidos.stations.freezer import freezer, moves, places
from lepidos.stations.freezer.freezer import FreezerView, PlaceBox
from lepidos.stations.pack import bagging, seal
from lepidos.stations.undo import undo
from lepidos.store.pack import bags
from tests.app import AppTest


class PlacesTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        done = places.add_place(self.ctx, self.key(), places.AddPlace("chest"))
        self.place = done.subject_id

    def say(self, celsius: float = -25, litres: float = 0, cooling: str = "still") -> Receipt:
        order = places.SayPlace(self.place, celsius, litres, cooling)
        return places.say_place(self.ctx, self.key(), order)

    def sealed(self, species: str = "cod", cm: float = 75, **kg: float) -> list[str]:
        """Everything of a fish in bags; their codes."""
        fish = self.land(self.trip, species, cm).subject_id
        for slot, weight in kg.items():
            self.weigh(fish, slot.replace("_", "."), weight)
        codes = []
        while (bag := bagging.view_pack(self.ctx, self.trip).next_bag) is not None:
            keys = tuple(row.part.key for row in bag.rows)
            order = seal.SealBag(self.trip, keys, as_planned=True)
            sealed = seal.seal_bag(self.ctx, self.key(), order).subject_id
            with self.ctx.store.reading():
                codes.append(bags.get(sealed).code)
        return codes

    def view(self) -> FreezerView:
        return freezer.view_freezer(self.ctx, self.trip)

    def box(self) -> PlaceBox:
        (box,) = self.view().boxes
        return box

    def test_colder_moving_and_pressed_is_quicker_and_minus_eight_is_never(self) -> None:
        self.sealed(fillet_A=0.6)
        hours = []
        for celsius, cooling in ((-18, "still"), (-25, "still"), (-25, "fan"), (-25, "plate")):
            self.say(celsius, cooling=cooling)
            found = self.box().tonight
            self.assertFalse(found.never)
            hours.append(found.hours or 0)
        self.assertEqual(hours, sorted(hours, reverse=True))
        self.assertGreater(hours[0], 2)
        self.assertLess(hours[-1], 1.5)
        self.say(-8)
        self.assertTrue(self.box().tonight.never)

    def test_without_a_word_it_is_a_usual_freezer_and_that_is_said(self) -> None:
        self.sealed(fillet_A=0.6)
        found = self.box().tonight
        self.assertEqual((found.celsius, found.said, found.days), (-18.0, False, ()))
        self.assertIsNotNone(found.hours)

    def test_what_a_place_takes_a_day_is_shared_out_over_days_fat_fish_first(self) -> None:
        self.sealed(fillet_A=1.2, fillet_B=1.2)
        mackerel = self.sealed("mackerel", 40, fillet_A=0.25, fillet_B=0.25)
        self.say(litres=50)  # 1.6 to 2.4 kg a day
        found = self.box().tonight
        self.assertEqual(found.takes_kg, (50 * 0.032, 50 * 0.048))
        self.assertEqual(set(found.order[: len(mackerel)]), set(mackerel))
        self.assertEqual(sum(found.days), len(found.order))
        self.assertEqual(len(found.days), 2)
        with self.ctx.store.reading():
            kg = [bags.by_code(code).kg for code in found.order]
        for day in range(len(found.days)):
            first = sum(found.days[:day])
            self.assertLessEqual(sum(kg[first : first + found.days[day]]), 2.0 + 1e-9)

    def test_what_its_plate_says_goes_before_its_litres(self) -> None:
        self.sealed(fillet_A=1.2, fillet_B=1.2)
        order = places.SayPlace(self.place, -25, 50, "still", kg_day=1.0)
        places.say_place(self.ctx, self.key(), order)
        found = self.box().tonight
        self.assertEqual(found.takes_kg, (1.0, 1.0))
        self.assertGreaterEqual(len(found.days), 3)
        with self.assertRaisesRegex(Refused, "500"):
            places.say_place(self.ctx, self.key(), replace(order, kg_day=501))

    def test_what_went_in_today_takes_its_part_of_the_day(self) -> None:
        codes = self.sealed(fillet_A=1.2, fillet_B=1.2)
        self.say(litres=50)
        before = self.box().tonight.days
        moves.put_away(self.ctx, self.key(), moves.PutAway(tuple(codes[:3]), self.place))
        box = self.box()
        with self.ctx.store.reading():
            went_in = sum(bags.by_code(code).kg for code in codes[:3])
        self.assertAlmostEqual(box.tonight.today_kg, went_in)
        self.assertLessEqual(box.tonight.days[0] + 3, before[0] + 1)
        self.assertEqual(box.number, 3)
        self.clock.advance(hours=25)
        self.assertEqual(self.box().tonight.today_kg, 0.0)

    def test_a_heavy_bag_goes_in_all_the_same_on_a_day_of_its_own(self) -> None:
        self.sealed(fillet_A=1.2)
        self.say(litres=5)  # 0.2 kg a day
        days = self.box().tonight.days
        self.assertEqual(set(days), {1})

    def test_undo_brings_back_what_was_said_before(self) -> None:
        self.say(-22, 100, "fan")
        done = self.say(-30)
        order = undo.UndoRow(done.subject_kind, done.subject_id)
        undo.undo_row(self.ctx, self.key(), order)
        said = self.box().said
        assert said
        self.assertEqual((said.celsius, said.litres, said.cooling), (-22, 100, "fan"))
        with self.assertRaises(Conflict):
            undo.undo_row(self.ctx, self.key(), order)

    def test_what_cannot_be_is_refused_at_its_field(self) -> None:
        for field, values in (
            ("celsius", (-90, 0, "still")),
            ("litres", (-20, 9000, "still")),
            ("litres", (-20, -1, "still")),
            ("cooling", (-20, 0, "magic")),
        ):
            with self.subTest(values=values), self.assertRaises(Refused) as refused:
                self.say(*values)
            self.assertEqual(list(refused.exception.problems), [field])
        self.assertIsNone(self.box().said)
        with self.assertRaises(Unknown):
            places.say_place(self.ctx, self.key(), places.SayPlace("nowhere", -20, 0, "still"))

    def test_bags_in_a_place_stand_first_expiring_first(self) -> None:
        cod = self.sealed(fillet_A=0.6)
        mackerel = self.sealed("mackerel", 40, fillet_A=0.2)
        codes = (*cod, *mackerel)
        moves.put_away(self.ctx, self.key(), moves.PutAway(codes, self.place))
        rows = self.box().rows
        self.assertEqual(rows[0].bag.code, mackerel[0])
        best = [row.bag.best_by for row in rows]
        self.assertEqual(best, sorted(best))
        self.assertTrue(all(row.bag.thick_m > 0.004 for row in rows))
