"""The cutting session: loads, trays, joint weighings, questions, pauses, what was seen, fates."""

import threading
from collections.abc import Callable
from dataclasses import replace
from random import Random

from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from lepidos.core.errors import Conflict, Refused, Unknown
from lepidos.devices.freezer_logger import SimulatedLogger
from lepidos.devices.probe import SimulatedProbe
from lepidos.stations.base.trials import fillets
from lepidos.stations.deck import handling
from lepidos.stations.freezer import places, temperature
from lepidos.stations.pack import label
from lepidos.stations.schedule import boards
from lepidos.stations.table import byproducts, cutters, findings, fish_view, load, steps, weighing
from lepidos.stations.table.spots import Spot
from lepidos.stations.undo import undo
from lepidos.stations.yieldbook import every_fish
from lepidos.stations.yieldbook.book_figures import BookSelection
from lepidos.stations.yieldbook.season import view_season
from lepidos.stations.yieldbook.yieldbook import view_book
from lepidos.store.base.rows import plain_sql
from lepidos.store.deck import fish_now, fishes
from lepidos.store.table import sessions
from lepidos.store.yieldbook import trials as stored
from tests.app import NOON, AppTest, kg_of


class SessionTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.fish = self.land(self.trip, weight_kg=2.91).subject_id

    def view(self, fish: str = "") -> fish_view.TableView:
        return fish_view.view_fish(self.ctx, fish or self.fish)

    def undo(self, kind: str, row: str) -> str:
        order = undo.UndoRow(kind, row)
        return undo.undo_row(self.ctx, self.key(), order).sentence

    def close(self, fish: str = "") -> str:
        order = steps.CloseFish(fish or self.fish)
        return steps.close_fish(self.ctx, self.key(), order).subject_id

    def take(self, slot: str, **more: object):
        piece, _, side = slot.partition(".")
        order = weighing.WeighPiece(self.fish, piece, side, **more)
        return weighing.weigh_piece(self.ctx, self.key(), order)

    def board(self, name: str = "Ines") -> str:
        return boards.add_board(self.ctx, self.key(), boards.AddBoard(self.trip, name)).subject_id

    def start(self, board: str, fish: str = "") -> None:
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish or self.fish, board))

    def keys(self) -> list[str]:
        return [q.key.split(".")[0] for q in self.view().questions]


class OtherKindsTest(SessionTest):
    def test_rays_and_squid_go_through_the_day_as_fish_do(self) -> None:
        for kind, slots, kg in (
            ("thornback_ray", ("wing.A", "wing.B"), 2.2),
            ("common_stingray", ("wing.A", "wing.B"), 1.6),
            ("european_squid", ("tube", "arms", "squid_fins"), 0.34),
        ):
            with self.subTest(kind=kind):
                self.fish = self.land(self.trip, species=kind, weight_kg=kg).subject_id
                expected = self.view().expected
                self.assertLessEqual(set(slots), set(expected))
                for slot in slots:
                    self.take(slot, kg=expected[slot].value)
                view = self.view()
                self.assertEqual(view.questions, ())
                self.assertTrue(view.fillets_complete)
                said = findings.NoteSight(
                    self.fish,
                    "worms",
                    spot=Spot(
                        slots[0].split(".")[0], "A" if "." in slots[0] else "", across_m=0.01
                    ),
                )
                findings.note_sight(self.ctx, self.key(), said)
                self.close()
                self.assertTrue(self.view().closed)


class Slow:
    """A device that lets somebody else write while it is read."""

    def __init__(self, device: object, meanwhile: Callable[[], None]) -> None:
        self._device, self._meanwhile = device, meanwhile

    def __getattr__(self, name: str) -> object:
        if name in {"settled", "read_c", "since"}:
            self._meanwhile()
        return getattr(self._device, name)


