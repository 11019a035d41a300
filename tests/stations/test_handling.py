"""States, probe, looks and corrections of a fish on deck, and what each does to its card."""

import unittest
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from lepidos.core.errors import Conflict, Refused, Unknown
from lepidos.devices.probe import SimulatedProbe
from lepidos.stations.deck import card, handling, landing, landing_check, slab
from lepidos.stations.table import fish_view
from lepidos.stations.trips import trips
from lepidos.stations.undo import undo
from tests.app import NOON, AppTest


class DeckTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip(sea_c=14.0, air_c=18.0, people=("Ines", "Tobias"))

    def card(self, fish_id: str) -> card.CardView:
        return card.view_card(self.ctx, fish_id, "metric")

    def mark(self, fish_id: str, state: str):
        return handling.mark_state(self.ctx, self.key(), handling.MarkState(fish_id, state))

    def undo(self, kind: str, row_id: str) -> None:
        undo.undo_row(self.ctx, self.key(), undo.UndoRow(kind, row_id))


class StateTest(DeckTest):
    def test_states_are_dated_and_change_the_advice(self) -> None:
        fish = self.land(self.trip, states=()).subject_id
        self.assertEqual(
            self.card(fish).row.handled.advice[0].text, "Dispatch it and bleed it at once."
        )
        self.clock.advance(minutes=20)
        self.assertIn("Not bled: expect pink meat; put it first.", self.texts(fish))
        self.mark(fish, "bled")
        self.assertIn("Bled 20 min after landing: some pink meat is likely.", self.texts(fish))
        self.assertEqual(self.card(fish).row.handled.done["bled"], NOON + timedelta(minutes=20))

    def test_a_bought_fish_is_not_told_to_be_bled_on_deck_at_its_bench_or_in_the_order(
        self,
    ) -> None:
        self.trip = self.start_trip(kind="bought", name="", sea_c=None, air_c=18.0)
        for kind in ("mackerel", "cod", "yellowtail"):
            fish = self.land(
                self.trip, kind, 38 if kind == "mackerel" else 80, states=()
            ).subject_id
            for minutes in (0, 30, 240):
                self.clock.advance(minutes=minutes)
                said = " ".join(self.texts(fish)).lower()
                self.assertNotRegex(said, "dispatch|bleed|not bled", kind)
                place = self.card(fish).row.place
                self.assertNotEqual(place.why.why if place else "", "unbled")
                steps = fish_view.view_fish(self.ctx, fish).plan.steps
                self.assertNotIn("bleed", {step.key for step in steps})
            self.assertIn("iced", slab.AT_LANDING)

    def test_a_fish_that_came_without_its_head_has_no_head_or_gut_at_the_bench(self) -> None:
        for kind, cm in (("monkfish", 80), ("cod", 70), ("mackerel", 36), ("turbot", 55)):
            with self.assertRaisesRegex(Refused, "it was weighed headed"):
                self.land(self.trip, kind, cm, states=("headed", "iced"), weight_kg=2.0)
            fish = self.land(self.trip, kind, cm, states=("headed", "iced")).subject_id
            view = fish_view.view_fish(self.ctx, fish)
            self.assertFalse({"head", "gut", "cheek"} & {slot.piece for slot in view.plan.slots})
            self.assertFalse({"head", "gut", "cheek"} & set(view.expected))
            self.assertNotRegex(" ".join(self.texts(fish)).lower(), "bleed|bled|gill|gut")

    def texts(self, fish: str) -> list[str]:
        return [a.text for a in self.card(fish).row.handled.advice]

    def test_where_it_lies_may_change_and_come_back(self) -> None:
        fish = self.land(self.trip).subject_id
        for state in ("slurry", "iced", "meltwater", "iced", "unpacked"):
            self.mark(fish, state)
            self.assertEqual(self.card(fish).row.handled.lies, state)
        with self.assertRaisesRegex(Refused, "out of the ice already"):
            self.mark(fish, "unpacked")

    def test_undo_brings_back_where_it_lay(self) -> None:
        fish = self.land(self.trip).subject_id
        fact = self.mark(fish, "meltwater").subject_id
        self.assertIn("Lying in meltwater: drain the box.", self.texts(fish))
        self.undo("fact", fact)
        self.assertEqual(self.card(fish).row.handled.lies, "iced")

    def test_a_fish_taken_back_takes_no_more_states(self) -> None:
        fish = self.land(self.trip).subject_id
        self.undo("fish", fish)
        with self.assertRaisesRegex(Refused, "undone"):
            self.mark(fish, "gutted")


