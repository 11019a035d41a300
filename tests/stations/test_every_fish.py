"""The book of every fish: equal to a plain recomputation, filtered, put together, and out as files."""

import csv
import io
import json
import math
import sqlite3
from dataclasses import replace
from random import Random

import openpyxl
import pandas as pd

from lepidos.demo.scenario import play
from lepidos.devices.freezer_logger import SimulatedLogger
from lepidos.stations.freezer import moves
from lepidos.stations.pack import receipts
from lepidos.stations.schedule import boards
from lepidos.stations.table import steps
from lepidos.stations.undo import undo
from lepidos.stations.yieldbook import book_file, every_fish
from lepidos.stations.yieldbook.book_figures import BookSelection, share_of
from lepidos.store.deck import fishes
from lepidos.store.file import migrate
from lepidos.web.drawings import book_charts
from tests.app import AppTest

ALL = every_fish.ALL_YEARS


class EveryFishTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.board = ""
        self.trip = self.start_trip()
        for n, (kind, kg, a, b) in enumerate(
            (("pollack", 2.0, 0.44, 0.42), ("pollack", 3.0, 0.62, 0.66), ("pollack", 1.5, 0.33, 0.31),
             ("cod", 2.5, 0.5, 0.52))
        ):  # fmt: skip
            self.cut(kind, kg, a, b, gut=0.3 if n else None)

    def cut(self, kind: str, kg: float, a: float, b: float, gut: float | None = None) -> str:
        fish = self.land(self.trip, kind, 62, weight_kg=kg).subject_id
        self.clock.advance(minutes=1)
        if self.board:
            boards.start_fish(self.ctx, self.key(), boards.StartFish(fish, self.board))
        if gut:
            self.weigh(fish, "gut", gut)
        self.weigh(fish, "fillet.A", a)
        self.weigh(fish, "fillet.B", b)
        steps.close_fish(self.ctx, self.key(), steps.CloseFish(fish))
        return fish

    def view(self, **asked: object) -> every_fish.EveryFish:
        return every_fish.view_fish(self.ctx, BookSelection(**{"year": ALL, **asked}))

    def test_a_yield_is_what_pandas_makes_of_the_file(self) -> None:
        file = sqlite3.connect(self.ctx.store.path)
        self.addCleanup(file.close)
        pieces = pd.read_sql("SELECT fish_id, kg FROM weighing WHERE piece = 'fillet'", file)
        whole = pd.read_sql("SELECT fish_id, species, whole_kg FROM fish_now", file)
        both = whole.merge(pieces.groupby("fish_id").kg.sum().reset_index())
        by = both.groupby("species")[["kg", "whole_kg"]].sum()
        found = {g.name: g.yields for g in self.view().groups}
        for kind in ("pollack", "cod"):
            self.assertAlmostEqual(
                found[kind].fraction, by.loc[kind, "kg"] / by.loc[kind, "whole_kg"], places=12
            )
        self.assertEqual((found["pollack"].fish, found["cod"].fish), (3, 1))

    def test_each_stage_names_what_it_is_of(self) -> None:
        stages = {(y.numerator, y.denominator): y for y in self.view(species="pollack").stages}
        gutted = stages["skin_on", "gutted"]
        self.assertEqual(gutted.fish, 2)
        self.assertAlmostEqual(gutted.fraction, (1.28 + 0.64) / (2.7 + 1.2))
        self.assertNotIn(("skinless", "round"), stages)

    def test_few_fish_do_not_lead_by_luck(self) -> None:
        self.cut("cod", 2.0, 0.7, 0.7)
        names = [g.name for g in self.view().groups]
        self.assertEqual(names[0], "pollack")

    def test_filters_and_orders(self) -> None:
        found = self.view(order="yield")
        shares = [share_of(g, found.asked) for g in found.shown]
        self.assertEqual(shares, sorted(shares, reverse=True))
        self.assertEqual(len(self.view(species="cod").fish), 1)
        self.assertEqual(len(self.view(party="nobody").fish), 0)
        self.assertIn("No fish has both", self.view(party="nobody").finding)
        self.assertEqual({g.name for g in self.view(by="size").groups}, {"usual"})
        self.assertEqual({g.name for g in self.view(by="method.ribs").groups} - {"as usual"}, set())

    def test_a_fish_corrected_or_undone_changes_the_book_at_once(self) -> None:
        before = self.view().total
        fish = self.cut("pollack", 2.0, 0.5, 0.5)
        self.assertEqual(self.view().total.fish, before.fish + 1)
        with self.ctx.store.reading():
            closed = next(f for f in fishes.facts_of(fish) if f.name == "closed")

        undo.undo_row(self.ctx, self.key(), undo.UndoRow("fact", closed.id))
        self.assertEqual(self.view().total, before)

    def test_slips_of_a_whole_season_still_have_a_page(self) -> None:
        order = boards.AddBoard(self.trip, "Ines")
        self.board = boards.add_board(self.ctx, self.key(), order).subject_id
        for a in (2.0, 2.0, 0.3):
            self.cut("ling", 0.9, a, a)
        found = self.view(species="ling")
        self.assertEqual(found.hands, ())
        drawn = book_charts.by_size(found.dots, found.band, "metric")
        self.assertLessEqual(len(drawn.y_marks), 12)

    def test_where_whole_fish_went_adds_up(self) -> None:
        parts = self.view().parts
        self.assertAlmostEqual(math.fsum(kg for _, kg, _ in parts), 9.0)
        self.assertAlmostEqual(math.fsum(share for _, _, share in parts), 1.0)

    def test_cost_a_portion_and_a_kilogram(self) -> None:
        self.assertIsNone(every_fish.cost_of(self.ctx, self.view()))
        receipts.add_cost(self.ctx, self.key(), receipts.AddCost(self.trip, "fuel", "12", "equal"))
        fish = self.land(self.trip).subject_id
        piece = self.weigh(fish, "fillet.A", 0.4).subject_id
        self.seal(piece)
        found = every_fish.cost_of(self.ctx, self.view())
        with self.ctx.store.reading():
            portions, _ = every_fish.portions_of([self.trip])
        self.assertEqual((found.total, found.trips), ("12.00 EUR", 1))
        self.assertEqual(found.portion, f"{12 / portions:.2f} EUR")

    def test_the_three_files_hold_the_same(self) -> None:
        found = self.view()
        rows = list(
            csv.DictReader(io.StringIO(book_file.book_file(self.ctx, found, "csv").decode()))
        )
        objects = json.loads(book_file.book_file(self.ctx, found, "json"))
        sheet = openpyxl.load_workbook(
            io.BytesIO(book_file.book_file(self.ctx, found, "xlsx"))
        ).active
        lines = list(sheet.iter_rows(values_only=True))
        self.assertEqual([len(rows), len(objects), len(lines) - 1], [4, 4, 4])
        self.assertEqual(list(rows[0]), list(lines[0]))
        for text, plain, line in zip(rows, objects, lines[1:], strict=True):
            self.assertEqual(text["code"], plain["code"])
            self.assertAlmostEqual(float(text["yield"]), plain["yield"], places=5)
            self.assertAlmostEqual(dict(zip(lines[0], line, strict=True))["yield"], plain["yield"])
            self.assertEqual(plain["yield_denominator"], "round weight")

    def test_a_name_that_is_a_formula_stays_a_name(self) -> None:
        self.trip = self.start_trip(name="=1+1")
        self.cut("ling", 2.0, 0.4, 0.4)
        found = self.view(species="ling")
        book = openpyxl.load_workbook(io.BytesIO(book_file.book_file(self.ctx, found, "xlsx")))
        cell = book.active["B2"]
        self.assertEqual((cell.value, cell.data_type), ("=1+1", "s"))
        self.assertIn("'=1+1", book_file.book_file(self.ctx, found, "csv").decode())