class FirstReadTest(SessionTest):
    """The file is not held while a device is read."""

    def test_others_write_while_a_scale_a_probe_or_a_logger_is_read(self) -> None:
        written = []

        def meanwhile() -> None:
            writer = threading.Thread(target=self.land, args=(self.trip,), daemon=True)
            writer.start()
            writer.join(5)
            written.append(not writer.is_alive())

        self.scale.put_on(0.4)
        other = self.land(self.trip).subject_id
        place = places.add_place(self.ctx, self.key(), places.AddPlace("chest")).subject_id
        logger, probe = SimulatedLogger(lambda: NOON.timestamp(), Random(1)), SimulatedProbe()
        probe.set_to(3.0)
        logger.set_to(-18.0)
        ctx = replace(
            self.ctx,
            scale=Slow(self.scale, meanwhile),
            probe=Slow(probe, meanwhile),
            logger=Slow(logger, meanwhile),
        )
        weighing.weigh_piece(ctx, self.key(), weighing.WeighPiece(self.fish, "fillet", "A"))
        handling.read_core(ctx, self.key(), handling.ReadCore(other))
        temperature.read_logger(ctx, self.key(), temperature.ReadLogger(place))
        self.assertEqual(written, [True, True, True])

    def test_a_repeated_request_reads_nothing_again(self) -> None:
        self.scale.put_on(0.4)
        key, order = self.key(), weighing.WeighPiece(self.fish, "fillet", "A")
        first = weighing.weigh_piece(self.ctx, key, order)
        self.scale.unplug()
        again = weighing.weigh_piece(self.ctx, key, order)
        self.assertEqual((again.subject_id, again.repeated), (first.subject_id, True))


class LoadTest(SessionTest):
    def test_one_load_is_taken_once(self) -> None:
        self.scale.put_on(0.412)
        self.scale.rest()
        self.take("fillet.A")
        with self.assertRaises(Refused) as caught:
            self.take("fillet.B")
        self.assertIn("was taken as P1 fillet A", caught.exception.problems["weight"])

    def test_after_an_undo_the_same_load_may_be_taken_as_another_piece(self) -> None:
        self.scale.put_on(0.412)
        self.scale.rest()
        self.undo("weighing", self.take("fillet.A").subject_id)
        self.take("fillet.B")
        self.assertAlmostEqual(kg_of(self.view(), "fillet", "B"), 0.412, delta=0.0011)

    def test_in_one_tray_only_what_came_on_counts(self) -> None:
        for total, slot in ((0.6, "fillet.A"), (0.69, "belly.A"), (0.735, "collar.A")):
            self.scale.put_on(total)
            self.scale.rest()
            self.take(slot, in_tray=True)
        view = self.view()
        self.assertAlmostEqual(kg_of(view, "fillet", "A"), 0.6, delta=0.002)
        self.assertAlmostEqual(kg_of(view, "belly", "A"), 0.09, delta=0.003)
        self.assertAlmostEqual(kg_of(view, "collar", "A"), 0.045, delta=0.003)
        self.assertAlmostEqual(view.now.weighed_kg, 0.735, delta=0.002)

    def test_an_emptied_tray_begins_anew(self) -> None:
        self.scale.put_on(0.6)
        self.scale.rest()
        self.take("fillet.A", in_tray=True)
        self.scale.put_on(0.0)
        self.scale.rest()
        self.scale.put_on(0.58)
        self.scale.rest()
        self.take("fillet.B", in_tray=True)
        self.assertAlmostEqual(kg_of(self.view(), "fillet", "B"), 0.58, delta=0.002)

    def test_a_tray_that_became_lighter_was_emptied_and_holds_a_new_piece(self) -> None:
        # the same stretch of the display: the cat took the first piece while the second was laid on
        self.take("fillet.A", shown=load.Taken(0.600, "abc.3.1"), in_tray=True)
        self.take("fillet.B", shown=load.Taken(0.350, "abc.3.2"), in_tray=True)
        self.take("belly.A", shown=load.Taken(0.440, "abc.3.3"), in_tray=True)
        view = self.view()
        self.assertAlmostEqual(kg_of(view, "fillet", "B"), 0.350, places=9)
        self.assertAlmostEqual(kg_of(view, "belly", "A"), 0.090, places=9)

    def test_what_the_page_showed_is_what_is_booked(self) -> None:
        self.take("fillet.A", shown=load.Taken(0.571, "abc.3.9"))
        (row,) = self.view().weighings
        self.assertEqual((row.kg, row.method, row.load_mark), (0.571, "scale", "abc.3.9"))
        with self.assertRaisesRegex(Refused, "taken as P1 fillet A"):
            self.take("gut", shown=load.Taken(0.571, "abc.3.9"))

    def test_a_weighing_that_waited_has_its_own_time(self) -> None:
        self.clock.advance(hours=1)
        self.take("fillet.A", kg=0.6, waited_s=600)
        (row,) = self.view().weighings
        self.assertEqual((self.clock() - row.at).total_seconds(), 600)

    def test_waits_and_finishes_that_waited_count_from_when_they_were_done(self) -> None:
        self.start(self.board())
        self.clock.advance(minutes=30)
        order = cutters.PauseFish(self.fish, waited_s=20 * 60)
        cutters.pause_fish(self.ctx, self.key(), order)
        time = self.view().time
        assert time is not None
        self.assertEqual((time.worked_s, time.paused), (600, True))
        cutters.pause_fish(self.ctx, self.key(), cutters.PauseFish(self.fish, go_on=True))
        self.take("fillet.A", kg=0.6)
        self.clock.advance(minutes=60)
        steps.close_fish(self.ctx, self.key(), steps.CloseFish(self.fish, waited_s=55 * 60))
        time = self.view().time
        assert time is not None
        self.assertEqual(time.worked_s, 900)

    def test_a_retry_that_waited_longer_is_the_same_weighing(self) -> None:
        # the first request arrived and its answer was lost: the browser sends it again, later
        key = self.key()
        for waited_s in (0.4, 61.0, 3600.0):
            order = weighing.WeighPiece(self.fish, "gut", "", 0.4, waited_s=waited_s)
            done = weighing.weigh_piece(self.ctx, key, order)
            self.assertEqual(done.repeated, waited_s > 1)
        self.assertEqual(len(self.view().weighings), 1)


