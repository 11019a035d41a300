"""A season added up: every kilogram in its place, and nothing that was undone."""

import csv
import io
from datetime import date

import pypdf

from lepidos.stations.freezer import moves, places
from lepidos.stations.table import steps
from lepidos.stations.trips import trips
from lepidos.stations.undo import undo
from lepidos.stations.yieldbook import report, season
from lepidos.stations.yieldbook.season import Season
from lepidos.store.trips import trips as store_trips
from tests.app import AppTest


class SeasonTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.place = places.add_place(self.ctx, self.key(), places.AddPlace("chest")).subject_id

    def fish(self, kg: float = 3.0, party: str = "", **pieces: float) -> dict[str, str]:
        """A cod that was weighed whole, and its pieces; their weighings by slot."""
        fish = self.land(self.trip, "cod", 70, weight_kg=kg, party_id=party).subject_id
        return {
            slot: self.weigh(fish, slot.replace("_", "."), w).subject_id
            for slot, w in pieces.items()
        }

    def bag(self, weighing: str) -> str:
        code = self.code_of(self.seal(weighing).subject_id).replace("-", "")
        moves.put_away(self.ctx, self.key(), moves.PutAway((code,), self.place))
        return code

    def out(self, code: str, why: str) -> str:
        return moves.take_out(self.ctx, self.key(), moves.TakeOut((code,), why)).subject_id

    def view(self, **more: object) -> Season:
        return season.view_season(self.ctx, **more)

    def test_every_kilogram_stands_once_and_the_columns_add_up(self) -> None:
        first = self.fish(3.0, fillet_A=0.2, fillet_B=0.2, head=0.6)
        self.fish(2.0)
        codes = [self.bag(first["fillet_A"]), self.bag(first["fillet_B"])]
        self.out(codes[0], "to eat")
        found = self.view().total
        self.assertEqual((found.fish, found.bags), (2, 2))
        self.assertAlmostEqual(found.round_kg, 5.0)
        self.assertAlmostEqual(found.meat_kg, 0.4)
        self.assertAlmostEqual(found.other_kg, 0.6)
        self.assertAlmostEqual(found.outcomes["to eat"], 0.2)
        self.assertAlmostEqual(found.outcomes["in"], 0.2)
        self.assertAlmostEqual(found.bagged_kg, 0.4)

    def test_what_was_undone_is_nowhere_and_a_bag_that_was_put_back_is_in_again(self) -> None:
        first = self.fish(3.0, fillet_A=0.2, fillet_B=0.2)
        code = self.bag(first["fillet_A"])
        gone = self.out(code, "spoiled")
        self.assertAlmostEqual(self.view().total.outcomes["spoiled"], 0.2)
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("move", gone))
        self.out(code, "given away")
        found = self.view().total
        self.assertEqual(
            (found.outcomes["spoiled"], round(found.outcomes["given away"], 9)), (0.0, 0.2)
        )
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("weighing", first["fillet_B"]))
        self.assertAlmostEqual(self.view().total.meat_kg, 0.2)

    def test_a_share_counts_only_fish_that_are_finished(self) -> None:
        self.fish(3.0, fillet_A=0.6, fillet_B=0.6)
        self.assertIsNone(self.view().total.share)

    def test_by_party_by_year_and_in_every_order(self) -> None:
        parties = {p.name: p.id for p in trips.view_trip(self.ctx, self.trip).parties}
        self.fish(3.0, parties["Tolland"])
        self.fish(2.0, parties["Marsh"])
        old = self.start_trip(on_date=date(2025, 6, 1), parties=())
        self.trip = old
        self.fish(4.0)
        self.assertEqual(self.view().years, (2026, 2025))
        self.assertAlmostEqual(self.view(party="Tolland").total.round_kg, 3.0)
        self.assertAlmostEqual(self.view(year=2025).total.round_kg, 4.0)
        self.assertAlmostEqual(self.view(year=1999).total.round_kg, 5.0)  # the newest instead
        self.assertEqual(self.view().parties, ("Marsh", "Tolland"))

    def test_orders(self) -> None:
        self.fish(3.0)
        for _ in range(2):
            self.land(self.trip, "mackerel", 35)
        names = {o: [r.name for r in self.view(order=o).rows] for o in (*season.ORDERS, "odd")}
        self.assertEqual(names["fish"], ["mackerel", "cod"])
        self.assertEqual(names["round"], ["cod", "mackerel"])
        self.assertEqual(names["species"], ["cod", "mackerel"])
        self.assertEqual(names["odd"], names["round"])

    def test_an_estimated_weight_is_said_to_be_one(self) -> None:
        self.land(self.trip, "cod", 70)
        found = self.view().total
        self.assertEqual(found.round_kg, found.estimated_kg)

    def test_the_file_says_what_the_page_says(self) -> None:
        first = self.fish(3.0, fillet_A=0.2)
        self.out(self.bag(first["fillet_A"]), "to eat")
        (row,) = csv.DictReader(io.StringIO(season.season_csv(self.view())))
        self.assertEqual((row["species"], row["fish"]), ("cod", "1"))
        self.assertEqual((float(row["round_kg"]), float(row["bagged_eaten_kg"])), (3.0, 0.2))

    def test_nothing_yet(self) -> None:
        found = self.view()
        self.assertEqual((found.rows, found.finding), ((), "Nothing of it is in bags yet"))


class ReportTest(AppTest):
    def test_the_report_says_what_the_season_page_does_party_by_party(self) -> None:
        trip = self.start_trip()
        with self.ctx.store.reading():
            tolland, marsh = (p.id for p in store_trips.parties_of(trip))
        for party, kg in ((tolland, 2.0), (marsh, 3.0)):
            fish = self.land(trip, weight_kg=kg, party_id=party).subject_id
            for side in "AB":
                self.weigh(fish, f"fillet.{side}", kg * 0.22)
            steps.close_fish(self.ctx, self.key(), steps.CloseFish(fish))
        text = report.report_text(self.ctx, 2026, "", "metric")
        by_party = {row[0]: row for row in text.blocks[1].rows}
        self.assertEqual(by_party["Tolland"][2], "2.00 kg")
        self.assertEqual(by_party["Marsh"][3], "44.0 %")
        self.assertIn("2 fish caught and kept: 5.00 kg round", text.totals[0])
        self.assertIn("44.0 % meat of round weight", text.totals[1])
        mine = report.report_text(self.ctx, 2026, "Marsh", "metric")
        self.assertEqual(len(mine.blocks), 1)
        self.assertNotIn("Tolland", str(mine))
        pdf = report.report_pdf(self.ctx, 2026, "Marsh", "metric", self.clock())
        said = "".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(pdf)).pages)
        self.assertIn("Season 2026", said)
        self.assertNotIn("Tolland", said)

    def test_an_empty_season_has_a_report(self) -> None:
        text = report.report_text(self.ctx, 2026, "", "metric")
        self.assertIn("No fish is finished yet", text.totals[1])