class DerivedTest(AppTest):
    def test_the_migration_derives_what_the_store_does(self) -> None:
        """Parts, board and seconds of files from before, beside what `refresh` writes."""

        play(replace(self.ctx, logger=SimulatedLogger(lambda: self.clock().timestamp(), Random(3))))
        file = sqlite3.connect(self.ctx.store.path, isolation_level=None)
        self.addCleanup(file.close)
        codes = file.execute("SELECT code FROM bag JOIN bag_now ON bag_id = id WHERE state = 'in'")
        gone = tuple(code for (code,) in codes.fetchall()[:3])
        moves.take_out(self.ctx, self.key(), moves.TakeOut(gone, "to eat"))
        query = "SELECT fish_id, parts, board_id, round(seconds, 1) FROM fish_now ORDER BY 1"
        expected = file.execute(query).fetchall()
        self.assertGreater(sum(row[3] is not None for row in expected), 5)
        bags = file.execute("SELECT bag_id, why FROM bag_now ORDER BY 1").fetchall()
        self.assertGreater(sum(bool(why) for _, why in bags), 1)
        file.execute("UPDATE fish_now SET parts = '{}', board_id = NULL, seconds = NULL")
        file.execute("UPDATE bag_now SET why = ''")
        text = dict(migrate.steps())[16].read_text("utf-8")
        for statement in migrate._statements(text):
            if "UPDATE fish_now" in statement or "UPDATE bag_now" in statement:
                file.execute(statement)
        self.assertEqual(
            file.execute("SELECT bag_id, why FROM bag_now ORDER BY 1").fetchall(), bags
        )
        found = file.execute(query).fetchall()
        for mine, theirs in zip(found, expected, strict=True):
            a, b = json.loads(mine[1]), json.loads(theirs[1])
            self.assertEqual(set(a), set(b))
            for piece, kg in a.items():
                self.assertAlmostEqual(kg, b[piece])
            self.assertEqual(mine[2:], theirs[2:])