class JointTest(SessionTest):
    def together(self, *slots: str, kg: float) -> str:
        order = weighing.WeighTogether(self.fish, slots, kg)
        return weighing.weigh_together(self.ctx, self.key(), order).subject_id

    def test_pieces_together_share_the_reading_with_wider_intervals(self) -> None:
        self.together("collar.A", "collar.B", kg=0.094)
        rows = self.view().weighings
        self.assertAlmostEqual(sum(w.kg for w in rows), 0.094, places=9)
        for row in rows:
            self.assertTrue(row.low_kg < row.kg < row.high_kg)
            self.assertTrue(row.joint)

    def test_they_are_taken_back_together(self) -> None:
        first = self.together("collar.A", "collar.B", "cheek.A", kg=0.12)
        self.assertIn("3 pieces weighed together", self.undo("weighing", first))
        self.assertEqual(self.view().weighings, ())

    def test_a_share_cannot_be_corrected_alone(self) -> None:
        first = self.together("collar.A", "collar.B", kg=0.094)
        with self.assertRaisesRegex(Refused, "together"):
            weighing.correct_weighing(self.ctx, self.key(), weighing.CorrectWeighing(first, 0.05))

    def test_bad_choices_are_refused(self) -> None:
        for slots, field in ((("collar.A",), "slots"), (("collar.A", "feather"), "piece"),
                             (("collar.A", "gut.A"), "side")):  # fmt: skip
            with self.subTest(slots=slots), self.assertRaises(Refused) as caught:
                self.together(*slots, kg=0.1)
            self.assertIn(field, caught.exception.problems)


