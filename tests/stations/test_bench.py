"""The order of work on a trip: urgency, boards, breaks, parties, hands, and the search behind it."""

import itertools
import multiprocessing
import threading
import unittest
from concurrent.futures import BrokenExecutor, Executor, Future
from datetime import timedelta
from unittest.mock import patch

from lepidos.core.errors import Refused, Unknown
from lepidos.core.schedule.model import Cutter, Job
from lepidos.core.schedule.scheduler import Bench
from lepidos.stations.base import search
from lepidos.stations.base.search import OrderSearch, look
from lepidos.stations.deck import card, rule_cards, slab
from lepidos.stations.schedule import boards
from lepidos.stations.schedule.order import BenchOrder
from lepidos.stations.table import fish_view, queue, steps
from lepidos.stations.trips import trips
from tests.app import NOON, AppTest


class BenchTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip(sea_c=14.0, air_c=18.0)

    def order(self) -> BenchOrder:
        return queue.view_bench(self.ctx, self.trip).order

    def codes(self, board: str = "") -> list[str]:
        view = queue.view_bench(self.ctx, self.trip)
        rows = {b.id if b else "": row for b, row in view.rows}
        return [f.fish.code for f in rows[board or next(iter(rows))]]

    def board(self, name: str = "Ines") -> str:
        order = boards.AddBoard(self.trip, name)
        return boards.add_board(self.ctx, self.key(), order).subject_id

    def place(self, fish: str, neighbour: str = "", after: bool = False, board: str = "") -> None:
        order = boards.PlaceFish(fish, neighbour, after, board)
        boards.place_fish(self.ctx, self.key(), order)

    def start(self, fish: str, board: str = "") -> None:
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish, board))


class UrgencyTest(BenchTest):
    def test_warm_unbled_and_oily_fish_come_before_cold_lean_ones(self) -> None:
        self.land(self.trip, "ling", 98, states=("bled", "gutted", "iced"))
        self.land(self.trip, "mackerel", 37, states=("bled",))
        self.land(self.trip, "cod", 70, states=("iced",))
        self.clock.advance(hours=1)
        self.assertEqual(self.codes(), ["C1", "M1", "L1"])
        whys = {(p.why.why, p.why.weight) for p in self.order().places}
        # the mackerel's hours of histamine run, so it weighs as such though its ice life goes first
        self.assertEqual(whys, {("spoils", 2.0), ("spoils", 4.0), ("unbled", 2.0)})

    def test_each_place_has_its_reason_in_a_sentence(self) -> None:
        self.land(self.trip, "mackerel", 37, states=("bled",))
        ((_, (row,)),) = queue.view_bench(self.ctx, self.trip).rows
        self.assertRegex(
            queue.reason(self.ctx, row, "metric"),
            r"10 % of its life on ice .* 14\.0 °C at the core now",
        )
        self.assertRegex(queue.reason(self.ctx, row, "imperial"), r"57\.2 °F")

    def test_the_table_clears_when_the_last_fish_is_done(self) -> None:
        self.assertIsNone(self.order().clears_at)
        for _ in range(3):
            self.land(self.trip)
        order = self.order()
        self.assertEqual(order.clears_at, max(p.ends_at for p in order.places))
        header = self.header(self.trip)
        self.assertEqual(header.clears_at, order.clears_at)
        self.assertEqual(header.last, "P3 landed")

    def test_two_boards_clear_the_table_sooner(self) -> None:
        for _ in range(6):
            self.land(self.trip)
        alone = self.order().clears_at
        self.board("Ines")
        self.board("Tobias")
        both = self.order()
        assert alone
        assert both.clears_at
        self.assertLess(both.clears_at, alone)
        self.assertEqual({p.cutter for p in both.places}, {"Ines", "Tobias"})