class ProbeTest(DeckTest):
    def read(self, fish: str, celsius: float | None = None, key: str = ""):
        order = handling.ReadCore(fish, celsius)
        return handling.read_core(self.ctx, key or self.key(), order)

    def test_a_probe_of_85_degrees_is_no_fish(self) -> None:
        fish = self.land(self.trip).subject_id
        for celsius in (85.0, -30.0, float("nan")):
            with self.assertRaises(Refused) as caught:
                self.read(fish, celsius)
            self.assertIn("core", caught.exception.problems)
        self.assertEqual(self.card(fish).readings, ())

    def test_the_stand_in_is_read_when_nothing_is_typed(self) -> None:
        fish = self.land(self.trip).subject_id
        with self.assertRaisesRegex(Refused, "does not answer. Is it switched on"):
            self.read(fish)
        assert isinstance(self.ctx.probe, SimulatedProbe)
        self.ctx.probe.set_to(13.2)
        self.assertEqual(self.read(fish).sentence, "P1 core 13.2 °C")
        (row,) = self.card(fish).readings
        self.assertEqual((row.celsius, row.method), (13.2, "probe"))

    def test_a_reading_sent_twice_is_one_and_can_be_undone(self) -> None:
        fish = self.land(self.trip).subject_id
        first = self.read(fish, 12.0, "reading-1")
        self.assertTrue(self.read(fish, 12.0, "reading-1").repeated)
        self.assertEqual(len(self.card(fish).readings), 1)
        self.undo("reading", first.subject_id)
        self.assertEqual(self.card(fish).readings, ())
        with self.assertRaises(Conflict):
            self.undo("reading", first.subject_id)


class LookTest(DeckTest):
    def look(self, fish: str, **points: int):
        order = handling.LookOver(fish, tuple(points.items()))
        return handling.look_over(self.ctx, self.key(), order)

    def test_a_look_feeds_the_keeping_life(self) -> None:
        fish = self.land(self.trip).subject_id
        self.clock.advance(hours=2)
        before = self.card(fish).row.handled.age
        done = self.look(fish, gills=2, eyes=1, flesh=1, smell=2, blood=1)
        self.assertEqual(done.sentence, "P1 looked over: 7 points")
        after = self.card(fish).row.handled
        assert before
        assert after.age
        assert after.index
        self.assertEqual((after.index.points, after.index.seen), (7, 5))
        self.assertGreater(after.age.days, before.days)

    def test_the_last_look_at_a_mark_counts(self) -> None:
        fish = self.land(self.trip).subject_id
        self.look(fish, eyes=2)
        self.clock.advance(minutes=5)
        again = self.look(fish, eyes=0, gills=1)
        index = self.card(fish).row.handled.index
        assert index is not None
        self.assertEqual((index.points, index.seen), (1, 2))
        self.undo("look", again.subject_id)
        index = self.card(fish).row.handled.index
        assert index is not None
        self.assertEqual(index.points, 2)

    def test_what_is_no_mark_or_no_grade_is_refused_whole(self) -> None:
        fish = self.land(self.trip).subject_id
        for points in ({}, {"scales": 1}, {"gills": 9}, {"eyes": 1, "gills": 9}):
            with self.subTest(points=points), self.assertRaises(Refused):
                self.look(fish, **points)
        self.assertIsNone(self.card(fish).row.handled.index)


