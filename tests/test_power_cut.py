"""The power goes at any moment: the app starts again, with every entry that was acknowledged.

What a cut leaves is a copy of a disk's image, made while the disk is written to (see `tests.disk`).
"""

import os
import signal
import sqlite3
import threading
import time
import unittest
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager, suppress
from dataclasses import replace
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory
from typing import Any
from unittest.mock import patch

from lepidos.stations.bundle.bring_in import BringIn, Coming, bring_in
from lepidos.stations.bundle.read import read_bundle
from lepidos.stations.bundle.write import write_bundle
from lepidos.store.bundle.restore import restore
from lepidos.store.file import durable, migrate
from lepidos.store.file.database import Store
from tests import kills, warm
from tests.amount import much
from tests.app import NOON, AppTest, lay_out
from tests.disk import Disk, can_mount
from tests.hands import Hand
from tests.server import CLOCK, ENV, Server

AMID_ENTRIES, AMID_STARTS, AMID_MIGRATIONS = much(100, 50), much(24, 8), much(24, 8)
NAME = "lepidos.sqlite"


def entries(path: Path) -> set[str]:
    """Start on a file, as the app does before it listens; the keys of what was done."""
    store = Store.open(path)
    try:
        store.mark()
        if (found := store.check()) != "ok":
            raise AssertionError(found)
    finally:
        store.close()
    return kills.keys(path)


@unittest.skipUnless(can_mount(), "no image can be mounted here: it takes root and a loop device")
class PowerCutTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.disk = Disk(self.folder / "boat")
        mounted = self.disk.mounted()
        self.root = mounted.__enter__()
        self.addCleanup(mounted.__exit__, None, None, None)
        self.data = self.root / "data"
        self.cuts = 0

    def after_a_cut(self, look: Callable[[Path], Any]) -> Any:
        """Cut the power now, and look at the data folder that the next start finds."""
        self.cuts += 1
        after = self.disk.cut(self.folder / f"cut-{self.cuts}")
        with after.mounted() as root:
            found = look(root / "data")
        after.image.unlink()
        return found

    @contextmanager
    def stopped(self, pid: int) -> Iterator[None]:
        """A process stands still, between two calls of the system."""
        os.kill(pid, signal.SIGSTOP)
        try:
            yield
        finally:
            os.kill(pid, signal.SIGCONT)

    @contextmanager
    def at_every_step(self, look: Callable[[Path], Any]) -> Iterator[list[Any]]:
        """Cut the power before each step on the disk of what is done inside, and at its end."""
        found: list[Any] = []
        looking = False

        def stepping(real: Callable[..., Any]) -> Callable[..., Any]:
            def step(*given: Any, **more: Any) -> Any:
                nonlocal looking
                if looking:  # the start after a cut takes the same steps
                    return real(*given, **more)
                looking = True
                found.append(self.after_a_cut(look))
                looking = False
                return real(*given, **more)

            return step

        with (
            patch.object(Path, "rename", stepping(Path.rename)),
            patch.object(Path, "replace", stepping(Path.replace)),
            patch("os.link", stepping(os.link)),
            patch("os.fsync", stepping(os.fsync)),
            patch.object(durable, "remove", stepping(durable.remove)),
            patch.object(Store, "mark", stepping(Store.mark)),
        ):
            yield found
        found.append(self.after_a_cut(look))

    def test_amid_landings_and_copies(self) -> None:
        self.data.mkdir()
        server = Server(self.data, searches=False)
        server.start()
        self.addCleanup(server.kill)
        hand = Hand("lander", server, "")
        trip = hand.send(
            "the-trip-itself", "/trips", {"name": "Marram Lass", "on_date": "2026-07-14"}
        )
        assert trip
        hand.trip = trip["id"]
        hand.start()
        rng = Random(3)
        for n in range(AMID_ENTRIES):
            if n % 4 == 0:
                threading.Thread(target=kills._ask_for_copy, args=(server,), daemon=True).start()
            time.sleep(rng.uniform(0.01, 0.2))
            acknowledged = set(hand.acknowledged)
            with self.stopped(server.pid):
                kept = self.after_a_cut(lambda folder: entries(folder / NAME))
            self.assertEqual(acknowledged - kept, set())
        hand.ending.set()
        hand.join(20)
        self.assertEqual(hand.failure, "")
        self.assertGreater(len(hand.acknowledged), AMID_ENTRIES)
        with self.stopped(server.pid):
            self.after_a_cut(self.serves)
        self.assertGreater(self.cuts, AMID_ENTRIES)

    def serves(self, folder: Path) -> None:
        """The app itself starts and answers."""
        server = Server(folder, searches=False)
        try:
            server.start()
        finally:
            server.kill()

    def test_amid_the_first_start_and_the_next_ones(self) -> None:
        def look(folder: Path) -> int:
            folder.mkdir(exist_ok=True)
            return len(entries(folder / NAME))

        with self.at_every_step(look) as found:
            entries(self.data / NAME)
        self.assertGreater(len(found), 8)
        before = self.cuts
        for n in range(AMID_STARTS):
            self.note(f"start-{n}")
            process = self.begin(self.data)
            time.sleep(0.05 * n)
            with self.stopped(process.pid):
                kept = self.after_a_cut(lambda folder: entries(folder / NAME))
            process.kill()
            process.join()
            self.assertEqual(kept, {f"start-{m}" for m in range(n + 1)})
        self.assertEqual(self.cuts - before, AMID_STARTS)

    def note(self, key: str) -> None:
        """An entry that is left in the log beside the file, as a killed app leaves it."""
        left = Path(self.data, f"{NAME}-wal")
        file = sqlite3.connect(self.data / NAME)
        file.execute("PRAGMA synchronous = FULL")
        file.execute(
            "INSERT INTO entry (key, action, digest, subject_kind, subject_id, sentence, question, undoes, at) "
            "VALUES (?, 'note', '', '', '', '', '', '', '2026-07-14T12:00:00.000Z')", (key,)
        )  # fmt: skip
        file.commit()
        log = left.read_bytes()
        file.close()
        left.write_bytes(log)
        durable.sync(left)
        durable.sync(self.data)

    def begin(self, folder: Path) -> Any:
        server = Server(folder, searches=False)
        words = ["run", "--data-dir", str(folder), "--port", str(server.port)]
        return warm.start(words, {**os.environ, **ENV, "LEPIDOS_CLOCK_AT": CLOCK})

    def test_amid_bringing_an_old_file_forward(self) -> None:
        def fish(folder: Path) -> int:
            entries(folder / NAME)
            with closing(sqlite3.connect(folder / NAME)) as file:
                (version,) = file.execute("PRAGMA user_version").fetchone()
                self.assertEqual(version, migrate.steps()[-1][0])
                return int(
                    file.execute(
                        "SELECT COUNT(*) FROM fish JOIN fish_now ON fish_id = id"
                    ).fetchone()[0]
                )

        for n in range(AMID_MIGRATIONS):
            home = self.root / "data"
            home.mkdir(exist_ok=True)
            for old in home.iterdir():
                if old.is_file():
                    old.unlink()
            kills._old_file(home / NAME)
            durable.sync(home / NAME)
            durable.sync(home)
            process = self.begin(home)
            time.sleep(0.08 * n)
            with self.stopped(process.pid):
                self.assertEqual(self.after_a_cut(fish), kills.OLD_FISH)
            process.kill()
            process.join()

    def test_on_a_full_disk_it_starts_to_be_read_or_says_why_not(self) -> None:
        self.data.mkdir()
        entries(self.data / NAME)
        server = Server(self.data, searches=False, errors=self.folder / "said")
        for free_kb in (0, 40, 200):
            with self.subTest(free_kb=free_kb):
                filler = self.root / "photos"
                self.fill(filler, free_kb)
                try:
                    server.start()
                except RuntimeError:
                    said = (self.folder / "said").read_text()
                    self.assertIn("The disk is full", said)
                    self.assertNotIn("Traceback", said)
                else:
                    server.kill()
                filler.unlink()
        server.start()
        server.kill()

    def fill(self, filler: Path, free_kb: int) -> None:
        with filler.open("wb") as file, suppress(OSError):
            while True:
                file.write(bytes(4096))
                file.flush()
        os.truncate(filler, filler.stat().st_size - free_kb * 1024)
        durable.sync(filler)

    def test_amid_going_back_to_a_copy(self) -> None:
        self.data.mkdir()
        lay_out(self.data / NAME)
        store = Store.open(self.data / NAME)
        copy = self.root / "copy.sqlite"
        store.backup(copy)
        store.close()
        self.note("since the copy")

        def look(folder: Path) -> bool:
            return "since the copy" in entries(folder / NAME)

        with self.at_every_step(look) as found:
            restore(self.data / NAME, copy, NOON)
        self.assertEqual(found[0], True)
        self.assertEqual(found[-1], False)
        self.assertEqual(sorted(found, reverse=True), found)  # the old one, then the new
        self.assertGreater(len(found), 10)