class BoardTest(BenchTest):
    def test_a_break_keeps_the_board_free(self) -> None:
        board = self.board()
        for _ in range(4):
            self.land(self.trip)
        begin, end = NOON + timedelta(minutes=10), NOON + timedelta(minutes=40)
        order = boards.SetBoard(board, None, begin, end)
        boards.set_board(self.ctx, self.key(), order)
        for p in self.order().places:
            self.assertFalse(p.starts_at < end and p.ends_at > begin, p)

    def test_a_board_opens_when_its_cutter_comes(self) -> None:
        board, later = self.board(), NOON + timedelta(hours=2)
        self.land(self.trip)
        boards.set_board(self.ctx, self.key(), boards.SetBoard(board, later))
        self.assertGreaterEqual(self.order().places[0].starts_at, later)

    def test_what_cannot_be_is_refused_at_its_field(self) -> None:
        board = self.board()
        for name, field in (("", "cutter"), ("x" * 61, "cutter"), ("ines", "cutter")):
            with self.subTest(name=name), self.assertRaises(Refused) as caught:
                self.board(name)
            self.assertIn(field, caught.exception.problems)
        for begin, end in ((1, None), (30, 10), (0, 60 * 9)):
            order = boards.SetBoard(
                board, None, NOON + timedelta(minutes=begin),
                None if end is None else NOON + timedelta(minutes=end),
            )  # fmt: skip
            with self.subTest(end=end), self.assertRaises(Refused) as caught:
                boards.set_board(self.ctx, self.key(), order)
            self.assertIn("break_to", caught.exception.problems)
        for name in ("Tobias", "Maud", "Piet"):
            self.board(name)
        with self.assertRaisesRegex(Refused, "At most 4 boards"):
            self.board("Adaeze")

    def test_a_left_hand_is_remembered_on_the_next_trip_and_a_first_time_is_not(self) -> None:
        def hands(board: str) -> tuple[str, bool]:
            found = next(b for b in self.order().boards if b.id == board)
            return found.hand, found.first_time

        board = self.board()
        self.assertEqual(hands(board), ("", False))
        both = boards.SetBoard(board, left_handed=True, first_time=True)
        boards.set_board(self.ctx, self.key(), both)
        self.assertEqual(hands(board), ("left", True))
        boards.set_board(self.ctx, self.key(), boards.SetBoard(board))
        self.assertEqual(hands(board), ("left", True))
        self.trip = self.start_trip()
        self.assertEqual(hands(self.board("ines")), ("left", False))
        self.assertEqual(hands(self.board("Tobias")), ("", False))

    def test_a_closed_board_lets_its_fish_go(self) -> None:
        one, other = self.board("Ines"), self.board("Tobias")
        fish = [self.land(self.trip).subject_id for _ in range(4)]
        self.place(fish[0], board=other)
        self.assertTrue(self.order().of_fish(fish[0]).held)  # type: ignore[union-attr]
        boards.set_board(self.ctx, self.key(), boards.SetBoard(other, closed=True))
        found = self.order()
        self.assertEqual({p.board_id for p in found.places}, {one})
        self.assertFalse(any(p.held for p in found.places))


