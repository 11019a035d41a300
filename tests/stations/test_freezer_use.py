"""Counting a place, finding bags, meals and the calendar."""

from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import vobject

from lepidos.core.errors import Conflict, Refused, Unknown
from lepidos.stations.base.context import Receipt
from lepidos.stations.deck import handling
from lepidos.stations.freezer import calendar, find, freezer, meals, moves, places, stocktake
from lepidos.stations.freezer.meals import MealAsked, PlanMeal
from lepidos.stations.freezer.stocktake import Counted, CountPlace
from lepidos.stations.pack import label, paper
from lepidos.stations.undo import undo
from tests.app import NOON, AppTest

ZONE = ZoneInfo("Etc/GMT-1")
FRIDAY = date(2026, 7, 17)


class FreezerUse(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.chest, self.kitchen = (
            places.add_place(self.ctx, self.key(), places.AddPlace(name)).subject_id
            for name in ("chest", "kitchen")
        )

    def bag(self, species: str = "cod", kg: float = 0.4, place: str = "", cm: float = 70) -> str:
        """A sealed bag's code without its dash, in a place ("none": outside)."""
        fish = self.land(self.trip, species, cm).subject_id
        sealed = self.seal(self.weigh(fish, "fillet.A", kg).subject_id).subject_id
        code = self.code_of(sealed).replace("-", "")
        if place != "none":
            moves.put_away(self.ctx, self.key(), moves.PutAway((code,), place or self.chest))
        return code

    def undo(self, done: Receipt) -> None:
        undo.undo_row(self.ctx, self.key(), undo.UndoRow(done.subject_kind, done.subject_id))


class CountTest(FreezerUse):
    def count(self, *codes: str) -> Receipt:
        return stocktake.count_place(self.ctx, self.key(), CountPlace(self.chest, codes))

    def counted(self) -> Counted | None:
        boxes = {b.place.id: b for b in freezer.view_freezer(self.ctx).boxes}
        return boxes[self.chest].counted

    def test_what_is_missing_and_what_should_not_be_there(self) -> None:
        here, gone = self.bag(), self.bag()
        strange, outside = self.bag(place=self.kitchen), self.bag(place="none")
        done = self.count(here, strange.lower(), outside)
        self.assertEqual(
            done.sentence, "chest counted: 3 bags, 1 missing, 2 that should not be there"
        )
        found = self.counted()
        self.assertEqual([c.replace("-", "") for c in found.missing], [gone])
        self.assertEqual({c.replace("-", ""): w for c, w in found.strange}[strange], "kitchen")
        # nothing is moved by counting; what is set right is open no longer
        self.assertEqual(freezer.find_bag(self.ctx, strange).row.place, "kitchen")
        moves.put_away(self.ctx, self.key(), moves.PutAway((strange, outside), self.chest))
        moves.take_out(self.ctx, self.key(), moves.TakeOut((gone,), "missing"))
        found = self.counted()
        self.assertEqual((found.missing, found.strange), ((), ()))
        self.undo(done)
        self.assertIsNone(self.counted())

    def test_all_there(self) -> None:
        codes = [self.bag(), self.bag()]
        self.assertEqual(self.count(*codes).sentence, "chest counted: 2 bags, all there")

    def test_a_code_that_no_bag_has_is_named_and_nothing_is_kept(self) -> None:
        with self.assertRaisesRegex(Refused, "222222"):
            self.count(self.bag(), "222222")
        self.assertIsNone(self.counted())
        with self.assertRaises(Unknown):
            stocktake.count_place(self.ctx, self.key(), CountPlace("nowhere", ()))


class FindTest(FreezerUse):
    def found(self, text: str, gone: bool = False) -> list[str]:
        return [hit.bag.code for hit in find.find_bags(self.ctx, text, gone)[0]]

    def test_by_fish_cut_place_trip_month_and_party_and_every_word_must_fit(self) -> None:
        cod, ling = self.bag("cod"), self.bag("ling", cm=90, place=self.kitchen)
        for text, codes in (
            ("cod", [cod]), ("COD fillets", [cod]), ("ling kitchen", [ling]), ("ling chest", []), ("fil", [cod, ling]),
            ("marram", [cod, ling]), ("july 2026", [cod, ling]), ("2025", []), ("molva", [ling]),
            ("cos", []),  # only of a longer word is an s at its end that of a plural
        ):  # fmt: skip
            with self.subTest(text=text):
                self.assertEqual(sorted(self.found(text)), sorted(codes))

    def test_what_was_eaten_is_found_when_asked_for(self) -> None:
        code = self.bag()
        moves.take_out(self.ctx, self.key(), moves.TakeOut((code,)))
        self.assertEqual((self.found("cod"), self.found("cod", gone=True)), ([], [code]))

    def test_anything_for_soup(self) -> None:
        fish = self.land(self.trip, "cod", 70).subject_id
        collar = self.seal(self.weigh(fish, "collar.A", 0.15).subject_id).subject_id
        self.bag()
        self.assertEqual(self.found("anything for soup"), [self.code_of(collar).replace("-", "")])

    def test_words_in_the_box_for_codes_lead_to_words(self) -> None:
        code = self.bag()
        self.assertTrue(find.looks_like_words(self.ctx, "cod fillet"))
        self.assertFalse(find.looks_like_words(self.ctx, code))
        self.assertFalse(find.looks_like_words(self.ctx, "nothing such"))


class MealTest(FreezerUse):
    def suggest(self, people: int = 2, **more: object) -> list[meals.Suggestion]:
        return meals.suggest(self.ctx, MealAsked(people, more.pop("on", FRIDAY), **more), ZONE)

    def plan(self, codes: str, **more: object) -> Receipt:
        values = {
            "on": FRIDAY,
            "people": 2,
            "purpose": "",
            "thaw": "refrigerator",
            "zone": ZONE.key,
        }
        order = PlanMeal(codes=tuple(codes.split()), **(values | more))
        return meals.plan_meal(self.ctx, self.key(), order)

    def test_four_bags_of_38_g_are_no_dinner_for_four(self) -> None:
        for side in "ABAB":
            fish = self.land(self.trip, "cod", 70).subject_id
            for weighed in (self.weigh(fish, f"collar.{side}", 0.038),):
                bag = self.seal(weighed.subject_id).subject_id
                code = self.code_of(bag).replace("-", "")
                self.assertIn("part of a serving", label.label_of(self.ctx, bag).details)
                moves.put_away(self.ctx, self.key(), moves.PutAway((code,), self.chest))
        (offered,) = self.suggest(4)
        self.assertAlmostEqual(offered.meal.short, 3.2)
        left = meals.what_is_left(self.ctx, ZONE)
        self.assertAlmostEqual(left.servings, 0.8)
        self.assertEqual(left.meals, 0)

    def test_due_first_and_taken_out_in_time_to_thaw(self) -> None:
        self.bag("cod")
        mackerel = self.bag("mackerel", 0.3, cm=40)
        first = self.suggest(1)[0]
        self.assertEqual([b.code for b, _, _ in first.rows], [mackerel])
        self.assertTrue(6 < first.hours < 48)
        supper = datetime(2026, 7, 17, 18, tzinfo=ZONE)
        self.assertLessEqual(first.out_at + timedelta(hours=first.hours), supper)
        self.assertGreater(first.out_at + timedelta(hours=first.hours + 1), supper)
        water, frozen = (self.suggest(1, thaw=how)[0] for how in ("water", "frozen"))
        self.assertTrue(0 < water.hours < first.hours / 3)
        self.assertEqual((frozen.hours, frozen.out_at), (0, supper))

    def test_it_is_too_late_for_tonight_when_it_takes_a_night(self) -> None:
        self.bag()
        self.assertTrue(self.suggest(1, on=NOON.date())[0].too_late)

    def test_bags_of_a_planned_meal_are_spoken_for_until_it_is_called_off(self) -> None:
        self.bag()
        codes = self.suggest(1)[0].codes
        done = self.plan(codes)
        self.assertIn("Cod for 2 on Friday 17 July".lower(), done.sentence.lower())
        self.assertEqual(self.suggest(1), [])
        with self.assertRaises(Conflict):
            self.plan(codes)
        self.undo(done)
        self.assertEqual(self.suggest(1)[0].codes, codes)

    def test_fish_with_an_advisory_are_left_out_and_raw_needs_a_proof(self) -> None:
        self.bag("mackerel", 0.3, cm=40)
        self.assertEqual(self.suggest(1, without=("histamine",)), [])
        self.assertEqual(self.suggest(1, purpose="raw"), [])
        self.assertEqual(len(self.suggest(1, without=("mercury",))), 1)

    def test_what_cannot_be_is_refused(self) -> None:
        code = self.bag()
        for more in (
            {"people": 0},
            {"on": date(2026, 7, 1)},
            {"on": date(2028, 1, 1)},
            {"thaw": "sun"},
        ):
            with self.subTest(more=more), self.assertRaises(Refused):
                self.plan(code, **more)
        for asked in (
            MealAsked(0, FRIDAY),
            MealAsked(2, FRIDAY, thaw="sun"),
            MealAsked(2, date(1, 1, 1)),
            MealAsked(2, date(9999, 12, 31)),
        ):
            with self.assertRaises(Refused):
                meals.suggest(self.ctx, asked, ZONE)
        with self.assertRaises(Refused):
            meals.say_house(self.ctx, self.key(), meals.SayHouse(0, 1))
        with self.assertRaises(Refused):
            meals.say_house(self.ctx, self.key(), meals.SayHouse(2, 0.1))

    def test_a_meal_is_planned_up_to_a_year_ahead(self) -> None:
        code, today = self.bag(), NOON.date()
        with self.assertRaises(Refused):
            self.plan(code, on=today + timedelta(days=367))
        self.plan(code, on=today + timedelta(days=366))
        meals.suggest(self.ctx, MealAsked(2, today + timedelta(days=366)), ZONE)
        with self.assertRaises(Refused):
            meals.suggest(self.ctx, MealAsked(2, today + timedelta(days=367)), ZONE)

    def test_how_long_it_lasts(self) -> None:
        for _ in range(4):
            self.bag(kg=0.4)
        meals.say_house(self.ctx, self.key(), meals.SayHouse(2, 0.5))
        left = meals.what_is_left(self.ctx, ZONE)
        self.assertEqual(left.meals, left.servings // 2)
        self.assertEqual(left.until, NOON.date() + timedelta(days=14 * left.meals))

    def test_the_feed_is_read_by_another_program_and_says_the_same_each_time(self) -> None:
        code = self.bag()
        self.plan(self.suggest(1)[0].codes)
        data = calendar.feed(self.ctx, ZONE)
        read = vobject.readOne(data.decode())
        found = {e.uid.value.split("-")[0]: e for e in read.vevent_list}
        self.assertEqual(set(found), {"meal", "out", "due"})
        self.assertEqual(found["meal"].dtstart.value, datetime(2026, 7, 17, 18, tzinfo=ZONE))
        self.assertLess(found["out"].dtstart.value, found["meal"].dtstart.value)
        best = freezer.find_bag(self.ctx, code).row.now.best_by
        self.assertEqual(found["due"].dtstart.value, best)
        self.assertEqual(calendar.feed(self.ctx, ZONE), data)
        month = calendar.month_of(calendar.events(self.ctx, ZONE), FRIDAY)
        self.assertEqual([e.kind for e in month.events[FRIDAY]][-1], "meal")
        self.assertEqual((month.before, month.after), (date(2026, 6, 1), date(2026, 8, 1)))


class PackTest(FreezerUse):
    def test_a_fish_that_was_found_old_keeps_less_and_a_fresh_one_as_ever(self) -> None:
        lives = []
        for grade in (0, -1):
            fish = self.land(self.trip, "cod", 70).subject_id
            points = tuple(
                (key, mark.grades[grade].points) for key, mark in self.ctx.guide.marks.items()
            )
            handling.look_over(self.ctx, self.key(), handling.LookOver(fish, points))
            sealed = self.seal(self.weigh(fish, "fillet.A", 0.4).subject_id).subject_id
            bag = freezer.find_bag(self.ctx, self.code_of(sealed)).row.bag
            lives.append(bag.best_by - bag.packed_on)
        self.assertEqual(lives[0], self.best())
        self.assertAlmostEqual(lives[1] / lives[0], 0.5, delta=0.01)

    def best(self) -> timedelta:
        bag = freezer.find_bag(self.ctx, self.bag()).row.bag
        return bag.best_by - bag.packed_on

    def test_how_a_bag_is_closed_shortens_its_life(self) -> None:
        vacuum = self.best()
        paper.choose_pack(self.ctx, self.key(), paper.ChoosePack("wrap"))
        self.assertAlmostEqual(self.best() / vacuum, 0.7, delta=0.01)
        paper.choose_pack(self.ctx, self.key(), paper.ChoosePack("vacuum"))
        self.assertEqual(self.best(), vacuum)
        with self.assertRaises(Refused):
            paper.choose_pack(self.ctx, self.key(), paper.ChoosePack("sock"))
