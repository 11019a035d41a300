"""Millimetres left by zone: planted offsets come back, and each zone has its own area and word."""

import unittest
from random import Random

from lepidos.core.errors import OutOfRange, Refused
from lepidos.core.fish.anatomy import MUSCLE_DENSITY
from lepidos.core.yields.knife_gap import gap_mm, zone_area, zone_gaps
from lepidos.guide.knife_zones import knife_zones
from lepidos.guide.library import load_guide
from lepidos.stations.schedule import boards
from lepidos.stations.undo import undo
from lepidos.stations.yieldbook import millimetres
from lepidos.stations.yieldbook.millimetres import Scrape
from lepidos.store.deck import fishes
from tests.app import AppTest

PLANTED = {"head": 1.2, "spine": 0.6, "ribs": 2.5, "belly": 0.4, "tail": 0.9, "skin": 0.3}


class PlantedTest(unittest.TestCase):
    def test_planted_offsets_come_back_within_half_a_millimetre(self) -> None:
        guide, rng = load_guide(), Random(3)
        body = guide.body_of(guide.species["pollack"])
        scraped: dict[str, list[tuple[float, float]]] = {}
        for _ in range(12):
            length = rng.uniform(0.45, 0.85)
            for zone in knife_zones().zones:
                square = zone_area(body, zone.outline, length)
                left = (
                    max(0.0, PLANTED[zone.key] + rng.gauss(0, 0.3)) / 1000 * square * MUSCLE_DENSITY
                )
                shown = round(left * (1 + rng.gauss(0, 0.02)), 3)  # 2 % of noise, a scale of grams
                scraped.setdefault(zone.key, []).append((shown, square))
        for gap in zone_gaps(scraped):
            self.assertAlmostEqual(gap.mm, PLANTED[gap.zone], delta=0.5)
            self.assertLess(abs(gap.mm - PLANTED[gap.zone]), 3 * (gap.high - gap.low))
        self.assertEqual(zone_gaps(scraped)[0].zone, "ribs")

    def test_a_side_is_its_zones_together(self) -> None:
        """The zones over the bones do not lie over each other by more than a little."""
        guide = load_guide()
        for key in ("pollack", "cod", "mackerel", "plaice", "turbot"):
            body = guide.body_of(guide.species[key])
            squares = {z.key: zone_area(body, z.outline, 1.0) for z in knife_zones().zones}
            whole = squares.pop("skin")
            self.assertTrue(all(a > 0 for a in squares.values()), key)
            self.assertLess(sum(squares.values()), 1.05 * whole, key)

    def test_a_layer_is_grams_over_area(self) -> None:
        self.assertAlmostEqual(gap_mm(0.0106, 0.01), 1.0)
        self.assertEqual(gap_mm(0.0, 0.01), 0.0)
        for kg, square in ((-0.1, 1.0), (1.0, 0.0)):
            with self.assertRaises(OutOfRange):
                gap_mm(kg, square)
        self.assertIsNone(zone_gaps({"ribs": [(0.01, 0.02)]})[0].low)


class ScrapedTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        order = boards.AddBoard(self.trip, "Ines")
        board = boards.add_board(self.ctx, self.key(), order).subject_id
        self.fish = self.land(self.trip, "pollack", 62, weight_kg=2.2).subject_id
        boards.start_fish(self.ctx, self.key(), boards.StartFish(self.fish, board))
        self.weigh(self.fish, "fillet.A", 0.45)

    def note(self, zone: str, kg: float | None, side: str = "A", fish: str = "") -> str:
        order = Scrape(fish or self.fish, side, zone, kg)
        return millimetres.scrape(self.ctx, self.key(), order).subject_id

    def test_what_is_scraped_is_that_cutters_and_the_thickest_first(self) -> None:
        self.note("spine", 0.004)
        self.note("ribs", 0.03)
        self.note("ribs", 0.02, "B")
        (ines,) = millimetres.view_millimetres(self.ctx).cutters
        self.assertEqual((ines.name, ines.worst.zone, ines.worst.sides), ("Ines", "ribs", 2))
        guide = self.ctx.guide
        square = zone_area(
            guide.body_of(guide.species["pollack"]), knife_zones().one("ribs").outline, 0.62
        )
        self.assertAlmostEqual(ines.worst.mm, 0.025 / square / MUSCLE_DENSITY * 1000)

    def test_two_spoons_of_one_zone_are_one_layer_and_undone_they_are_gone(self) -> None:
        self.note("ribs", 0.01)
        again = self.note("ribs", 0.01)
        found = millimetres.view_millimetres(self.ctx).cutters[0].worst
        self.assertEqual((found.sides, found.kg_a_side), (1, 0.02))
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("scraping", again))
        self.assertEqual(millimetres.view_millimetres(self.ctx).cutters[0].worst.kg_a_side, 0.01)

    def test_slips_are_said_at_their_fields(self) -> None:
        squid = self.land(self.trip, "european_squid", 30).subject_id
        for call, field in (
            (lambda: self.note("nose", 0.01), "zone"),
            (lambda: self.note("ribs", None), "weight"),
            (lambda: self.note("ribs", 7.0), "weight"),
            (lambda: self.note("ribs", 0.01, "C"), "side"),
            (lambda: self.note("ribs", 0.01, fish=squid), "fish"),
        ):
            with self.assertRaises(Refused) as caught:
                call()
            self.assertEqual(list(caught.exception.problems), [field])

    def test_a_scraped_frame_adds_nothing_to_what_the_fish_gave(self) -> None:
        before = self.weighed()
        self.note("ribs", 0.03)
        self.assertEqual(self.weighed(), before)

    def weighed(self) -> float:
        with self.ctx.store.reading():
            return fishes.now(self.fish).weighed_kg
