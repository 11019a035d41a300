"""Pack and freezer: marks, bags, labels, places, first-expiring first, and history."""

import io
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import pypdfium2
from pypdf import PdfReader

from lepidos.core.errors import Conflict, OutOfRange, Refused, Unknown
from lepidos.core.freezer.storage_life import best_by
from lepidos.devices.printer import PrinterOffline
from lepidos.exchange import qr
from lepidos.stations.base.printing import LabelQueue
from lepidos.stations.deck import handling, landing, landing_check
from lepidos.stations.freezer import find, freezer, moves, places
from lepidos.stations.pack import label, pack, portioning
from lepidos.stations.table import findings
from lepidos.stations.undo import undo
from lepidos.store.pack import bags
from tests.app import AppTest


class PackTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.fish = self.land(self.trip, weight_kg=2.91).subject_id
        self.side_a = self.weigh(self.fish, "fillet.A", 0.6).subject_id

    def view(self, marks: portioning.Marks | None = None) -> pack.PackView:
        return pack.view_piece(self.ctx, self.side_a, marks or portioning.Marks())

    def seal_all(self) -> list[str]:
        return [self.seal(self.side_a, bag.index).subject_id for bag in self.view().bags]

    def undo(self, kind: str, row: str) -> None:
        undo.undo_row(self.ctx, self.key(), undo.UndoRow(kind, row))


class PlaceNameTest(AppTest):
    def test_the_longest_name_is_taken_and_one_letter_more_is_not(self) -> None:
        longest = "x" * places.MAX_NAME_LENGTH
        places.add_place(self.ctx, self.key(), places.AddPlace(longest))
        with self.assertRaises(Refused):
            places.add_place(self.ctx, self.key(), places.AddPlace(longest + "x"))


class MarksTest(PackTest):
    def test_marks_are_in_the_fillets_own_length(self) -> None:
        view = self.view(portioning.Marks(length_m=0.5))
        self.assertEqual(view.plan.length_m, 0.5)
        self.assertTrue(all(0 < m < 0.5 for m in view.plan.marks_m))
        self.assertAlmostEqual(sum(b.kg for b in view.bags), 0.6)

    def test_length_comes_from_the_fish_when_none_is_given(self) -> None:
        self.assertTrue(0.35 < self.view().plan.length_m < 0.5)

    def test_a_serving_that_cannot_be_is_refused(self) -> None:
        for marks in (
            portioning.Marks(serving_kg=0.0),
            portioning.Marks(per_bag=0),
            portioning.Marks(length_m=-1),
        ):
            with self.subTest(marks=marks), self.assertRaises(OutOfRange):
                self.view(marks)

    def test_frames_are_not_listed_for_packing(self) -> None:
        self.weigh(self.fish, "frame", 0.4)
        self.weigh(self.fish, "collar.A", 0.04)
        names = [r.name for r in pack.list_pieces(self.ctx, self.trip).waiting]
        self.assertEqual(names, ["fillet A", "collar A"])


