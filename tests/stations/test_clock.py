"""A clock that went back between two starts, and entries that waited: each still has its effect."""

from dataclasses import replace
from datetime import timedelta
from random import Random

from lepidos.stations.deck import card, handling, landing, landing_check, slab
from lepidos.stations.freezer import freezer, moves, places
from lepidos.stations.pack import pack
from lepidos.stations.schedule import boards
from lepidos.stations.table import cutters, fish_view, steps, weighing
from lepidos.stations.trips import trips
from lepidos.stations.undo.undo import UndoRow, undo_row
from lepidos.store.base.ids import IdMaker
from tests.app import AppTest, kg_of


class ClockBackTest(AppTest):
    def start_again(self, **back: float) -> None:
        """As a machine without a battery: the same file, an earlier clock, another generator."""
        self.clock.advance(**{part: -value for part, value in back.items()})
        ids = IdMaker(Random(99), self.ctx.store.newest_id())
        self.ctx = replace(self.ctx, ids=ids)

    def test_a_bag_taken_out_is_out(self) -> None:
        trip = self.start_trip()
        fish = self.land(trip).subject_id
        self.weigh(fish, "fillet.A", 0.58)
        piece = pack.list_pieces(self.ctx, trip).waiting[0].weighing.id
        bag = self.seal(piece).subject_id
        place = places.add_place(self.ctx, self.key(), places.AddPlace("chest")).subject_id
        code = self.code_of(bag)
        moves.put_away(self.ctx, self.key(), moves.PutAway((code,), place))
        self.start_again(hours=1)
        moves.take_out(self.ctx, self.key(), moves.TakeOut((code,)))
        self.assertEqual(freezer.find_bag(self.ctx, code).row.now.state, "out")

    def test_a_correction_shows_the_new_length(self) -> None:
        trip = self.start_trip()
        fish = self.land(trip).subject_id
        self.start_again(hours=1)
        noted = landing_check.LandFish(trip, "pollack", 0.71, "total", weight_kg=3.1)
        landing.correct_fish(self.ctx, self.key(), landing.CorrectFish(fish, noted))
        row = slab.view_slab(self.ctx, trip).waiting[0]
        self.assertEqual((row.now.length_m, row.now.whole_kg), (0.71, 3.1))

    def test_where_a_fish_lies_is_where_it_was_put_last(self) -> None:
        trip = self.start_trip(sea_c=16.0)
        fish = self.land(trip, states=("bled",)).subject_id
        self.clock.advance(minutes=30)
        handling.mark_state(self.ctx, self.key(), handling.MarkState(fish, "iced"))
        self.start_again(hours=1)
        handling.mark_state(self.ctx, self.key(), handling.MarkState(fish, "unpacked"))
        row = slab.view_slab(self.ctx, trip).waiting[0]
        self.assertEqual(row.handled.lies, "unpacked")
        self.assertEqual(row.cold.lies, "unpacked")

    def test_a_pause_stops_the_time(self) -> None:
        trip = self.start_trip()
        fish = self.land(trip).subject_id
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish))
        self.start_again(minutes=40)
        cutters.pause_fish(self.ctx, self.key(), cutters.PauseFish(fish))
        time = fish_view.view_fish(self.ctx, fish).time
        self.assertTrue(time.paused)
        self.assertEqual(time.worked_s, 0.0)

    def test_the_last_look_and_the_last_ice_count(self) -> None:
        trip = self.start_trip(sea_c=16.0, ice_kg=40.0)
        fish = self.land(trip).subject_id
        handling.look_over(self.ctx, self.key(), handling.LookOver(fish, (("eyes", 2),)))
        trips.note_ice(self.ctx, self.key(), trips.NoteIce(trip, 30.0))
        self.start_again(hours=1)
        handling.look_over(self.ctx, self.key(), handling.LookOver(fish, (("eyes", 1),)))
        trips.note_ice(self.ctx, self.key(), trips.NoteIce(trip, 20.0))
        row = card.view_card(self.ctx, fish, "metric").row
        self.assertEqual(row.handled.looks["eyes"].points, 1)
        _, ice = trips.view_ice(self.ctx, trip)
        self.assertEqual(ice.aboard, 20.0)

    def test_a_finished_fish_is_finished_and_opens_again(self) -> None:
        trip = self.start_trip()
        fish = self.land(trip).subject_id
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish))
        self.weigh(fish, "fillet.A", 0.58)
        self.start_again(hours=1)
        self.weigh(fish, "fillet.B", 0.56)
        done = steps.close_fish(self.ctx, self.key(), steps.CloseFish(fish))
        self.assertTrue(fish_view.view_fish(self.ctx, fish).closed)
        self.assertGreaterEqual(fish_view.view_fish(self.ctx, fish).time.worked_s, 0.0)
        undo_row(self.ctx, self.key(), UndoRow("fact", done.subject_id))
        self.assertFalse(fish_view.view_fish(self.ctx, fish).closed)
        slots = [(w.piece, w.side) for w in fish_view.view_fish(self.ctx, fish).weighings]
        self.assertEqual(slots, [("fillet", "A"), ("fillet", "B")])

    def test_a_corrected_weighing_stands(self) -> None:
        fish = self.land(self.start_trip()).subject_id
        first = self.weigh(fish, "fillet.A", 5.8).subject_id
        self.start_again(days=2)
        weighing.correct_weighing(self.ctx, self.key(), weighing.CorrectWeighing(first, 0.58))
        self.assertEqual(kg_of(fish_view.view_fish(self.ctx, fish), "fillet", "A"), 0.58)

    def test_the_crew_is_told_until_the_clock_has_caught_up(self) -> None:
        trip = self.start_trip()
        self.land(trip)
        entered = self.clock()
        self.start_again(hours=1)
        self.land(trip)
        self.assertEqual(self.header(trip).clock_back, entered)
        self.clock.advance(hours=1)
        self.assertIsNone(self.header(trip).clock_back)

    def test_keys_rise_from_the_newest_in_the_file(self) -> None:
        trip = self.start_trip()
        first = self.land(trip).subject_id
        self.start_again(days=400)
        self.assertGreater(self.land(trip).subject_id, first)
        self.assertEqual(slab.view_slab(self.ctx, trip).last.fish.code, "P2")