class PartyTest(BenchTest):
    def test_a_party_that_leaves_soon_is_cut_and_packed_before(self) -> None:
        parties = trips.view_trip(self.ctx, self.trip).parties
        for n in range(6):
            self.land(self.trip, party_id=parties[n % 2].id)
        leaves = NOON + timedelta(minutes=60)
        boards.set_party(self.ctx, self.key(), boards.SetParty(parties[1].id, leaves))
        rows = slab.view_slab(self.ctx, self.trip).waiting
        marsh = [r for r in rows if r.party == "Marsh"]
        for row in marsh:
            assert row.place
            self.assertEqual(row.place.why.why, "party")
            # the guide keeps twenty minutes for packing (common practice)
            self.assertLessEqual(row.place.ends_at, leaves - timedelta(minutes=20))
            self.assertEqual(row.place.due_at, leaves - timedelta(minutes=20))

    def test_parties_asked_together_are_cut_one_after_the_other(self) -> None:
        parties = trips.view_trip(self.ctx, self.trip).parties
        for n in range(8):
            self.land(self.trip, cm=60 + n, party_id=parties[n % 2].id)
        self.assertGreater(self.changes(), 2)
        before = self.order().clears_at
        for party in parties:
            boards.set_party(self.ctx, self.key(), boards.SetParty(party.id, together=True))
        self.assertEqual(self.changes(), 1)
        # clearing the board for the other party takes a minute and a half (guide/bench.toml)
        self.assertEqual(self.ctx.guide.bench.party_change_min, 1.5)
        after = self.order().clears_at
        assert before is not None
        assert after is not None
        self.assertAlmostEqual((after - before).total_seconds(), 90, delta=1)

    def test_a_board_of_another_trip_takes_no_fish_of_this_one(self) -> None:
        other = self.start_trip()
        board = boards.add_board(self.ctx, self.key(), boards.AddBoard(other, "Ines")).subject_id
        fish = self.land(self.trip).subject_id
        with self.assertRaises(Unknown):
            boards.start_fish(self.ctx, self.key(), boards.StartFish(fish, board))

    def changes(self) -> int:
        ((_, row),) = queue.view_bench(self.ctx, self.trip).rows
        return sum(a.party != b.party for a, b in itertools.pairwise(row))

    def test_a_day_that_is_far_off_is_asked_about(self) -> None:
        party = trips.view_trip(self.ctx, self.trip).parties[0]
        with self.assertRaises(Refused):
            boards.set_party(
                self.ctx, self.key(), boards.SetParty(party.id, NOON + timedelta(days=9))
            )


class HandTest(BenchTest):
    def setUp(self) -> None:
        super().setUp()
        self.mine = self.board("Ines")
        self.fish = [self.land(self.trip, cm=60 + n).subject_id for n in range(5)]

    def ids(self) -> list[str]:
        return [p.fish_id for p in self.order().of_board(self.mine)]

    def test_a_fish_put_first_stays_first_through_every_change(self) -> None:
        last = self.ids()[-1]
        self.place(last)
        self.assertEqual(self.ids()[0], last)
        self.land(self.trip, "mackerel", 37, states=())
        self.assertEqual(self.ids()[0], last)
        self.assertTrue(self.order().of_fish(last).held)  # type: ignore[union-attr]

    def test_before_and_after_a_neighbour(self) -> None:
        ids = self.ids()
        self.place(ids[4], ids[1])
        self.assertEqual(self.ids()[:2], [ids[0], ids[4]])
        self.place(ids[0], ids[4], after=True)
        self.assertEqual(self.ids()[:2], [ids[4], ids[0]])

    def test_to_another_board(self) -> None:
        other = self.board("Tobias")
        self.place(self.fish[0], board=other)
        self.assertEqual(self.order().of_board(other)[0].fish_id, self.fish[0])

    def test_let_go_gives_every_place_back(self) -> None:
        before = self.ids()
        self.place(before[-1])
        done = boards.let_go(self.ctx, self.key(), boards.LetGo(self.trip))
        self.assertEqual(done.sentence, "1 fish let go")
        self.assertEqual(sorted(self.ids()), sorted(before))
        self.assertEqual(queue.view_bench(self.ctx, self.trip).held, 0)

    def test_a_fish_in_hand_is_neither_moved_nor_overtaken(self) -> None:
        ids = self.ids()
        self.start(ids[2], self.mine)
        self.assertEqual(self.ids()[0], ids[2])
        with self.assertRaisesRegex(Refused, "on the board"):
            self.place(ids[2])
        self.place(ids[4])
        self.assertEqual(self.ids()[:2], [ids[2], ids[4]])
        with self.assertRaisesRegex(Refused, "already"):
            self.start(ids[2], self.mine)

    def test_a_finished_or_withdrawn_fish_is_not_put_anywhere(self) -> None:
        self.weigh(self.fish[0], "gut", 0.3)
        steps.close_fish(self.ctx, self.key(), steps.CloseFish(self.fish[0]))
        with self.assertRaisesRegex(Refused, "does not wait"):
            self.place(self.fish[0])
        with self.assertRaisesRegex(Refused, "finished"):
            self.start(self.fish[0])
        with self.assertRaises(Unknown):
            self.place("nothing")

    def test_a_crew_without_boards_gets_one_when_it_needs_one(self) -> None:
        self.trip = self.start_trip(sea_c=14.0)
        fish = self.land(self.trip).subject_id
        self.land(self.trip)
        self.start(fish)
        (board,) = self.order().boards
        self.assertEqual(board.name, "The board")