class SealTest(PackTest):
    def test_every_gram_goes_into_a_bag_once(self) -> None:
        self.seal_all()
        view = self.view()
        self.assertIsNone(view.next_bag)
        self.assertAlmostEqual(view.row.packed_share, 1.0)
        self.assertAlmostEqual(sum(b.kg for b in view.sealed.values()), 0.6)
        self.assertEqual(pack.list_pieces(self.ctx, self.trip).waiting, ())

    def test_a_bag_sealed_twice_by_two_hands_is_a_conflict(self) -> None:
        self.seal(self.side_a, 0)
        with self.assertRaisesRegex(Conflict, "already in bag [2-9A-Z]{3}-[2-9A-Z]{3}"):
            self.seal(self.side_a, 0)

    def test_marks_stay_once_a_bag_is_sealed(self) -> None:
        self.seal(self.side_a, 0)
        self.assertTrue(self.view(portioning.Marks(serving_kg=0.3)).locked)
        self.assertEqual(self.view(portioning.Marks(serving_kg=0.3)).marks.serving_kg, 0.2)
        with self.assertRaisesRegex(Conflict, "other marks"):
            self.seal(self.side_a, 1, marks=portioning.Marks(serving_kg=0.3))

    def test_a_piece_is_shown_when_its_fish_turned_out_shorter_than_its_marks(self) -> None:
        self.seal(self.side_a, 0)
        noted = landing_check.LandFish(self.trip, "pollack", 0.2, "total")
        landing.correct_fish(self.ctx, self.key(), landing.CorrectFish(self.fish, noted))
        view = self.view()
        self.assertTrue(view.locked)
        self.assertEqual(len(view.sealed), 1)

    def test_taking_the_bag_back_frees_marks_and_piece(self) -> None:
        bag = self.seal(self.side_a, 0).subject_id
        with self.assertRaisesRegex(Conflict, "take the bag back first"):
            self.undo("weighing", self.side_a)
        self.undo("bag", bag)
        self.assertFalse(self.view().locked)
        self.undo("weighing", self.side_a)
        with self.assertRaises(Unknown):
            self.view()

    def test_no_such_bag_and_impossible_weights_are_refused(self) -> None:
        for order, field in (
            ({"index": 99}, "index"),
            ({"kg": 0.0}, "weight"),
            ({"kg": -1.0}, "weight"),
            ({"kg": float("nan")}, "weight"),
            ({"kg": 61.0}, "weight"),
        ):
            with self.subTest(order=order), self.assertRaises(Refused) as caught:
                self.seal(self.side_a, **order)
            self.assertIn(field, caught.exception.problems)
        self.assertEqual(pack.list_pieces(self.ctx, self.trip).sealed, ())

    def test_a_weighed_bag_keeps_its_weight_and_an_odd_one_is_asked_about(self) -> None:
        planned = self.view().bags[0].kg
        done = self.seal(self.side_a, 0, kg=planned * 2)
        self.assertIn("Is the right piece in it?", done.question)
        found = freezer.find_bag(self.ctx, self.code_of(done.subject_id))
        self.assertTrue(found.row.bag.measured)
        self.assertAlmostEqual(sum(p.kg for p, _, _ in found.contents), planned * 2)

    def test_small_whole_pieces_share_a_bag(self) -> None:
        a = self.weigh(self.fish, "collar.A", 0.042).subject_id
        b = self.weigh(self.fish, "collar.B", 0.044).subject_id
        partners = pack.view_piece(self.ctx, a, portioning.Marks()).partners
        self.assertEqual([p.weighing.id for p in partners], [b])
        bag = self.seal(a, also=(b,)).subject_id
        found = freezer.find_bag(self.ctx, self.code_of(bag))
        self.assertAlmostEqual(found.row.bag.kg, 0.086)
        self.assertEqual(len(found.contents), 2)
        with self.assertRaisesRegex(Conflict, "already"):
            self.seal(b)

    def test_another_partys_piece_or_a_marked_one_does_not_join(self) -> None:
        a = self.weigh(self.fish, "collar.A", 0.042).subject_id
        with self.assertRaises(Conflict):
            self.seal(a, also=(self.side_a,))
        with self.assertRaisesRegex(Refused, "packed whole"):
            self.seal(self.side_a, also=(a,))

    def test_flatfish_quarters_are_marked_by_their_own_zones(self) -> None:
        plaice = self.land(self.trip, "plaice", 43).subject_id
        back = self.weigh(plaice, "back_fillet.A", 0.1).subject_id
        belly = self.weigh(plaice, "belly_fillet.A", 0.08).subject_id
        long, short = (pack.view_piece(self.ctx, w, portioning.Marks()) for w in (back, belly))
        self.assertGreater(long.plan.length_m, short.plan.length_m)