class WaitedTest(AppTest):
    def test_a_pause_that_arrives_after_the_fish_went_to_another_board_counts_for_the_first(
        self,
    ) -> None:
        trip = self.start_trip()
        fish = self.land(trip).subject_id
        one, other = (
            boards.add_board(self.ctx, self.key(), boards.AddBoard(trip, name)).subject_id
            for name in ("Ines", "Tobias")
        )
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish, one))
        self.clock.advance(minutes=10)
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish, other))
        self.clock.advance(minutes=5)
        late = cutters.PauseFish(fish, waited_s=timedelta(minutes=10).total_seconds())
        cutters.pause_fish(self.ctx, self.key(), late)
        time = fish_view.view_fish(self.ctx, fish).time
        self.assertEqual((time.board_id, time.worked_s, time.paused), (other, 300.0, False))

    def test_pauses_that_arrive_out_of_order_never_make_time_negative(self) -> None:
        trip = self.start_trip()
        fish = self.land(trip).subject_id
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish))
        self.clock.advance(minutes=2)
        cutters.pause_fish(self.ctx, self.key(), cutters.PauseFish(fish))
        self.clock.advance(minutes=8)
        cutters.pause_fish(self.ctx, self.key(), cutters.PauseFish(fish, True))
        self.clock.advance(minutes=2)
        late = cutters.PauseFish(fish, waited_s=timedelta(minutes=5, seconds=30).total_seconds())
        cutters.pause_fish(self.ctx, self.key(), late)
        self.assertGreaterEqual(fish_view.view_fish(self.ctx, fish).time.worked_s, 120.0)