class PaceTest(BenchTest):
    def test_minutes_are_learned_from_finished_fish(self) -> None:
        board = self.board()
        before = self.land(self.trip).subject_id
        expected = self.order().of_fish(before)
        assert expected
        for _ in range(8):
            fish = self.land(self.trip).subject_id
            self.start(fish, board)
            self.clock.advance(minutes=30)
            self.weigh(fish, "gut", 0.3)
            steps.close_fish(self.ctx, self.key(), steps.CloseFish(fish))
        order = self.order()
        self.assertEqual(order.pace.learned_from, 8)
        slower = order.of_fish(before)
        assert slower
        self.assertGreater(slower.minutes, 1.8 * expected.minutes)

    def test_a_fish_on_the_board_needs_only_the_rest_of_its_time(self) -> None:
        board = self.board()
        fish = self.land(self.trip).subject_id
        whole = self.order().places[0].minutes
        self.start(fish, board)
        self.clock.advance(minutes=2)
        self.assertAlmostEqual(self.order().places[0].minutes, whole - 2, delta=0.02)


class NowExecutor(Executor):
    """Runs at once, or later when told to."""

    def __init__(self) -> None:
        self.waiting: list[tuple[Future, object]] = []

    def submit(self, fn, /, *args, **kwargs):  # type: ignore[override]
        future: Future = Future()
        self.waiting.append((future, lambda: fn(*args, **kwargs)))
        return future

    def run(self) -> None:
        for future, do in self.waiting:
            future.set_result(do())
        self.waiting.clear()


def crowded(fish: int = 12) -> Bench:
    jobs = [
        Job(f"F{k}", 0.0, 600.0 + 37 * (k * 5 % fish), 1.0 + k % 3, "white" if k % 2 else "dark",
            (300.0 + 41 * (k * 7 % fish),))
        for k in range(fish)
    ]  # fmt: skip
    return Bench(jobs, [Cutter("Ines")], {("dark", "white"): 180.0, ("white", "dark"): 60.0})


