"""One fish that lies there: trip, landing and board in one go, or nothing of it."""

from lepidos.core.errors import Refused
from lepidos.stations.deck.fish_in_hand import TakeInHand, take_in_hand
from lepidos.stations.table import fish_view
from lepidos.stations.trips import trips
from lepidos.store.records import Trip
from tests.app import AppTest


class InHandTest(AppTest):
    def take(self, key: str = "", **order: object) -> str:
        wanted = {"species": "pollack", "length_m": 0.68} | order
        return take_in_hand(self.ctx, key or self.key(), TakeInHand(**wanted)).subject_id

    def test_it_lies_on_a_board_of_a_trip_of_its_own_with_its_first_step(self) -> None:
        view = fish_view.view_fish(self.ctx, self.take())
        self.assertEqual((view.view.trip.name, view.view.trip.harbour), ("One fish", ""))
        self.assertIsNotNone(view.board)
        self.assertEqual(view.present.key, "look")
        self.assertEqual(view.now.facts, "")  # nothing is claimed of it

    def test_by_a_local_name_gutted_and_weighed(self) -> None:
        view = fish_view.view_fish(
            self.ctx, self.take(species="Spurdog", length_m=0.8, state="gutted", weight_kg=1.9)
        )
        self.assertEqual(view.species.key, "spiny_dogfish")
        self.assertEqual(view.now.gutted_kg, 1.9)
        self.assertNotIn("gut_out", [s.step.key for s in view.steps])

    def test_sent_again_it_is_the_same_fish(self) -> None:
        key = self.key()
        self.assertEqual(self.take(key), self.take(key))
        self.assertEqual(trips.list_trips(self.ctx)[1], 1)

    def test_what_cannot_be_leaves_no_trip_behind(self) -> None:
        for wrong, field in (
            ({"species": "unicorn"}, "species"),
            ({"length_m": 90.0}, "length"),
            ({"weight_kg": 400.0}, "weight"),
            ({"state": "asleep"}, "state"),
        ):
            with self.subTest(wrong=wrong), self.assertRaises(Refused) as caught:
                self.take(**wrong)
            self.assertEqual(list(caught.exception.problems), [field])
        self.assertEqual(trips.list_trips(self.ctx)[1], 0)


class OriginTest(AppTest):
    def start(self, kind: str) -> Trip:
        today = self.ctx.clock().date()
        order = trips.StartTrip("", kind, on_date=today)
        done = trips.start_trip(self.ctx, self.key(), order)
        return trips.view_trip(self.ctx, done.subject_id).trip

    def test_a_trip_is_called_after_where_its_fish_come_from_and_keeps_it(self) -> None:
        for kind, name, ashore in (
            ("kayak", "The kayak", "boat"),
            ("pier", "The pier", "shore"),
            ("bought", "Bought fish", "shore"),
        ):
            trip = self.start(kind)
            self.assertEqual((trip.name, trip.origin, trip.kind), (name, kind, ashore))
        with self.assertRaisesRegex(Refused, "where the fish come from"):
            self.start("balloon")