@unittest.skipUnless(can_mount(), "no image can be mounted here: it takes root and a loop device")
class MergeTest(AppTest):
    def test_amid_a_merge_there_is_all_of_the_other_log_or_nothing(self) -> None:
        self.land(self.start_trip())
        bundle = self.folder / "log.zip"
        bundle.write_bytes(b"".join(write_bundle(self.ctx)))
        self.ctx.store.close()
        cutting = PowerCutTest()
        cutting.setUp()
        self.addCleanup(cutting.doCleanups)
        cutting.data.mkdir()
        lay_out(cutting.data / NAME)
        ctx = replace(self.ctx, store=Store.open(cutting.data / NAME))
        ctx.store.mark()
        log, digest = read_bundle(ctx, bundle, self.folder / "came.log", lambda _t, _p: None)
        self.addCleanup(log.close)
        found: list[bool] = []

        def look(folder: Path) -> bool:
            # what is open here is bound to peewee's models; there the file is only read
            with closing(sqlite3.connect(folder / NAME)) as file:
                self.assertEqual(file.execute("PRAGMA integrity_check").fetchone(), ("ok",))
                (fish,) = file.execute("SELECT COUNT(*) FROM fish").fetchone()
                (bundles,) = file.execute(
                    "SELECT COUNT(*) FROM entry WHERE action = 'bundle.import'"
                ).fetchone()
            self.assertEqual(fish, bundles)
            return bool(fish)

        class Cutting(Coming):
            def told(self, table: str, part: float) -> None:
                found.append(cutting.after_a_cut(look))

        bring_in(ctx, self.key(), log, BringIn(digest, "log.zip"), Cutting("", "log.zip"))
        found.append(cutting.after_a_cut(look))
        ctx.store.close()
        self.assertEqual(found[-1], True)
        self.assertFalse(any(found[:-1]))
        self.assertGreater(len(found), 8)