class SearchTest(unittest.TestCase):
    def setUp(self) -> None:
        self.executor = NowExecutor()
        self.search = OrderSearch(lambda: self.executor, None, 0.3)
        self.news = 0

        def count() -> None:
            self.news += 1

        self.search.on_news = count

    def ask(self, bench_now: Bench, mark: str = "a"):
        return self.search.order("trip", mark, ["board"], bench_now)

    def test_the_first_answer_does_not_wait_and_a_better_one_replaces_it(self) -> None:
        table_now = crowded()
        first = self.ask(table_now)
        self.assertTrue(self.search.is_searching("trip"))
        self.executor.run()
        self.assertFalse(self.search.is_searching("trip"))
        self.assertEqual(self.news, 1)
        better = self.ask(table_now)
        self.assertLess(better.lateness, first.lateness)
        self.assertEqual(better.how, "best found")
        self.assertFalse(better.proven)

    def test_up_to_ten_fish_the_background_proves_the_best(self) -> None:
        table_now = crowded(10)
        self.ask(table_now)
        self.executor.run()
        found = self.ask(table_now)
        exact = table_now.exact()
        assert exact
        self.assertTrue(found.proven)
        self.assertLessEqual(found.lateness, exact.lateness * 1.01 + 1)

    def test_a_search_whose_process_died_is_started_anew_and_shuts_no_page(self) -> None:
        class Dead(NowExecutor):
            def submit(self, *args: object, **kwargs: object):
                raise BrokenExecutor("killed")

        executors = [self.executor, Dead()]
        self.search = OrderSearch(executors.pop, None, 0.3)
        first = self.ask(crowded())
        self.assertTrue(self.search.is_searching("trip"))
        self.executor.run()
        self.assertLess(self.ask(crowded()).lateness, first.lateness)

    def test_an_answer_for_a_table_that_has_changed_is_dropped(self) -> None:
        self.ask(crowded(), "a")
        stale, self.executor.waiting = self.executor.waiting, []
        self.ask(crowded(11), "b")
        for future, do in stale:
            future.set_result(do())  # type: ignore[operator]
        self.assertTrue(self.search.is_searching("trip"))
        self.assertEqual(self.news, 0)

    def test_the_same_table_is_not_searched_twice(self) -> None:
        for _ in range(5):
            self.ask(crowded())
        self.assertEqual(len(self.executor.waiting), 1)

    def test_a_search_that_fails_leaves_the_first_answer(self) -> None:
        first = self.ask(crowded())
        ((future, _),) = self.executor.waiting
        with self.assertLogs("lepidos.stations.base.search", "ERROR"):
            future.set_exception(RuntimeError("the worker died"))
        self.assertEqual(self.ask(crowded()).sequences, first.sequences)

    def test_the_worker_stops_in_time(self) -> None:
        found = look(crowded(40), crowded(40).dispatch(), 1, 0.2)
        self.assertLessEqual(found.lateness, crowded(40).dispatch().lateness)

    def test_a_small_table_is_proven_unless_a_newer_one_is_wanted(self) -> None:
        small = crowded(6)
        exact = small.exact()
        assert exact
        wanted = multiprocessing.Value("q", 3)
        with patch.object(search, "_wanted", wanted):
            self.assertEqual(look(small, small.dispatch(), 3, 0.2).how, exact.how)
            self.assertNotEqual(look(small, small.dispatch(), 2, 0.2).how, exact.how)

    def test_a_search_that_is_closed_looks_for_nothing(self) -> None:
        self.search.close()
        self.assertTrue(self.ask(crowded()).sequences)
        self.assertEqual(self.executor.waiting, [])
        self.assertFalse(self.search.is_searching("trip"))

    def test_many_threads_may_ask_at_once(self) -> None:
        found: list[object] = []
        threads = [
            threading.Thread(target=lambda: found.append(self.ask(crowded()).sequences))
            for _ in range(8)
        ]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
        self.assertEqual(len(set(map(str, found))), 1)
        self.assertEqual(len(found), 8)