class QuestionTest(SessionTest):
    def test_a_decimal_slip_offers_the_weight_and_a_touch_corrects_it(self) -> None:
        done = self.take("fillet.A", kg=5.8)
        (question,) = self.view().questions
        self.assertAlmostEqual(question.corrected_kg or 0, 0.58)
        order = weighing.CorrectWeighing(done.subject_id, question.corrected_kg or 0)
        weighing.correct_weighing(self.ctx, self.key(), order)
        self.assertEqual(self.view().questions, ())
        (row,) = self.view().weighings
        self.assertEqual((row.kg, row.method), (0.58, "corrected"))

    def test_an_earlier_piece_left_on_the_pan_is_recognised(self) -> None:
        self.take("gut", kg=0.4)
        done = self.take("belly.A", kg=0.49)
        self.assertRegex(done.question, r"earlier piece in it\? Then it is 90 g")

    def test_it_is_so_is_not_asked_again(self) -> None:
        self.take("fillet.A", kg=0.31)
        (question,) = [q for q in self.view().questions if q.key.startswith("weight")]
        order = weighing.KeepAnswer(self.fish, question.key)
        done = weighing.keep_answer(self.ctx, self.key(), order)
        self.assertNotIn("weight", self.keys())
        self.undo("fact", done.subject_id)
        self.assertIn("weight", self.keys())

    def test_a_light_side_says_millimetres_grams_and_where(self) -> None:
        for slot, kg in (
            ("belly.A", 0.09),
            ("fillet.A", 0.58),
            ("belly.B", 0.09),
            ("fillet.B", 0.44),
        ):
            self.take(slot, kg=kg)
        (question,) = self.view().questions
        self.assertRegex(question.text, r"Side B came off light: about \d+ g .* \d\.\d mm .*ribs")
        self.take("spoon_meat", kg=0.25)
        self.assertEqual([k for k in self.keys() if k == "frame"], [])

    def test_pieces_worth_taking_are_named_before_the_head_goes(self) -> None:
        for slot, kg in (
            ("belly.A", 0.09),
            ("belly.B", 0.09),
            ("fillet.A", 0.58),
            ("fillet.B", 0.57),
        ):
            self.take(slot, kg=kg)
        self.assertNotIn("untaken", self.keys())
        self.take("head", kg=0.6)
        (question,) = [q for q in self.view().questions if q.key == "untaken.collar"]
        self.assertRegex(question.text, r"The collars not taken yet, about \d+ g: worth taking")

    def test_finishing_names_what_was_left_and_finishes(self) -> None:
        self.take("fillet.A", kg=0.58)
        done = steps.close_fish(self.ctx, self.key(), steps.CloseFish(self.fish))
        self.assertIn("The collars not taken yet", done.question)
        self.assertTrue(self.view().closed)
        self.undo("fact", done.subject_id)
        for piece in ("collar", "belly"):
            order = weighing.KeepAnswer(self.fish, f"untaken.{piece}")
            weighing.keep_answer(self.ctx, self.key(), order)
        done = steps.close_fish(self.ctx, self.key(), steps.CloseFish(self.fish))
        self.assertEqual(done.question, "")

    def test_sides_that_differ_are_asked_about(self) -> None:
        self.take("collar.A", kg=0.040)
        self.take("collar.B", kg=0.054)
        (question,) = self.view().questions
        self.assertIn(
            "54 g for the collar B of this fish, beside the other side's 40 g?", question.text
        )

    def test_after_side_a_the_interval_of_side_b_is_narrower(self) -> None:
        before = self.view().expected["fillet.B"]
        total = self.view().fillet_now
        self.take("fillet.A", kg=0.55)
        after, now = self.view().expected["fillet.B"], self.view().fillet_now
        assert total is not None
        assert now is not None
        self.assertLess(after.high - after.low, 0.9 * (before.high - before.low))
        self.assertLess(now.high - now.low, total.high - total.low)

    def test_a_questioned_side_does_not_narrow_the_other(self) -> None:
        before = self.view().expected["fillet.B"]
        self.take("fillet.A", kg=5.5)
        self.assertEqual(self.view().expected["fillet.B"], before)

    def test_a_closed_or_unknown_fish(self) -> None:
        self.take("fillet.A", kg=0.58)
        self.close()
        with self.assertRaisesRegex(Refused, "open it again"):
            self.take("fillet.B", kg=0.5)
        with self.assertRaises(Unknown):
            weighing.weigh_piece(
                self.ctx, self.key(), weighing.WeighPiece("nofish", "gut", "", 0.1)
            )