class LabelTest(PackTest):
    def test_the_label_is_printed_and_its_code_finds_the_bag(self) -> None:
        bag = self.seal(self.side_a, 0).subject_id
        label.print_label(self.ctx, bag)
        job = self.printer.tray()[0]
        text = PdfReader(io.BytesIO(job.pdf)).pages[0].extract_text()
        for part in (
            "Pollack fillet",
            "skin on",
            "Best by 14 Mar 2027",
            "Cook through",
            "Slit the bag",
        ):
            self.assertIn(part, text)
        page = pypdfium2.PdfDocument(job.pdf)[0].render(scale=3).to_pil()
        photo = io.BytesIO()
        page.save(photo, "PNG")
        found = freezer.find_bag(self.ctx, find.code_on_photo(self.ctx, photo.getvalue()))
        self.assertEqual(found.row.bag.id, bag)
        self.assertEqual(qr.read_photo(photo.getvalue()), found.row.bag.code)

    def test_a_silent_printer_leaves_the_bag_sealed(self) -> None:
        self.printer.online = False
        bag = self.seal(self.side_a, 0).subject_id
        self.assertIn("does not answer", label.send_label(self.ctx, bag))
        with self.assertRaises(PrinterOffline):
            label.print_label(self.ctx, bag)
        self.printer.online = True
        self.assertEqual(label.send_label(self.ctx, bag), "")
        self.assertEqual(len(self.printer.tray()), 1)

    def test_an_estimated_bag_says_about(self) -> None:
        bag = self.seal(self.side_a, 0).subject_id
        self.assertIn("about", label.label_of(self.ctx, bag).details)

    def test_histamine_fish_carry_the_note(self) -> None:
        mackerel = self.land(self.trip, "mackerel", 37).subject_id
        side = self.weigh(mackerel, "fillet.A", 0.13).subject_id
        printed = label.label_of(self.ctx, self.seal(side).subject_id)
        self.assertIn("Keep cold: histamine fish.", printed.cautions)