class RulesTest(BenchTest):
    def save(self, **changes: object) -> str:
        values: dict[str, object] = {
            "species": "pollack", "area": "Skarrow Bay", "source": "invented", "checked_on": NOON.date(),
            "min_cm": 57.0, "per_person": 1, "per_boat": 3,
        }  # fmt: skip
        order = rule_cards.SaveCard(rule_cards.RuleCard(**(values | changes)))  # type: ignore[arg-type]
        return rule_cards.save_card(self.ctx, self.key(), order).subject_id

    def test_a_landing_near_a_limit_is_asked_about_and_landed(self) -> None:
        self.save()
        people = trips.view_trip(self.ctx, self.trip).people
        done = self.land(self.trip, cm=57.3, caught_by=people[0].id)
        self.assertRegex(
            done.question, "within measuring error of the card's smallest size, 57.0 cm"
        )
        self.assertRegex(done.question, "Ines now 1 fish of the card's 1")
        second = self.land(self.trip, cm=70, caught_by=people[0].id)
        self.assertIn("Ines now 2 fish of the card's 1, 1 over", second.question)
        self.assertEqual(len(slab.view_slab(self.ctx, self.trip).waiting), 2)

    def test_only_who_caught_it_and_the_boat_are_spoken_of(self) -> None:
        self.save(min_cm=None)
        trip = self.start_trip(people=("Ines", "Tobias"))
        ines, tobias = trips.view_trip(self.ctx, trip).people
        self.land(trip, cm=70, caught_by=ines.id)
        question = self.land(trip, cm=70, caught_by=tobias.id).question
        self.assertIn("Tobias now 1 fish", question)
        self.assertNotIn("Ines", question)

    def test_no_sentence_says_that_a_fish_may_be_kept(self) -> None:
        self.save(max_cm=70.0, season_from=(1, 1), season_to=(2, 1))
        for cm in (40, 57, 60, 75):
            fish = self.land(self.trip, cm=cm).subject_id
            for verdict in card.view_card(self.ctx, fish, "metric").verdicts:
                self.assertNotRegex(verdict.text.lower(), r"\b(legal|allowed|safe|may be kept)\b")

    def test_what_a_card_says_to_the_knife_stands_at_the_bench(self) -> None:
        self.save(fillet_at_sea="no", skin_patch=True, keep_carcass=True)
        fish = self.land(self.trip).subject_id
        notes = fish_view.view_fish(self.ctx, fish).rule_notes
        self.assertEqual(len(notes), 3)
        self.assertIn("no filleting at sea, your card says", notes[0])
        other = self.land(self.trip, "cod", 70).subject_id
        self.assertEqual(fish_view.view_fish(self.ctx, other).rule_notes, ())

    def test_live_counts_follow_landing_and_undo(self) -> None:
        self.save()
        people = trips.view_trip(self.ctx, self.trip).people
        self.land(self.trip, caught_by=people[0].id)
        _, (view,) = rule_cards.list_cards(self.ctx, self.trip)
        assert view.tallies.boat
        self.assertEqual([(t.who, t.kept) for t in view.tallies.persons], [("Ines", 1)])
        self.assertEqual(view.tallies.boat.left, 2)

    def test_possession_counts_the_trips_before(self) -> None:
        self.save(possession=2, per_person=None, per_boat=None)
        for days in (20, 3, 0):
            trip = self.start_trip(on_date=NOON.date() - timedelta(days=days))
            people = trips.view_trip(self.ctx, trip).people
            self.clock.at = NOON - timedelta(days=days)
            self.land(trip, caught_by=people[0].id)
        _, (view,) = rule_cards.list_cards(self.ctx, trip)
        self.assertEqual([(t.who, t.kept) for t in view.tallies.possession], [("Ines", 2)])

    def test_a_minimum_over_the_maximum_and_a_second_card_are_refused(self) -> None:
        with self.assertRaises(Refused) as caught:
            self.save(min_cm=60.0, max_cm=50.0)
        self.assertIn("max_cm", caught.exception.problems)
        self.save()
        with self.assertRaises(Refused) as caught:
            self.save()
        self.assertIn("area", caught.exception.problems)
        with self.assertRaises(Refused) as caught:
            self.save(species="mermaid")
        self.assertIn("species", caught.exception.problems)

    def test_a_card_is_changed_and_thrown_away(self) -> None:
        card_id = self.save(season_from=(11, 1), season_to=(2, 28))
        kept = rule_cards.get_card(self.ctx, card_id)
        self.assertEqual((kept.season_from, kept.season_to), ((11, 1), (2, 28)))
        changed = rule_cards.SaveCard(
            rule_cards.RuleCard("pollack", "Skarrow Bay", "invented", NOON.date()), card_id
        )
        rule_cards.save_card(self.ctx, self.key(), changed)
        self.assertIsNone(rule_cards.get_card(self.ctx, card_id).min_cm)
        rule_cards.remove_card(self.ctx, self.key(), rule_cards.RemoveCard(card_id))
        with self.assertRaises(Unknown):
            rule_cards.get_card(self.ctx, card_id)


if __name__ == "__main__":
    unittest.main()