class ForecastTest(SessionTest):
    def finish(self, share: float, board: str = "") -> str:
        fish = self.land(self.trip, weight_kg=2.0).subject_id
        if board:
            self.start(board, fish)
        for side in ("A", "B"):
            self.weigh(fish, f"belly.{side}", 0.06)
            self.weigh(fish, f"fillet.{side}", share - 0.06)
        self.close(fish)
        return fish

    def test_finished_fish_move_the_next_ones_forecast(self) -> None:
        before = self.view().expected_fillet
        board = self.board()
        for _ in range(8):
            self.finish(0.50, board)
        self.start(board)
        view = self.view()
        self.assertGreater(view.expected_fillet.value, before.value * 1.03)
        self.assertEqual(view.learned.of_cutter("Ines"), 8)
        self.assertIn("8 finished fish", self.text(view))

    def text(self, view: fish_view.TableView) -> str:
        own = view.learned.species_for("Ines", 2.9)
        return own.yields.note

    def test_what_was_foreseen_before_the_first_cut_is_kept_and_scored(self) -> None:
        fish = self.finish(0.47)
        with self.ctx.store.reading():
            kept = sessions.forecast_of(fish)
        assert kept is not None
        self.assertTrue(kept.low_kg < kept.kg < kept.high_kg)
        self.assertEqual(self.view().held.fish, 1)
        self.finish(0.70)
        self.assertEqual((self.view().held.fish, self.view().held.inside), (2, 1))

    def test_an_open_fish_teaches_nothing_and_a_reopened_one_no_more(self) -> None:
        fish = self.finish(0.5)
        self.assertEqual(self.view().learned.learned_from, 1)
        with self.ctx.store.reading():
            closed = [f for f in fish_view.fishes.facts_of(fish) if f.name == "closed"][-1].id
        self.undo("fact", closed)
        self.assertEqual(self.view().learned.learned_from, 0)

    def test_what_was_weighed_before_it_was_trimmed_is_kept_and_teaches_nothing(self) -> None:
        fish = self.finish(0.62)
        pieces = fillets(self.ctx)
        with self.ctx.store.reading():
            self.assertEqual(set(stored.side_sums([fish], pieces)[fish]), {"A", "B"})
        with self.ctx.store.writing():  # as the migration marks those of before
            list(plain_sql("UPDATE weighing SET rough = 1 WHERE fish_id = ?", fish))
            fish_now.refresh(fish, self.ctx.is_fillet)
            fishes.add_fact(
                self.ctx.ids, self.clock(), fish, "step", "look"
            )  # so that it is read again
        self.assertEqual(self.view().learned.learned_from, 0)
        self.assertEqual(self.view().held.fish, 0)
        row = next(r for r in view_book(self.ctx, self.trip).rows if r.fish.id == fish)
        self.assertEqual(row.fillet_yield.numerator, "fillets, weighed before they were trimmed")
        book = view_book(self.ctx, self.trip)
        self.assertEqual((book.by_species, book.all_trips), ((), ()))
        self.assertIsNone(view_season(self.ctx).total.share)
        self.assertAlmostEqual(view_season(self.ctx).total.meat_kg, 1.24)
        with self.ctx.store.reading():
            self.assertEqual(stored.side_sums([fish], pieces), {})
        figures = every_fish.view_fish(self.ctx, BookSelection())
        self.assertEqual([g.masses.keys() & {"skin_on", "skinless"} for g in figures.fish], [set()])
        self.assertTrue(all(w.rough for w in self.view(fish).weighings))


