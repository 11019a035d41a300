"""Copies that nobody asked for, and what is looked at."""

import tempfile
from collections.abc import Callable
from pathlib import Path
from unittest.mock import patch

from lepidos.stations.health.checks import Check, check_all
from lepidos.stations.health.copies import Copies
from lepidos.store.deck import fishes
from lepidos.store.file.database import Store
from lepidos.store.file.file_problems import FullDisk
from tests.app import AppTest


class HealthTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        stick = tempfile.TemporaryDirectory()
        self.addCleanup(stick.cleanup)
        self.stick = Path(stick.name) / "stick"
        self.copies = Copies(self.ctx.store.path, self.stick)

    def whys(self) -> list[str]:
        return [one.why for one in self.copies.listed()]

    def check(self, name: str, host: str = "127.0.0.1") -> Check:
        return next(c for c in check_all(self.ctx, self.copies, host) if c.name == name)


class CopiesTest(HealthTest):
    def test_there_is_one_at_a_start_and_one_a_day_when_something_was_done(self) -> None:
        self.copies.begin(self.ctx)
        self.assertEqual(self.whys(), [])  # nothing was ever entered
        trip = self.start_trip()
        self.copies.begin(self.ctx)
        self.copies.begin(self.ctx)
        self.assertEqual(self.whys(), ["start"])
        self.land(trip)
        self.clock.advance(hours=23)
        self.copies.look(self.ctx)
        self.assertEqual(self.whys(), ["start"])
        self.clock.advance(hours=2)
        self.copies.look(self.ctx)
        self.assertEqual(self.whys(), ["daily", "start"])
        self.clock.advance(hours=48)
        self.copies.look(self.ctx)
        self.assertEqual(self.whys(), ["daily", "start"])  # nothing was done since

    def test_a_copy_has_what_was_done_up_to_then(self) -> None:
        trip = self.start_trip()
        self.land(trip)
        self.copies.make(self.ctx, "asked")
        self.land(trip)
        self.ctx.store.close()
        copy = Store.open(self.copies.listed()[0].path)
        self.addCleanup(copy.close)
        with copy.reading():
            self.assertEqual(fishes.count(), 1)

    def test_a_clock_that_went_back_does_not_stop_the_copies(self) -> None:
        trip = self.start_trip()
        self.copies.begin(self.ctx)
        self.land(trip)
        self.clock.advance(days=-3)
        self.copies.look(self.ctx)
        self.assertEqual(len(self.whys()), 2)

    def test_the_second_folder_gets_each_when_it_is_there(self) -> None:
        trip = self.start_trip()
        self.copies.begin(self.ctx)
        self.assertIn("is not there", self.copies.second_problem)
        self.assertFalse(self.check("Second folder").well)
        self.stick.mkdir()
        self.copies.look(self.ctx)
        self.assertEqual(self.copies.second_problem, "")
        names = [one.path.name for one in self.copies.listed()]
        self.assertEqual([one.path.name for one in self.copies.listed_second()], names)
        self.assertTrue(self.check("Second folder").well)
        self.land(trip)
        self.assertEqual(len(self.copies.listed_second()), 1)

    def test_a_copy_that_cannot_be_made_is_told_and_leaves_nothing(self) -> None:
        self.start_trip()
        full = FullDisk(self.copies.folder)
        with patch.object(Store, "backup", side_effect=full):
            self.copies.begin(self.ctx)
        self.assertIn("The disk is full", self.copies.problem)
        self.assertFalse(self.check("Copies").well)
        with patch("lepidos.store.file.backups.has_room", return_value=False):
            self.copies.make(self.ctx, "asked")
        self.assertIn("too little room", self.copies.problem)
        self.assertEqual(list(self.copies.folder.iterdir()), [])
        self.copies.make(self.ctx, "asked")
        self.assertEqual((self.copies.problem, len(self.whys())), ("", 1))


class ChecksTest(HealthTest):
    def test_all_is_well_on_a_new_machine(self) -> None:
        ill = [
            c
            for c in check_all(self.ctx, Copies(self.ctx.store.path, None), "127.0.0.1")
            if not c.well
        ]
        self.assertEqual(ill, [])

    def test_each_thing_that_is_wrong_is_told(self) -> None:
        trip = self.start_trip()
        self.copies.begin(self.ctx)
        self.land(trip)
        self.assertTrue(self.check("Copies").well)

        def later() -> None:
            self.clock.advance(days=4)

        def earlier() -> None:
            self.clock.advance(days=-10)

        cases: tuple[tuple[Callable[[], object], str, str], ...] = (
            (later, "Copies", "newest is of 2026-07-14"),
            (earlier, "Clock", "Set the clock"),
            (self.ctx.store.path.unlink, "Data file", "moved, deleted or exchanged"),
        )
        for do, name, words in cases:
            with self.subTest(name=name):
                do()
                found = self.check(name)
                self.assertFalse(found.well)
                self.assertIn(words, found.said)

    def test_who_else_can_reach_the_app_is_said(self) -> None:
        self.assertTrue(self.check("Network").well)
        found = self.check("Network", "0.0.0.0")
        self.assertFalse(found.well)
        self.assertIn("let in one by one", found.said)
        (bare,) = (
            c for c in check_all(self.ctx, self.copies, "0.0.0.0", True) if c.name == "Network"
        )
        self.assertIn("whoever is on this network", bare.said)

    def test_little_room_is_told(self) -> None:
        with patch("lepidos.stations.health.checks.MIN_FREE_MB", 1e12):
            self.assertFalse(self.check("Room").well)
