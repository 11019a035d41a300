"""What writes over earlier rows is undone: everything is as it was, or it says why that cannot be."""

from dataclasses import asdict, replace
from datetime import timedelta

from lepidos.core.catch.rule_cards import RuleCard
from lepidos.core.errors import Conflict, Unknown
from lepidos.stations.base.context import Receipt
from lepidos.stations.base.waters import ChooseWaters, choose_waters, home_waters
from lepidos.stations.deck import catch_import, landing, landing_check, rule_cards
from lepidos.stations.freezer import places
from lepidos.stations.guide import own_guide
from lepidos.stations.schedule import boards
from lepidos.stations.trips import trips
from lepidos.stations.undo.undo import UndoRow, can_undo, undo_row
from lepidos.store.deck import fishes
from lepidos.store.schedule import boards as board_store
from lepidos.store.trips import trips as trip_store
from tests.app import NOON, AppTest

FISH = "species,length_cm,weight_kg\npollack,60,2.1\npollack,61,2.2\ncod,55,1.7\n"


class PutBackTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()

    def undo(self, done: Receipt) -> str:
        self.assertTrue(can_undo(done), done)
        return undo_row(self.ctx, self.key(), UndoRow(done.subject_kind, done.subject_id)).sentence

    def get_trip(self) -> trip_store.records.Trip:
        with self.ctx.store.reading():
            return trip_store.get(self.trip)

    def edit(self, **values: float) -> Receipt:
        return trips.edit_trip(self.ctx, self.key(), trips.EditTrip(self.trip, **values))

    def test_a_trips_settings_come_back_one_after_another_and_not_out_of_turn(self) -> None:
        first, second = self.edit(sea_c=13.0), self.edit(sea_c=14.0, ice_kg=20.0)
        with self.assertRaisesRegex(Conflict, "changed again since"):
            self.undo(first)
        self.assertEqual(self.undo(second), "Undone: Marram Lass: noted")
        self.assertEqual((self.get_trip().sea_c, self.get_trip().ice_kg), (13.0, None))
        self.undo(first)
        self.assertIsNone(self.get_trip().sea_c)
        with self.assertRaisesRegex(Conflict, "undone already"):
            self.undo(first)

    def test_a_later_revision_wins_where_two_files_meet(self) -> None:
        before = self.get_trip().revision
        self.undo(self.edit(sea_c=13.0))
        self.assertEqual(self.get_trip().revision, before + 2)

    def test_a_trip_is_undone_until_something_rests_on_it(self) -> None:
        order = trips.StartTrip("Spare", on_date=NOON.date(), people=("Ines",), parties=("Marsh",))
        done = trips.start_trip(self.ctx, self.key(), order)
        fish = self.land(done.subject_id)
        with self.assertRaisesRegex(Conflict, "rests on it"):
            self.undo(done)
        self.assertEqual(trips.view_trip(self.ctx, done.subject_id).parties[0].name, "Marsh")
        self.undo(fish)
        # the undone landing is still in the log, and needs its trip
        with self.assertRaisesRegex(Conflict, "rests on it"):
            self.undo(done)
        empty = trips.start_trip(self.ctx, self.key(), replace(order, name="Empty"))
        self.undo(empty)
        with self.assertRaises(Unknown):
            trips.view_trip(self.ctx, empty.subject_id)

    def test_a_correction_leaves_a_trace_and_comes_back(self) -> None:
        party = trips.view_trip(self.ctx, self.trip).parties[1].id
        fish = self.land(self.trip, "pollack", 68, weight_kg=2.9).subject_id
        noted = landing_check.LandFish(
            self.trip, "cod", 0.61, "total", weight_kg=2.3, party_id=party
        )
        done = landing.correct_fish(self.ctx, self.key(), landing.CorrectFish(fish, noted))
        self.undo(done)
        with self.ctx.store.reading():
            row, now = fishes.get(fish), fishes.now(fish)
        self.assertEqual((row.species, row.party_id), ("pollack", None))
        self.assertEqual((now.species, now.length_m, now.whole_kg), ("pollack", 0.68, 2.9))

    def test_a_kind_does_not_come_back_under_pieces_that_were_cut_as_another(self) -> None:
        fish = self.land(self.trip, "pollack", 68).subject_id
        noted = landing_check.LandFish(self.trip, "cod", 0.68, "total")
        done = landing.correct_fish(self.ctx, self.key(), landing.CorrectFish(fish, noted))
        self.weigh(fish, "gut", 0.2)
        with self.assertRaisesRegex(Conflict, "pieces weighed"):
            self.undo(done)
        with self.ctx.store.reading():
            self.assertEqual(fishes.now(fish).species, "cod")

    def test_a_board_its_settings_and_its_order_come_back(self) -> None:
        fish = [self.land(self.trip, cm=60 + n).subject_id for n in range(4)]
        made = boards.add_board(self.ctx, self.key(), boards.AddBoard(self.trip, "Ines"))
        board = made.subject_id
        held = lambda: board_store.holds_of([board])[board]  # noqa: E731
        first = boards.place_fish(self.ctx, self.key(), boards.PlaceFish(fish[3], board_id=board))
        with self.ctx.store.reading():
            before = held()
        second = boards.place_fish(self.ctx, self.key(), boards.PlaceFish(fish[2], board_id=board))
        closed = boards.set_board(self.ctx, self.key(), boards.SetBoard(board, closed=True))
        with self.ctx.store.reading():
            self.assertEqual(held(), [])
        self.undo(closed)
        self.undo(second)
        with self.ctx.store.reading():
            self.assertFalse(board_store.get(board).closed)
            self.assertEqual(held(), before)
        freed = boards.let_go(self.ctx, self.key(), boards.LetGo(self.trip))
        self.undo(freed)
        with self.ctx.store.reading():
            self.assertEqual(held(), before)
        self.undo(first)
        self.undo(made)
        with self.assertRaises(Unknown), self.ctx.store.reading():
            board_store.get(board)

    def test_a_board_to_which_fish_came_stays(self) -> None:
        fish = self.land(self.trip).subject_id
        made = boards.add_board(self.ctx, self.key(), boards.AddBoard(self.trip, "Ines"))
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish, made.subject_id))
        with self.assertRaisesRegex(Conflict, "close it instead"):
            self.undo(made)

    def test_when_a_party_leaves(self) -> None:
        party = trips.view_trip(self.ctx, self.trip).parties[0].id
        order = boards.SetParty(party, NOON + timedelta(hours=2), True)
        self.undo(boards.set_party(self.ctx, self.key(), order))
        found = trips.view_trip(self.ctx, self.trip).parties[0]
        self.assertEqual((found.leaves_at, found.together), (None, False))

    def test_a_place_goes_again_and_a_rule_card_thrown_away_comes_back_whole(self) -> None:
        place = places.add_place(self.ctx, self.key(), places.AddPlace("chest"))
        self.undo(place)
        self.assertEqual(places.all_places(self.ctx), [])
        card = RuleCard("cod", "Skarrow Bay", "invented", NOON.date(), min_cm=35.0, per_person=2)
        made = rule_cards.save_card(self.ctx, self.key(), rule_cards.SaveCard(card))
        read = lambda: asdict(rule_cards.get_card(self.ctx, made.subject_id))  # noqa: E731
        whole = read()
        less = rule_cards.SaveCard(replace(card, min_cm=None, per_person=1), made.subject_id)
        changed = rule_cards.save_card(self.ctx, self.key(), less)
        gone = rule_cards.remove_card(self.ctx, self.key(), rule_cards.RemoveCard(made.subject_id))
        self.undo(gone)
        self.assertIsNone(read()["min_cm"])
        self.undo(changed)
        self.assertEqual(read(), whole)
        self.undo(made)
        with self.assertRaises(Unknown):
            read()

    def test_what_a_crew_chose_is_what_it_chose_before(self) -> None:
        chosen = [
            choose_waters(self.ctx, self.key(), ChooseWaters((name,)))
            for name in ("north_east_atlantic", "mediterranean")
        ]
        self.undo(chosen[1])
        self.assertEqual(home_waters(self.ctx), ("north_east_atlantic",))
        self.undo(chosen[0])
        self.assertFalse(home_waters(self.ctx))

    def test_a_fish_of_ones_own_comes_back_into_the_guide_and_goes_from_it(self) -> None:
        text = own_guide.text_of(self.ctx, "species", "pollack")
        ours = self.ctx.guide.one("pollack").name
        named = text.replace(f'name = "{ours}"', 'name = "Quay pollack"', 1)
        kept = own_guide.save_own(
            self.ctx, self.key(), own_guide.SaveOwn("species", "pollack", named)
        )
        self.assertEqual(self.ctx.guide.one("pollack").name, "Quay pollack")
        gone = own_guide.remove_own(self.ctx, self.key(), own_guide.RemoveOwn("species", "pollack"))
        self.assertEqual(self.ctx.guide.one("pollack").name, ours)
        self.undo(gone)
        self.assertEqual(self.ctx.guide.one("pollack").name, "Quay pollack")
        self.undo(kept)
        self.assertEqual(self.ctx.guide.one("pollack").name, ours)

    def test_a_fish_of_ones_own_that_was_landed_stays(self) -> None:
        text = own_guide.text_of(self.ctx, "species", "pollack")
        text = text.replace('code = "P"', 'code = "QY"', 1)
        order = own_guide.SaveOwn("species", "quay_pollack", text)
        kept = own_guide.save_own(self.ctx, self.key(), order)
        self.land(self.trip, "quay_pollack")
        with self.assertRaisesRegex(Conflict, "used by fish"):
            self.undo(kept)
        self.assertIn("quay_pollack", self.ctx.guide.species)

    def test_a_file_of_fish_goes_as_one_unless_one_was_weighed(self) -> None:
        for rows in (3, 60):  # a long file comes in slices
            text = FISH + "".join(f"pollack,{40 + n / 10},\n" for n in range(rows - 3))
            order = catch_import.AcceptRows(self.trip, text)
            done = catch_import.accept_rows(self.ctx, self.key(), order)
            self.assertEqual(self.header(self.trip).fish_landed, rows)
            self.undo(done)
            self.assertEqual(self.header(self.trip).fish_landed, 0)
        done = catch_import.accept_rows(self.ctx, self.key(), replace(order, again=True))
        with self.ctx.store.reading():
            standing = [f.id for f, now in fishes.of_trip(self.trip) if now.stage == "slab"]
        self.weigh(standing[0], "gut", 0.2)
        with self.assertRaisesRegex(Conflict, "pieces weighed"):
            self.undo(done)
        self.assertEqual(self.header(self.trip).fish_landed, 60)