class BoardTest(SessionTest):
    def test_two_hands_that_touch_the_same_next_fish_do_not_both_cut_it(self) -> None:
        ines, tobias = self.board("Ines"), self.board("Tobias")
        first = boards.StartFish(self.fish, ines, next_one=True)
        boards.start_fish(self.ctx, self.key(), first)
        second = boards.StartFish(self.fish, tobias, next_one=True)
        with self.assertRaisesRegex(Conflict, "lies on Ines's board by now; take the next one"):
            boards.start_fish(self.ctx, self.key(), second)
        self.start(tobias)  # handed over, it goes there

    def test_time_runs_without_its_pauses(self) -> None:
        self.start(self.board())
        self.clock.advance(minutes=5)
        self.pause()
        self.clock.advance(minutes=30)
        self.assertTrue(self.view().time.paused)
        self.pause(go_on=True)
        self.clock.advance(minutes=2)
        self.assertEqual((self.view().time.worked_s, self.view().time.paused), (420, False))
        self.pause()
        self.clock.advance(minutes=10)
        self.assertEqual((self.view().time.worked_s, self.view().time.paused), (420, True))
        self.pause(go_on=True)
        self.take("fillet.A", kg=0.58)
        self.close()
        self.clock.advance(hours=1)
        self.assertEqual(self.view().time.worked_s, 420)

    def pause(self, go_on: bool = False) -> str:
        order = cutters.PauseFish(self.fish, go_on)
        return cutters.pause_fish(self.ctx, self.key(), order).subject_id

    def test_what_cannot_be_paused_is_said_so(self) -> None:
        with self.assertRaisesRegex(Refused, "does not lie on a board"):
            self.pause()
        self.start(self.board())
        with self.assertRaisesRegex(Refused, "being worked on already"):
            self.pause(go_on=True)
        first = self.pause()
        with self.assertRaisesRegex(Refused, "waits already"):
            self.pause()
        self.assertIn("wait undone", self.undo("fact", first))

    def test_a_fish_is_handed_over_and_taken_back(self) -> None:
        one, two = self.board(), self.board("Tobias")
        self.start(one)
        self.start(two)
        self.assertEqual(self.view().board.board.name, "Tobias")
        self.start(one)
        self.assertEqual(self.view().board.board.name, "Ines")

    def test_a_fish_goes_to_the_devices_own_board_when_none_is_named(self) -> None:
        self.board()
        two = self.board("Tobias")
        order = boards.StartFish(self.fish, "", two)
        boards.start_fish(self.ctx, self.key(), order)
        self.assertEqual(self.view().board.board.name, "Tobias")
        other = self.land(self.trip, weight_kg=2.0).subject_id
        boards.start_fish(self.ctx, self.key(), boards.StartFish(other, "", "of-another-trip"))
        self.assertEqual(self.view(other).board.board.name, "Ines")

    def test_boards_see_each_other_and_what_comes_next(self) -> None:
        one, two = self.board(), self.board("Tobias")
        other = self.land(self.trip, "mackerel", 37).subject_id
        self.start(one)
        mine = cutters.view_board(self.ctx, one)
        self.assertEqual(mine.here.fish.id, self.fish)
        theirs = cutters.view_board(self.ctx, two)
        self.assertIsNone(theirs.here.fish)
        self.assertEqual([b.fish.code for b in theirs.others if b.fish], ["P1"])
        following = {b.next_fish.id for b in (mine.here, theirs.here) if b.next_fish}
        self.assertEqual(following, {other})


