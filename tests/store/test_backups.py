"""Which copies are kept, and going back to one."""

import os
import sqlite3
import tempfile
import unittest
from collections.abc import Callable, Iterator
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from unittest.mock import patch

from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.errors import Conflict, Refused
from lepidos.store.bundle.restore import restore
from lepidos.store.deck import fishes
from lepidos.store.file import backups
from lepidos.store.file.backups import Backup, to_remove
from lepidos.store.file.database import Store
from lepidos.store.file.file_problems import (
    FileProblem,
    ForeignFile,
    MissingFile,
    NewerFile,
    NoFile,
)
from lepidos.store.file.running import only_one
from tests.app import NOON, AppTest

WHYS = st.sampled_from(["start", "daily", "asked", "migration", "restore", "bundle"])
TIMES = st.datetimes(datetime(2025, 1, 1), datetime(2026, 7, 14), timezones=st.just(UTC))


def copies(times: list[tuple[datetime, str]]) -> list[Backup]:
    return [Backup(at, why, Path(f"{n}.sqlite")) for n, (at, why) in enumerate(times)]


class KeepTest(unittest.TestCase):
    def kept_of(self, times: list[datetime], now: datetime) -> list[datetime]:
        found = copies([(at, "daily") for at in times])
        gone = to_remove(found, now)
        return [one.at for one in found if one not in gone]

    def test_two_years_of_days_leave_days_weeks_and_months(self) -> None:
        times: list[datetime] = []
        for day in range(730):
            now = NOON - timedelta(days=729 - day)
            times = self.kept_of([*times, now], now)
        ages = sorted((NOON - at).days for at in times)
        self.assertEqual(ages[:7], [0, 1, 2, 3, 4, 5, 6])  # each of the last seven days
        weeks = {at.isocalendar()[:2] for at in times}
        for back in range(5):
            self.assertIn((NOON - timedelta(weeks=back)).isocalendar()[:2], weeks)
        self.assertEqual(len({(at.year, at.month) for at in times}), 12)
        self.assertLessEqual(len(times), 7 + 5 + 12)
        self.assertGreater(ages[-1], 300)  # the last day of the twelfth month back

    def test_an_hour_of_starts_keeps_three(self) -> None:
        times = [NOON - timedelta(minutes=m) for m in range(60)]
        self.assertEqual(self.kept_of(times, NOON), times[:3])

    def test_a_copy_from_before_a_change_stays_sixty_days(self) -> None:
        newer = [(NOON - timedelta(minutes=m), "daily") for m in range(5)]
        for days, stays in ((59, True), (61, False)):
            # its day, week and month have a newer one each
            at = NOON - timedelta(days=days)
            found = copies([*newer, (at + timedelta(hours=1), "daily"), (at, "migration")])
            gone = {one.path for one in to_remove(found, NOON)}
            self.assertEqual(Path("6.sqlite") not in gone, stays, days)

    @given(st.lists(st.tuples(TIMES, WHYS), max_size=40))
    def test_the_newest_stay_and_to_ask_again_changes_nothing(
        self, times: list[tuple[datetime, str]]
    ) -> None:
        found = sorted(copies(times), reverse=True)
        gone = to_remove(found, NOON)
        kept = [one for one in found if one not in gone]
        self.assertEqual(kept[:3], found[:3])
        self.assertEqual(to_remove(kept, NOON), [])

    def test_names_sort_by_time_and_other_files_are_none_of_ours(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            for at, why in ((NOON, "daily"), (NOON - timedelta(days=1), "start")):
                (folder / backups.name_of(at, why)).write_bytes(b"x" * 2_000_000)
            (folder / "mine.sqlite").write_bytes(b"x")
            found = backups.listed(folder)
            self.assertEqual([(b.at, b.why) for b in found],
                             [(NOON, "daily"), (NOON - timedelta(days=1), "start")])  # fmt: skip
            self.assertEqual(found[0].megabytes, 2.0)


class RestoreTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.path = self.ctx.store.path
        self.trip = self.start_trip()
        self.land(self.trip)
        self.copy = self.folder / "stick" / "copy.sqlite"
        self.ctx.store.backup(self.copy)
        self.land(self.trip)

    def fish(self, path: Path) -> int:
        store = Store.open(path)
        try:
            with store.reading():
                return fishes.count()
        finally:
            store.close()

    def test_what_was_there_is_set_aside_and_copied(self) -> None:
        self.ctx.store.close()
        before = self.copy.read_bytes()
        aside = restore(self.path, self.copy, NOON)
        assert aside
        self.assertEqual(self.fish(self.path), 1)
        self.assertEqual(self.fish(aside / "lepidos.sqlite"), 2)
        (kept,) = backups.listed(self.path.parent / "backups")
        self.assertEqual((kept.why, self.fish(kept.path)), ("restore", 2))
        self.assertEqual(self.copy.read_bytes(), before)

    def test_three_within_a_second_are_set_aside_apart_and_named_in_turn(self) -> None:
        self.ctx.store.close()
        names = [folder.name for _ in range(3) if (folder := restore(self.path, self.copy, NOON))]
        first = f"{NOON:%Y%m%dT%H%M%S}"
        self.assertEqual(names, [first, f"{first}-2", f"{first}-3"])

    def test_the_log_of_changes_of_a_killed_app_goes_with_its_file(self) -> None:
        names = ("lepidos.sqlite", "lepidos.sqlite-wal")
        left = {name: (self.folder / name).read_bytes() for name in names}
        self.ctx.store.close()
        for name, data in left.items():
            (self.folder / name).write_bytes(data)
        aside = restore(self.path, self.copy, NOON)
        assert aside
        self.assertFalse((self.folder / names[1]).exists())
        self.assertEqual(self.fish(self.path), 1)
        self.assertEqual(self.fish(aside / names[0]), 2)

    def test_a_damaged_file_is_set_aside_as_it_is(self) -> None:
        self.ctx.store.close()
        self.path.write_bytes(b"\xa5" * 50_000)
        aside = restore(self.path, self.copy, NOON)
        assert aside
        self.assertEqual((aside / "lepidos.sqlite").read_bytes(), b"\xa5" * 50_000)
        self.assertEqual(self.fish(self.path), 1)

    def test_an_older_copy_comes_forward_and_a_missing_file_comes_back(self) -> None:
        self.ctx.store.close()
        self.path.unlink()
        with self.assertRaises(MissingFile):
            self.fish(self.path)
        self.assertIsNone(restore(self.path, self.copy, NOON))
        self.assertEqual(self.fish(self.path), 1)

    def test_what_is_no_copy_changes_nothing(self) -> None:
        self.ctx.store.close()
        whole = self.path.read_bytes()
        odd = self.folder / "odd.sqlite"
        cases: Iterator[tuple[bytes | None, type[Exception], str]] = iter((
            (None, NoFile, "no data file odd.sqlite"),
            (b"a letter" * 500, ForeignFile, "odd.sqlite is not a data file"),
            (self.copy.read_bytes()[:60] + (99).to_bytes(4, "big") + self.copy.read_bytes()[64:],
             NewerFile, "wrote .*odd.sqlite"),
            (self.copy.read_bytes()[:30_000], FileProblem, "odd.sqlite is damaged"),
        ))  # fmt: skip
        for data, kind, words in cases:
            with self.subTest(words=words):
                if data is not None:
                    odd.write_bytes(data)
                with self.assertRaisesRegex(kind, words):
                    restore(self.path, odd, NOON)
                self.assertEqual(self.path.read_bytes(), whole)
                self.assertFalse(list(self.folder.glob("*.restored*")))
        with self.assertRaisesRegex(Refused, "is the data file itself"):
            restore(self.path, self.path, NOON)

    def test_stopped_before_any_step_the_file_opens_and_the_same_command_finishes(self) -> None:
        self.ctx.store.close()
        whole, steps = self.path.read_bytes(), 0
        seen = set()
        for stop_at in range(20):
            with tempfile.TemporaryDirectory() as name:
                path = Path(name) / "lepidos.sqlite"
                path.write_bytes(whole)
                path.with_name("lepidos.sqlite-mark").write_text("0123456789abcdef")
                steps = 0

                def stepping(
                    real: Callable[..., Any], stop_at: int = stop_at
                ) -> Callable[..., Any]:
                    def step(*given: Any) -> Any:
                        nonlocal steps
                        steps += 1
                        if steps > stop_at:
                            raise KeyboardInterrupt
                        return real(*given)

                    return step

                with (
                    patch.object(Path, "rename", stepping(Path.rename)),
                    patch.object(Path, "replace", stepping(Path.replace)),
                    patch("os.link", stepping(os.link)),
                ):
                    try:
                        restore(path, self.copy, NOON)
                        break
                    except KeyboardInterrupt:
                        pass
                Store.open(path).close()
                seen.add(self.fish(path))
                restore(path, self.copy, NOON)
                self.assertEqual(self.fish(path), 1)
                found = [*Path(name).glob("set-aside/*/lepidos.sqlite"),
                         *(b.path for b in backups.listed(Path(name) / "backups"))]  # fmt: skip
                self.assertIn(2, [self.fish(one) for one in found], stop_at)
        self.assertGreaterEqual(steps, 4)  # the copy, the old file, its mark, the new one
        self.assertEqual(seen, {1, 2})  # before it has the name, and after

    def test_a_damaged_file_goes_aside_before_what_lies_beside_it(self) -> None:
        self.ctx.store.close()
        self.path.write_bytes(b"SQLite format 3\0" + bytes(4096))
        beside = self.path.with_name("lepidos.sqlite-wal")
        beside.write_bytes(b"what was done last")
        aside = restore(self.path, self.copy, NOON)
        assert aside
        self.assertEqual((aside / beside.name).read_bytes(), b"what was done last")
        self.assertFalse(beside.exists())
        self.assertEqual(self.fish(self.path), 1)

    def test_a_running_app_is_not_restored_under_its_feet(self) -> None:
        with only_one(self.path), self.assertRaisesRegex(Conflict, "is running"), only_one(self.path):  # fmt: skip
            self.fail("two hold the lock")


class MarkTest(AppTest):
    def test_a_copy_is_not_taken_for_the_file_it_was_made_of(self) -> None:
        self.ctx.store.mark()
        copy = self.folder / "copy.sqlite"
        self.ctx.store.backup(copy)
        marks = []
        for path in (self.ctx.store.path, copy):
            with closing(sqlite3.connect(path)) as file:
                marks += file.execute("SELECT mark FROM file_mark").fetchone()
        self.assertNotEqual(*marks)