class CorrectTest(DeckTest):
    def correct(self, fish: str, **changes: object):
        noted = replace(landing_check.LandFish(self.trip, "pollack", 0.68, "total"), **changes)
        return landing.correct_fish(self.ctx, self.key(), landing.CorrectFish(fish, noted))

    def test_a_correction_is_a_later_row(self) -> None:
        fish = self.land(self.trip, weight_kg=2.91).subject_id
        people = trips.view_trip(self.ctx, self.trip).people
        self.correct(fish, length_m=0.66, weight_kg=2.8, caught_by=people[1].id,
                     hooked_at=NOON - timedelta(minutes=9))  # fmt: skip
        view = self.card(fish)
        self.assertEqual((view.row.now.length_m, view.row.weight.kg), (0.66, 2.8))
        self.assertEqual(view.row.caught_by, "Tobias")
        self.assertEqual(len(view.measurements), 4)
        self.assertEqual(view.row.fish.hooked_at, NOON - timedelta(minutes=9))

    def test_the_species_changes_until_pieces_are_weighed(self) -> None:
        fish = self.land(self.trip).subject_id
        self.correct(fish, species="cod")
        self.assertEqual(self.card(fish).row.species.key, "cod")
        self.weigh(fish, "gut", 0.3)
        with self.assertRaises(Refused) as caught:
            self.correct(fish, species="ling", length_m=0.9)
        self.assertIn("species", caught.exception.problems)

    def test_a_wrong_correction_changes_nothing(self) -> None:
        fish = self.land(self.trip).subject_id
        cases: list[tuple[dict[str, object], str]] = [
            ({"length_m": 9.0}, "length"),
            ({"weight_kg": -1.0}, "weight"),
            ({"party_id": "nobody"}, "party"),
            ({"landed_at": NOON + timedelta(hours=3)}, "landed_at"),
            ({"hooked_at": NOON + timedelta(hours=1)}, "hooked_at"),
            ({"hooked_at": NOON - timedelta(hours=20)}, "hooked_at"),
        ]
        for changes, field in cases:
            with self.subTest(field=field), self.assertRaises(Refused) as caught:
                self.correct(fish, **changes)
            self.assertEqual(list(caught.exception.problems), [field])
        self.assertEqual(self.card(fish).row.now.length_m, 0.68)

    def test_an_unknown_fish_is_not_found(self) -> None:
        with self.assertRaises(Unknown):
            self.correct("nothing")
        with self.assertRaises(Unknown):
            self.card("nothing")


class QueueTest(DeckTest):
    def land_late(self, key: str, waited_s: float) -> str:
        order = landing_check.LandFish(self.trip, "pollack", 0.68, "total", waited_s=waited_s)
        return landing.land_fish(self.ctx, key, order).subject_id

    def test_an_entry_that_waited_keeps_the_time_it_was_made(self) -> None:
        fish = self.land_late("queued-0001", 60.0)
        self.assertEqual(self.card(fish).row.fish.landed_at, NOON - timedelta(seconds=60))

    def test_the_same_entry_arriving_five_times_is_one_fish(self) -> None:
        # each try waited longer: that is no part of what it says
        ids = {self.land_late("queued-0002", 2.0 * n) for n in range(5)}
        self.assertEqual(len(ids), 1)
        self.assertEqual(len(slab.view_slab(self.ctx, self.trip).waiting), 1)

    def test_a_phones_clock_that_went_back_is_no_time_to_come(self) -> None:
        fish = self.land_late("queued-0003", -500.0)
        self.assertEqual(self.card(fish).row.fish.landed_at, NOON)

    def test_the_hour_that_comes_twice_in_autumn_is_told_apart(self) -> None:
        self.ctx = type(self.ctx)(**{**self.ctx.__dict__, "timezone": "Europe/Lisbon"})
        self.clock.at = datetime(2026, 10, 25, 2, 30, tzinfo=UTC)
        trip = self.start_trip(on_date=self.clock.at.date(), sea_c=14.0)
        fish = []
        for minutes in (95, 35):  # 01:55 summer time and 01:55 winter time on the wall
            order = landing_check.LandFish(trip, "cod", 0.7, "total", states=("bled", "iced"),
                                  landed_at=self.clock.at - timedelta(minutes=minutes))  # fmt: skip
            fish.append(landing.land_fish(self.ctx, self.key(), order).subject_id)
        first, second = (self.card(f).row.cold for f in fish)
        assert first
        assert second
        self.assertLess(first.core_c, second.core_c)


if __name__ == "__main__":
    unittest.main()