class SeenTest(SessionTest):
    def see(self, what: str, **more: object):
        order = findings.NoteSight(self.fish, what, **more)
        return findings.note_sight(self.ctx, self.key(), order)

    def test_what_was_seen_changes_raw_keeping_and_the_label(self) -> None:
        self.take("fillet.A", kg=0.58)
        piece = self.view().weighings[0].id
        before = self.seal(piece).subject_id
        self.see("worms", number=3, place="tail end")
        self.see("blood")
        view = self.view()
        self.assertEqual(view.follows.raw, "hold")
        self.assertIn("worms, 3, tail end", [s.words for s in view.seen])
        after = self.seal(piece, index=1).subject_id
        later, earlier = (label.label_of(self.ctx, b) for b in (after, before))
        self.assertIn("Worms seen and cut out: cook through.", later.cautions)
        self.assertNotEqual(later.best_by, earlier.best_by)

    def test_a_dull_knife_is_said_at_the_next_fish_of_the_board(self) -> None:
        board = self.board()
        self.start(board)
        self.see("dull")
        self.assertEqual(self.view().dull_since, "")
        self.take("fillet.A", kg=0.58)
        self.close()
        self.clock.advance(minutes=1)
        other, third = (self.land(self.trip, weight_kg=2.0).subject_id for _ in range(2))
        self.start(board, other)
        self.assertEqual(self.view(other).dull_since, "P1")
        self.clock.advance(minutes=5)
        self.start(board, third)
        self.assertEqual(self.view(third).dull_since, "")

    def test_it_can_be_taken_back(self) -> None:
        row = self.see("gall_cut").subject_id
        self.assertEqual(self.view().follows.raw, "never")
        self.undo("sight", row)
        self.assertEqual(self.view().follows.raw, "")

    def test_what_is_not_in_the_guide_is_refused(self) -> None:
        for what, more, field in (("ghost", {}, "what"), ("worms", {"number": 0}, "number"),
                                  ("worms", {"place": "ear"}, "place")):  # fmt: skip
            with self.subTest(what=what), self.assertRaises(Refused) as caught:
                self.see(what, **more)
            self.assertIn(field, caught.exception.problems)


class FateTest(SessionTest):
    def send(self, piece: str, fate: str, fish: str = ""):
        order = byproducts.SendPiece(fish or self.fish, piece, fate)
        return byproducts.send_piece(self.ctx, self.key(), order)

    def test_the_next_fish_follows_the_last(self) -> None:
        self.take("frame", kg=0.35)
        self.send("frame", "stock")
        other = self.land(self.trip, weight_kg=2.0).subject_id
        self.weigh(other, "frame", 0.25)
        (row,) = self.view(other).destined
        self.assertEqual((row.fate.key, row.as_last), ("stock", True))
        self.send("frame", "bin", other)
        (row,) = self.view(other).destined
        self.assertEqual((row.fate.key, row.as_last), ("bin", False))

    def test_use_of_the_whole_fish(self) -> None:
        for slot, kg in (("fillet.A", 0.6), ("fillet.B", 0.6), ("frame", 0.3), ("gut", 0.4)):
            self.take(slot, kg=kg)
        self.assertAlmostEqual(self.view().use.fraction, 1.2 / 2.91)
        self.assertAlmostEqual(self.view().use.undecided_kg, 0.7)
        self.send("frame", "stock")
        row = self.send("gut", "bin").subject_id
        self.assertAlmostEqual(self.view().use.fraction, 1.5 / 2.91)
        self.assertAlmostEqual(self.view().use.waste_kg, 0.4)
        self.undo("fate", row)
        self.assertAlmostEqual(self.view().use.undecided_kg, 0.4)

    def test_the_days_list_adds_up(self) -> None:
        other = self.land(self.trip, weight_kg=2.0).subject_id
        for fish, kg in ((self.fish, 0.4), (other, 0.3)):
            self.weigh(fish, "gut", kg)
            self.weigh(fish, "fillet.A", 0.5)
        self.weigh(other, "frame", 0.2)
        self.send("gut", "crab")
        found = byproducts.waste_list(self.ctx, self.trip)
        by_fate = {line.fate.key if line.fate else "": line.kg for line in found.lines}
        self.assertAlmostEqual(by_fate["crab"], 0.7)
        self.assertAlmostEqual(by_fate[""], 0.2)
        self.assertAlmostEqual(found.use.used_kg, 1.7)

    def test_what_does_not_suit_is_refused(self) -> None:
        for piece, fate, field in (
            ("gut", "eat", "fate"),
            ("gut", "moon", "fate"),
            ("feather", "bin", "piece"),
        ):
            with self.subTest(piece=piece, fate=fate), self.assertRaises(Refused) as caught:
                self.send(piece, fate)
            self.assertIn(field, caught.exception.problems)