class FreezerTest(PackTest):
    def place(self, name: str = "chest") -> str:
        return places.add_place(self.ctx, self.key(), places.AddPlace(name)).subject_id

    def put(self, place: str, *codes: str) -> str:
        order = moves.PutAway(codes, place)
        return moves.put_away(self.ctx, self.key(), order).subject_id

    def out(self, code: str, why: str = "to eat") -> str:
        return moves.take_out(self.ctx, self.key(), moves.TakeOut((code,), why)).subject_id

    def test_first_expiring_comes_first(self) -> None:
        # sealed later, but a fatty fish: its months are fewer
        lean = self.seal(self.side_a, 0).subject_id
        mackerel = self.land(self.trip, "mackerel", 37).subject_id
        oily = self.seal(self.weigh(mackerel, "fillet.A", 0.13).subject_id).subject_id
        self.put(self.place(), self.code_of(lean), self.code_of(oily))
        rows = freezer.view_freezer(self.ctx, self.trip).rows
        self.assertEqual([r.bag.id for r in rows], [oily, lean])

    def test_one_bag_or_several_put_away_are_undone_in_one_touch(self) -> None:
        one, two = (self.code_of(bag) for bag in self.seal_all()[:2])
        kinds = [
            moves.put_away(self.ctx, self.key(), moves.PutAway(codes, self.place(name)))
            for codes, name in (((one,), "chest"), ((one, two), "kitchen"))
        ]
        self.assertEqual([k.subject_kind for k in kinds], ["move", "moves"])
        self.assertEqual([undo.can_undo(k) for k in kinds], [True, True])
        self.undo("moves", kinds[1].subject_id)
        where = [freezer.find_bag(self.ctx, code).row for code in (one, two)]
        self.assertEqual([(r.now.state, r.place) for r in where], [("in", "chest"), ("sealed", "")])
        with self.assertRaisesRegex(Conflict, "undone already"):
            self.undo("moves", kinds[1].subject_id)

    def test_several_go_out_together_with_why_or_not_at_all(self) -> None:
        codes = [self.code_of(bag) for bag in self.seal_all()[:2]]
        self.put(self.place(), codes[0])
        for order, problem in (
            (moves.TakeOut(()), "at least one"),
            (moves.TakeOut(tuple(codes[:2]), "eaten by the cat"), "Say one of"),
            (moves.TakeOut(tuple(codes[:2]), "spoiled", "x" * 81), "under 80"),
        ):
            with self.assertRaisesRegex(Refused, problem):
                moves.take_out(self.ctx, self.key(), order)
        with self.assertRaisesRegex(Conflict, "not in the freezer"):
            moves.take_out(self.ctx, self.key(), moves.TakeOut(tuple(codes)))
        self.assertEqual(freezer.view_freezer(self.ctx).total, 1)
        self.put(self.place("kitchen"), codes[1])
        order = moves.TakeOut(tuple(codes[:2]), "spoiled", "freezer burn")
        done = moves.take_out(self.ctx, self.key(), order)
        self.assertEqual(done.sentence, "2 bags taken out, thrown away: freezer burn")
        history = freezer.find_bag(self.ctx, codes[0]).moves
        self.assertEqual(
            [(m.action, m.why, m.note) for m, _, _ in history][-1],
            ("out", "spoiled", "freezer burn"),
        )
        self.undo(done.subject_kind, done.subject_id)
        self.assertEqual(freezer.view_freezer(self.ctx).total, 2)

    def test_in_out_and_in_again_with_all_of_it_in_the_history(self) -> None:
        code = self.code_of(self.seal_all()[0])
        chest, kitchen = self.place("chest"), self.place("kitchen")
        self.put(chest, code)
        self.put(kitchen, code)
        self.out(code.lower())
        found = freezer.find_bag(self.ctx, code)
        self.assertEqual(found.row.now.state, "out")
        self.assertEqual([(m.action, where) for m, _, where in found.moves],
                         [("in", "chest"), ("in", "kitchen"), ("out", "kitchen")])  # fmt: skip
        self.assertEqual(freezer.view_freezer(self.ctx).total, 0)
        self.put(chest, code)
        self.assertEqual(freezer.view_freezer(self.ctx, "", chest).total, 1)

    def test_undo_of_a_move_is_a_fact_of_its_own(self) -> None:
        code = self.code_of(self.seal_all()[0])
        first = self.put(self.place(), code)
        second = self.out(code)
        with self.assertRaisesRegex(Conflict, "later move first"):
            self.undo("move", first)
        self.undo("move", second)
        found = freezer.find_bag(self.ctx, code)
        self.assertEqual(found.row.now.state, "in")
        self.assertEqual([ok for _, ok, _ in found.moves], [True, False])

    def test_all_bags_go_in_or_none(self) -> None:
        codes = [self.code_of(b) for b in self.seal_all()]
        with self.assertRaises(Refused):
            self.put(self.place(), codes[0], "222-222")
        self.assertEqual(freezer.view_freezer(self.ctx).total, 0)

    def test_what_cannot_be_is_refused_or_a_conflict(self) -> None:
        bag = self.seal_all()[0]
        code, place = self.code_of(bag), self.place()
        for codes, where, field in (
            ((), place, "codes"),
            ((code,), "nowhere", "place"),
            (("K7M",), place, "code"),
        ):
            with self.subTest(field=field), self.assertRaises(Refused) as caught:
                self.put(where, *codes)
            self.assertIn(field, caught.exception.problems)
        with self.assertRaisesRegex(Conflict, "not in the freezer"):
            self.out(code)
        self.put(place, code)
        with self.assertRaisesRegex(Conflict, "already"):
            self.put(place, code)
        with self.assertRaises(Refused):
            self.out(code, "to juggle")
        with self.assertRaisesRegex(Conflict, "moved"):
            self.undo("bag", bag)

    def test_a_void_label_is_not_put_away(self) -> None:
        bag = self.seal(self.side_a, 0).subject_id
        code = self.code_of(bag)
        self.undo("bag", bag)
        with self.assertRaisesRegex(Conflict, "undone"):
            self.put(self.place(), code)
        self.assertEqual(freezer.find_bag(self.ctx, code).row.now.state, "withdrawn")

    def test_places_have_names_of_their_own(self) -> None:
        self.place("chest")
        for name, message in (
            ("", "Give the place"),
            (" Chest ", "of that name"),
            ("x" * 61, "under 60"),
        ):
            with self.subTest(name=name), self.assertRaisesRegex(Refused, message):
                self.place(name)

    def test_a_wrong_code_says_what_is_wrong(self) -> None:
        with self.assertRaisesRegex(Refused, "six characters"):
            freezer.find_bag(self.ctx, "hello")
        with self.assertRaises(Unknown):
            freezer.find_bag(self.ctx, "222-222")
        with self.assertRaisesRegex(Refused, "not a picture"):
            find.code_on_photo(self.ctx, b"no picture")

    def test_two_hands_take_out_one_bag_once(self) -> None:
        code = self.code_of(self.seal_all()[0])
        self.put(self.place(), code)
        self.out(code)
        with self.assertRaises(Conflict):
            self.out(code)

    def test_the_gauges_follow_the_bag(self) -> None:
        codes = [self.code_of(b) for b in self.seal_all()]
        header = self.header(self.trip)
        self.assertEqual((header.bags, header.waits["freezer"]), (len(codes), len(codes)))
        self.assertAlmostEqual(header.packed_kg, 0.6)
        self.put(self.place(), *codes)
        header = self.header(self.trip)
        self.assertEqual((header.bags, header.waits["freezer"]), (len(codes), 0))


