"""Deck: landing, its questions and refusals, undo, and two at once."""

import hashlib
import threading
import unittest
from dataclasses import fields, make_dataclass, replace
from datetime import UTC, datetime, timedelta

import lepidos.stations.freezer.moves  # noqa: F401 - it says how moves are undone
from lepidos.core.errors import Conflict, Refused, Unknown
from lepidos.stations.base.digest import digest_of
from lepidos.stations.deck import handling, landing, landing_check, slab
from lepidos.stations.table import fish_view
from lepidos.stations.trips import trips
from lepidos.stations.undo import undo
from lepidos.store.deck import fishes
from lepidos.store.schema import EntryTable
from tests.app import NOON, AppTest


class TripTest(AppTest):
    def test_a_trip_has_its_people_and_parties(self) -> None:
        view = trips.view_trip(self.ctx, self.start_trip())
        self.assertEqual([p.name for p in view.people], ["Ines"])
        self.assertEqual([p.name for p in view.parties], ["Tolland", "Marsh"])
        self.assertEqual(self.header(str(view.trip.id)).fish_landed, 0)

    def test_each_wrong_field_is_named(self) -> None:
        with self.assertRaises(Refused) as caught:
            self.start_trip(
                name="N" * 61, harbour="H" * 61, kind="raft", on_date=NOON.date() + timedelta(days=900),
                people=("Ines", "ines"), parties=("x" * 90,),
            )  # fmt: skip
        self.assertEqual(
            set(caught.exception.problems),
            {"name", "harbour", "kind", "on_date", "people", "parties"},
        )
        self.assertEqual(trips.list_trips(self.ctx), ([], 0))

    def test_as_many_names_as_a_boat_can_hold_and_not_one_more(self) -> None:
        names = tuple(f"Guest {n}" for n in range(25))
        view = trips.view_trip(self.ctx, self.start_trip(people=names[:24]))
        self.assertEqual(len(view.people), 24)
        with self.assertRaises(Refused) as caught:
            self.start_trip(people=names)
        self.assertEqual(caught.exception.problems, {"people": "At most 24 names"})

    def test_only_the_date_must_be_said(self) -> None:
        for kind, name in (("boat", "The boat"), ("shore", "The shore")):
            trip = self.start_trip(name=" \n", harbour="", kind=kind, people=(), parties=())
            found = trips.view_trip(self.ctx, trip).trip
            self.assertEqual((found.name, found.harbour), (name, ""))

    def test_trips_are_listed_newest_first(self) -> None:
        old = self.start_trip(on_date=NOON.date() - timedelta(days=9))
        new = self.start_trip()
        self.assertEqual([t.id for t in trips.list_trips(self.ctx)[0]], [new, old])
        self.assertEqual(trips.latest_trip_id(self.ctx), new)


class LandingTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()

    def refused(self, **order: object) -> dict[str, str]:
        before = len(slab.view_slab(self.ctx, self.trip).waiting)
        with self.assertRaises(Refused) as caught:
            self.land(self.trip, **order)
        self.assertEqual(len(slab.view_slab(self.ctx, self.trip).waiting), before)
        return caught.exception.problems

    def test_a_weighed_fish_is_measured_and_an_unweighed_one_estimated(self) -> None:
        self.land(self.trip, weight_kg=2.91)
        self.land(self.trip)
        measured, guessed = slab.view_slab(self.ctx, self.trip).waiting
        self.assertTrue(measured.weight.measured)
        self.assertEqual(measured.weight.kg, 2.91)
        assert guessed.weight.estimate is not None
        self.assertTrue(
            guessed.weight.estimate.low < guessed.weight.kg < guessed.weight.estimate.high
        )

    def test_codes_count_up_by_species_and_are_not_used_again(self) -> None:
        first = self.land(self.trip)
        self.land(self.trip, "plaice", 43)
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("fish", first.subject_id))
        self.land(self.trip)
        codes = [f.fish.code for f in slab.view_slab(self.ctx, self.trip).waiting]
        self.assertEqual(sorted(codes), ["P2", "PL1"])

    def test_a_gutted_weight_is_worked_back_to_round(self) -> None:
        self.land(self.trip, "cod", 70, weight_kg=3.0, weighed_as="gutted")
        (fish,) = slab.view_slab(self.ctx, self.trip).waiting
        self.assertFalse(fish.weight.measured)
        self.assertAlmostEqual(fish.weight.kg, 3.51)

    def test_what_cannot_be_is_refused_at_its_field(self) -> None:
        cases: list[tuple[dict[str, object], str, str]] = [
            ({"species": "mackerel", "cm": 400}, "length", "longest known is about 65 cm"),
            (
                {"length_type": "disc_width"},
                "length_type",
                "No disc width is taken of pollack; use total",
            ),
            ({"length_type": "elbow"}, "length_type", "Say total, fork, standard"),
            ({"cm": 0}, "length", "Check the number"),
            ({"cm": -68}, "length", "Check the number"),
            ({"cm": float("nan")}, "length", "Check the number"),
            ({"weight_kg": 0.0}, "weight", "more than nothing"),
            ({"weight_kg": -2.0}, "weight", "more than nothing"),
            ({"weight_kg": float("nan")}, "weight", "more than nothing"),
            ({"weight_kg": 29.1}, "weight", "a decimal place"),
            ({"weighed_as": "boiled"}, "weighed_as", "whole, gutted or headed"),
            ({"species": "mermaid", "cm": 160}, "species", "No species called"),
            ({"party_id": "nobody"}, "party", "not on this trip"),
            ({"caught_by": "nobody"}, "caught_by", "not on this trip"),
            ({"states": ("boiled",)}, "states", "Unknown state"),
            ({"skin": "half"}, "skin", "on or off"),
            ({"landed_at": NOON + timedelta(hours=2)}, "landed_at", "still to come"),
            ({"landed_at": NOON + timedelta(minutes=10, seconds=1)}, "landed_at", "still to come"),
            ({"landed_at": NOON - timedelta(days=4)}, "landed_at", "before the trip"),
        ]
        for order, field, message in cases:
            with self.subTest(order=order):
                self.assertRegex(self.refused(**order)[field], message)

    def test_a_devices_clock_may_be_ten_minutes_fast(self) -> None:
        at = NOON + timedelta(minutes=10)
        fish = self.land(self.trip, landed_at=at).subject_id
        with self.ctx.store.reading():
            self.assertEqual(fishes.get(fish).landed_at, at)

    def test_an_odd_weight_is_landed_and_asked_about(self) -> None:
        done = self.land(self.trip, weight_kg=1.6)
        self.assertRegex(done.question, r"1\.60 kg for pollack of 68\.0 cm\? Usually")
        self.assertEqual(len(slab.view_slab(self.ctx, self.trip).waiting), 1)

    def test_questions_speak_the_crews_units(self) -> None:
        done = self.land(self.trip, weight_kg=1.6, system="imperial")
        self.assertRegex(done.question, r"3 lb 8\.4 oz for pollack of 26\.8 in")

    def test_an_unknown_trip_is_not_found(self) -> None:
        with self.assertRaises(Unknown):
            self.land("nowhere")

    def test_a_clock_that_steps_back_does_not_lose_or_reorder_keys(self) -> None:
        self.land(self.trip)
        self.clock.advance(minutes=-30)
        self.land(self.trip)
        self.assertEqual(len(slab.view_slab(self.ctx, self.trip).waiting), 2)

    def test_a_fish_landed_before_midnight_utc_on_a_summer_evening_is_of_that_day(self) -> None:
        late = datetime(2026, 7, 13, 23, 30, tzinfo=UTC)
        self.land(self.trip, landed_at=late)
        (fish,) = slab.view_slab(self.ctx, self.trip).waiting
        self.assertEqual(fish.fish.landed_at, late)

    def test_oily_and_unbled_fish_lie_first(self) -> None:
        self.land(self.trip)
        self.land(self.trip, "cod", 70, states=("iced",))
        self.land(self.trip, "mackerel", 37)
        codes = [f.fish.code for f in slab.view_slab(self.ctx, self.trip).waiting]
        self.assertEqual(codes, ["C1", "M1", "P1"])

    def test_a_state_is_noted_once(self) -> None:
        fish = self.land(self.trip, states=()).subject_id
        handling.mark_state(self.ctx, self.key(), handling.MarkState(fish, "bled"))
        for state, message in (("bled", "already"), ("boiled", "Unknown")):
            with self.assertRaisesRegex(Refused, message):
                handling.mark_state(self.ctx, self.key(), handling.MarkState(fish, state))
        (row,) = slab.view_slab(self.ctx, self.trip).waiting
        self.assertEqual(row.states, {"bled"})


class OnceTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.order = landing_check.LandFish(self.trip, "cod", 0.7, "total")

    def landed(self) -> int:
        return self.header(self.trip).fish_landed

    def test_the_same_request_five_times_lands_one_fish(self) -> None:
        answers = [landing.land_fish(self.ctx, "same-key-1", self.order) for _ in range(5)]
        self.assertEqual(self.landed(), 1)
        self.assertEqual(len({a.subject_id for a in answers}), 1)
        self.assertEqual([a.repeated for a in answers], [False] + [True] * 4)

    def test_a_key_used_for_something_else_is_a_conflict(self) -> None:
        landing.land_fish(self.ctx, "same-key-1", self.order)
        with self.assertRaisesRegex(Conflict, "sent before"):
            landing.land_fish(
                self.ctx, "same-key-1", landing_check.LandFish(self.trip, "cod", 0.8, "total")
            )
        self.assertEqual(self.landed(), 1)

    def test_a_retry_after_the_units_were_switched_is_the_same_order(self) -> None:
        landing.land_fish(self.ctx, "same-key-1", self.order)
        again = replace(self.order, system="imperial", waited_s=12.0)
        self.assertTrue(landing.land_fish(self.ctx, "same-key-1", again).repeated)

    def test_a_retry_is_known_after_the_app_was_renewed(self) -> None:
        landing.land_fish(self.ctx, "same-key-1", self.order)
        # a later version names the class otherwise and has a field more, at its default
        made = [(f.name, f.type, f) for f in fields(landing_check.LandFish)]
        later = make_dataclass("Landing", [*made, ("depth_m", float, 0.0)], frozen=True)
        self.assertEqual(digest_of(later(**vars(self.order))), digest_of(self.order))
        self.assertNotEqual(
            digest_of(later(**vars(self.order), depth_m=2.0)), digest_of(self.order)
        )

    def test_an_order_of_an_older_file_is_known_again(self) -> None:
        landing.land_fish(self.ctx, "same-key-1", self.order)
        with self.ctx.store.writing():
            # as it was made until 2026-11-26
            said = (
                f"LandFish(trip_id={self.trip!r}, species='cod', length_m=0.7, "
                "length_type='total', weight_kg=None, weighed_as='whole', party_id='', "
                "caught_by='', landed_at=None, hooked_at=None, states=(), skin='on', code='', "
                "method='typed', system='metric')"
            )
            old = hashlib.sha256(said.encode()).hexdigest()
            EntryTable.update(digest=old).where(EntryTable.key == "same-key-1").execute()
        self.assertTrue(landing.land_fish(self.ctx, "same-key-1", self.order).repeated)

    def test_only_plain_values_make_an_order(self) -> None:
        with self.assertRaisesRegex(TypeError, "plain"):
            digest_of(replace(self.order, code=object()))

    def test_a_missing_or_strange_key_is_refused(self) -> None:
        for key in ("", "short", "x" * 65, "has space 1", "null\x00null"):
            with self.subTest(key=key), self.assertRaises(Refused):
                landing.land_fish(self.ctx, key, self.order)

    def test_a_refused_order_leaves_its_key_free(self) -> None:
        with self.assertRaises(Refused):
            landing.land_fish(
                self.ctx, "same-key-1", landing_check.LandFish(self.trip, "cod", 9.0, "total")
            )
        landing.land_fish(self.ctx, "same-key-1", self.order)
        self.assertEqual(self.landed(), 1)

    def test_many_hands_at_once_get_a_fish_and_a_code_each(self) -> None:
        failures: list[BaseException] = []

        def land(hand: int) -> None:
            try:
                for k in range(5):
                    landing.land_fish(self.ctx, f"hand-{hand}-fish-{k}", self.order)
                    landing.land_fish(self.ctx, f"hand-{hand}-fish-{k}", self.order)
            except BaseException as error:
                failures.append(error)

        threads = [threading.Thread(target=land, args=(hand,)) for hand in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(failures, [])
        codes = [f.fish.code for f in slab.view_slab(self.ctx, self.trip).waiting]
        self.assertEqual(len(codes), 30)
        self.assertEqual(len(set(codes)), 30)


class UndoTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()

    def undo(self, kind: str, row: str) -> None:
        undo.undo_row(self.ctx, self.key(), undo.UndoRow(kind, row))

    def test_a_landing_taken_back_is_gone_from_the_slab_and_stays_in_the_file(self) -> None:
        fish = self.land(self.trip).subject_id
        self.undo("fish", fish)
        self.assertEqual(slab.view_slab(self.ctx, self.trip).waiting, ())
        self.assertEqual(fish_view.view_fish(self.ctx, fish).fish.code, "P1")
        with self.assertRaisesRegex(Refused, "undone"):
            self.weigh(fish, "gut", 0.3)
        with self.assertRaisesRegex(Refused, "undone"):
            handling.mark_state(self.ctx, self.key(), handling.MarkState(fish, "gutted"))

    def test_twice_is_a_conflict_and_unknown_things_are_refused(self) -> None:
        fish = self.land(self.trip).subject_id
        self.undo("fish", fish)
        with self.assertRaisesRegex(Conflict, "already"):
            self.undo("fish", fish)
        with self.assertRaises(Refused):
            self.undo("trip", fish)
        kinds = "fish", "fact", "reading", "look", "ice", "weighing", "sight", "fate", "bag", "move"
        for kind in kinds:
            with self.subTest(kind=kind), self.assertRaises(Unknown):
                self.undo(kind, "none")

    def test_a_fish_with_pieces_weighed_is_not_taken_back(self) -> None:
        fish = self.land(self.trip).subject_id
        self.weigh(fish, "gut", 0.3)
        with self.assertRaisesRegex(Conflict, "pieces weighed"):
            self.undo("fish", fish)


if __name__ == "__main__":
    unittest.main()