class CorrectionTest(SessionTest):
    def test_a_piece_in_a_bag_stays_as_it_was(self) -> None:
        row = self.take("fillet.A", kg=0.58).subject_id
        self.seal(row)
        with self.assertRaisesRegex(Conflict, "is in bag"):
            weighing.correct_weighing(self.ctx, self.key(), weighing.CorrectWeighing(row, 0.5))

    def test_a_repeated_correction_is_made_once(self) -> None:
        row = self.take("fillet.A", kg=5.8).subject_id
        key, order = self.key(), weighing.CorrectWeighing(row, 0.58)
        first = weighing.correct_weighing(self.ctx, key, order)
        again = weighing.correct_weighing(self.ctx, key, order)
        self.assertEqual(first.subject_id, again.subject_id)
        self.assertAlmostEqual(self.view().now.weighed_kg, 0.58)
        with self.assertRaises(Conflict):
            weighing.correct_weighing(self.ctx, key, replace(order, kg=0.6))


SLOTS = ["gut", "fillet.A", "fillet.B", "belly.A", "belly.B", "collar.A", "collar.B", "frame",
         "head", "trim", "spoon_meat", "roe"]  # fmt: skip
GRAMS = st.integers(3, 700)


class Ledger(RuleBasedStateMachine):
    """Any order of takes, joint takes, corrections and undos; a plain sum is kept beside it."""

    def __init__(self) -> None:
        super().__init__()
        self.case = SessionTest()
        self.case.setUp()
        self.standing: dict[str, tuple[int, str]] = {}  # row: grams, the first row of its reading

    def teardown(self) -> None:
        self.case.doCleanups()

    @rule(slot=st.sampled_from(SLOTS), grams=GRAMS)
    def take(self, slot: str, grams: int) -> None:
        row = self.case.take(slot, kg=grams / 1000).subject_id
        self.standing[row] = (grams, row)

    @rule(slots=st.sets(st.sampled_from(SLOTS), min_size=2, max_size=4), grams=GRAMS)
    def together(self, slots: set[str], grams: int) -> None:
        order = weighing.WeighTogether(self.case.fish, tuple(sorted(slots)), grams / 1000)
        first = weighing.weigh_together(self.case.ctx, self.case.key(), order).subject_id
        self.standing[first] = (grams, first)

    @precondition(lambda self: self.standing)
    @rule(data=st.data())
    def undo(self, data: st.DataObject) -> None:
        row = data.draw(st.sampled_from(sorted(self.standing)))
        self.case.undo("weighing", row)
        del self.standing[row]

    @precondition(lambda self: self.standing)
    @rule(data=st.data(), grams=GRAMS)
    def correct(self, data: st.DataObject, grams: int) -> None:
        row = data.draw(st.sampled_from(sorted(self.standing)))
        order = weighing.CorrectWeighing(row, grams / 1000)
        try:
            new = weighing.correct_weighing(self.case.ctx, self.case.key(), order).subject_id
        except Refused:
            return  # a share of a joint weighing
        del self.standing[row]
        self.standing[new] = (grams, new)

    @invariant()
    def closes_to_the_gram(self) -> None:
        view = self.case.view()
        total = sum(grams for grams, _ in self.standing.values())
        self.case.assertAlmostEqual(view.balance.weighed_kg * 1000, total, places=6)
        self.case.assertAlmostEqual(view.now.weighed_kg * 1000, total, places=6)
        balance = view.balance
        self.case.assertAlmostEqual(balance.weighed_kg + balance.rest_kg, 2.91, places=9)


LedgerTest = Ledger.TestCase
LedgerTest.settings = settings(
    max_examples=12, stateful_step_count=14, deadline=None,
    suppress_health_check=[HealthCheck.too_slow],
)  # fmt: skip