class HalfPackedTest(AppTest):
    def test_a_fillet_with_a_bag_still_to_come_waits(self) -> None:
        trip = self.start_trip()
        self.weigh(self.land(trip, cm=80).subject_id, "fillet.A", 1.2)
        piece = pack.list_pieces(self.ctx, trip).waiting[0].weighing.id
        bags = len(pack.view_piece(self.ctx, piece, portioning.Marks()).bags)
        self.assertGreater(bags, 1)
        for sealed in range(bags):
            self.assertEqual(self.header(trip).waits["pack"], 1)
            self.assertEqual(len(pack.list_pieces(self.ctx, trip).waiting), 1)
            self.seal(piece, sealed)
        self.assertEqual(self.header(trip).waits["pack"], 0)
        self.assertEqual(pack.list_pieces(self.ctx, trip).waiting, ())


class MixedBagTest(AppTest):
    def two(self) -> list[str]:
        self.trip = self.start_trip()
        fish = [self.land(self.trip, cm=cm).subject_id for cm in (60, 61)]
        for one in fish:
            self.weigh(one, "belly.A", 0.09)
        return fish

    def bag_of_both(self, first: int) -> str:
        rows = sorted(pack.list_pieces(self.ctx, self.trip).waiting, key=lambda r: r.fish.code)
        mine, other = rows[first].weighing.id, rows[1 - first].weighing.id
        return self.seal(mine, also=(other,)).subject_id

    def test_the_worse_fish_sets_the_date_of_a_bag_of_two(self) -> None:
        fish = self.two()
        every = tuple((key, mark.worst) for key, mark in self.ctx.guide.marks.items())
        handling.look_over(self.ctx, self.key(), handling.LookOver(fish[1], every))
        for first in (0, 1):
            bag = self.bag_of_both(first)
            packed, best = self.dates(bag)
            full = best_by(packed, self.ctx.guide.one("pollack").keeping) - packed
            self.assertEqual((best - packed).days, int(full.days * 0.5))
            undo.undo_row(self.ctx, self.key(), undo.UndoRow("bag", bag))

    def test_what_was_seen_on_one_of_two_keeps_them_in_bags_of_their_own(self) -> None:
        fish = self.two()
        findings.note_sight(self.ctx, self.key(), findings.NoteSight(fish[1], "blood"))
        for first in (0, 1):
            with self.assertRaisesRegex(Refused, "something was seen on one of the fish"):
                self.bag_of_both(first)

    def dates(self, bag_id: str):
        with self.ctx.store.reading():
            row = bags.get(bag_id)
        return row.packed_on, row.best_by


class LabelQueueTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.weigh(self.land(self.trip).subject_id, "trim", 0.2)
        executor = ThreadPoolExecutor(1)
        self.addCleanup(executor.shutdown)
        self.ctx = replace(self.ctx, labels=LabelQueue(executor))
        piece = pack.list_pieces(self.ctx, self.trip).waiting[0].weighing.id
        self.bag = self.seal(piece).subject_id

    def test_a_label_that_fails_on_its_way_is_said_until_it_is_printed(self) -> None:
        self.printer.check = lambda: None  # it answered when it was asked, and not any more
        self.printer.print = self.break_off
        self.assertEqual(label.send_label(self.ctx, self.bag), "")
        self.ctx.labels.wait()
        ((code, why),) = self.header(self.trip).unprinted
        self.assertEqual((code, why), (self.code_of(self.bag), "The cable was pulled."))
        del self.printer.print
        label.print_label(self.ctx, self.bag)
        self.ctx.changes.tell()
        self.assertEqual(self.header(self.trip).unprinted, ())

    def break_off(self, job: object) -> None:
        raise PrinterOffline("The cable was pulled.")

    def test_labels_come_out_in_the_order_in_which_they_were_sent(self) -> None:
        for _ in range(3):
            label.send_label(self.ctx, self.bag)
        self.ctx.labels.wait()
        self.assertEqual(len(self.printer.tray()), 3)
        self.assertEqual(self.header(self.trip).unprinted, ())
