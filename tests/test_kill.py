"""Nothing acknowledged is lost, doubled or without effect: the process is killed amid a stream of writes.

Several hands write at once, each its own kind of work; one restart in the middle comes with a clock
that stands an hour back, as on a board computer without a battery.
"""

import http.client
import json
import shutil
import sqlite3
import tempfile
import threading
import time
import unittest
from collections import Counter
from pathlib import Path
from random import Random
from typing import Any

from tests import kills
from tests.amount import much
from tests.hands import Hand, Joiner, Packer, Weigher, Worker
from tests.server import CLOCK, Server

ROUNDS = much(10, 5)
ANSWERS = 5  # that every hand gets between two kills
BACK_AT, AN_HOUR_BACK = ROUNDS // 2, CLOCK.replace("T12:", "T11:")


class KillTest(unittest.TestCase):
    def post(self, path: str, body: dict[str, Any], key: str) -> dict[str, Any]:
        line = http.client.HTTPConnection("127.0.0.1", self.server.port, timeout=10)
        line.request(
            "POST", f"/api/v1{path}", json.dumps(body),
            {"content-type": "application/json", "idempotency-key": key},
        )  # fmt: skip
        answer: dict[str, Any] = json.loads(line.getresponse().read())
        line.close()
        return answer

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.server = Server(self.folder)
        self.server.start()
        self.addCleanup(self.server.kill)

    def hands(self) -> list[Hand]:
        trip = self.post(
            "/trips", {"name": "Marram Lass", "harbour": "Skarrow Quay", "on_date": "2026-07-14"}, "the-trip-itself"
        )["id"]  # fmt: skip
        workers: list[Worker] = [
            Weigher("weigher", self.server, trip),
            Joiner("joiner", self.server, trip),
        ]
        packer = Packer("packer", self.server, trip)
        packer.place = self.post("/places", {"name": "chest"}, "the-freezer-place")["id"]
        for n, worker in enumerate([*workers, packer]):
            landed = self.post(
                f"/trips/{trip}/fish", {"species": "ling", "length_cm": 110}, f"fish-of-worker-{n}"
            )
            worker.fish = landed["id"]
        return [
            Hand("lander-1", self.server, trip),
            Hand("lander-2", self.server, trip),
            *workers,
            packer,
        ]

    def test_every_acknowledged_write_is_there_once_and_has_its_effect_after_many_kills(
        self,
    ) -> None:
        hands = self.hands()
        for hand in hands:
            hand.start()
        rng = Random(5)
        for n in range(ROUNDS):
            self.wait_for_work(hands)
            time.sleep(rng.uniform(0.0, 0.2))
            self.server.kill()
            self.server.start(AN_HOUR_BACK if n >= BACK_AT else CLOCK)
        self.wait_for_work(hands)
        for hand in hands:
            hand.ending.set()
        for hand in hands:
            hand.join(20)
            self.assertEqual(hand.failure, "")
        self.server.kill()

        file = sqlite3.connect(self.folder / "lepidos.sqlite")
        self.addCleanup(file.close)
        self.assertEqual(file.execute("PRAGMA integrity_check").fetchone(), ("ok",))
        kept = dict(file.execute("SELECT key, subject_id FROM entry"))
        for hand in hands:
            self.assertGreater(len(hand.acknowledged), 2 * ROUNDS, hand.name)
            for key, answer in hand.acknowledged.items():
                self.assertEqual(kept.get(key), answer["id"], key)
        self.check_rows(file)
        self.check_effects(file, hands)

    def wait_for_work(self, hands: list[Hand]) -> None:
        """Until every hand has had answers since now: on a slow machine that takes longer."""
        before = [hand.sent for hand in hands]
        end = time.monotonic() + 60
        while time.monotonic() < end:
            if all(h.sent >= b + ANSWERS or h.failure for h, b in zip(hands, before, strict=True)):
                return
            time.sleep(0.02)
        self.fail("the hands get no answers")

    def check_rows(self, file: sqlite3.Connection) -> None:
        """Each entry made its row or rows, and there are no others."""
        by_action = Counter(row[0] for row in file.execute("SELECT action FROM entry"))

        def count(table: str) -> int:
            return int(file.execute(f"SELECT COUNT(*) FROM {table}").fetchone()[0])

        self.assertEqual(count("fish"), by_action["deck.land"])
        self.assertEqual(
            count("weighing"),
            by_action["table.weigh"] + by_action["table.correct"] + 2 * by_action["table.together"],
        )
        self.assertEqual(count("bag"), by_action["pack.bag"])
        self.assertEqual(count("portion"), by_action["pack.bag"])
        self.assertEqual(count("move"), by_action["freezer.in"] + by_action["freezer.out"])
        joint_undone = file.execute(
            "SELECT COUNT(*) FROM undo JOIN weighing ON weighing.id = target_id WHERE joint <> ''"
        ).fetchone()[0]
        self.assertEqual(
            count("undo"), by_action["undo"] + by_action["table.correct"] + joint_undone // 2
        )
        whole = file.execute(
            """SELECT COUNT(*) FROM fish f JOIN measurement m ON m.fish_id = f.id
               JOIN fish_now n ON n.fish_id = f.id"""
        ).fetchone()[0]
        self.assertEqual(whole, count("fish"))

    def check_effects(self, file: sqlite3.Connection, hands: list[Hand]) -> None:
        """What was done last is what is true now, though keys and clock came from two starts."""
        for worker in (h for h in hands if isinstance(h, Worker)):
            (derived,) = file.execute(
                "SELECT weighed_kg FROM fish_now WHERE fish_id = ?", (worker.fish,)
            ).fetchone()
            (summed,) = file.execute(
                "SELECT SUM(kg) FROM weighing WHERE fish_id = ? AND id NOT IN (SELECT target_id FROM undo)",
                (worker.fish,),
            ).fetchone()
            self.assertAlmostEqual(derived, summed, places=6, msg=worker.name)
        expected: dict[str, str] = {}
        packer = next(h for h in hands if isinstance(h, Packer))
        order = file.execute(
            "SELECT key, action, subject_id, undoes FROM entry WHERE key LIKE 'packer-%' ORDER BY rowid"
        ).fetchall()
        self.assertEqual([row[0] for row in order], sorted(row[0] for row in order))
        bag_of = dict(file.execute("SELECT id, bag_id FROM move"))
        for _, action, subject, undoes in order:
            if action == "pack.bag":
                expected[subject] = "sealed"
            elif action in {"freezer.in", "freezer.out"}:
                expected[bag_of[subject]] = action.removeprefix("freezer.")
            elif action == "undo" and undoes in bag_of:
                expected[bag_of[undoes]] = "in"
            elif action == "undo":
                expected[undoes] = "withdrawn"
        self.assertGreater(len(expected), ROUNDS)
        self.assertEqual(dict(file.execute("SELECT bag_id, state FROM bag_now")), expected)
        self.assertGreater(len(set(expected.values())), 2, packer.sent)
        for table in ("entry",):
            rows = [
                row[0]
                for row in file.execute(
                    f"SELECT subject_id FROM {table} WHERE action = 'deck.land' ORDER BY rowid"
                )
            ]
            self.assertEqual(rows, sorted(rows))  # keys rise over every start

    def test_kills_amid_a_copy_and_amid_going_back_to_one_lose_nothing(self) -> None:
        hands = self.hands()[:2]
        for hand in hands:
            hand.start()
        self.wait_for_work(hands)
        acknowledged: dict[str, Any] = {}
        threading.Thread(target=self.gather, args=(hands, acknowledged), daemon=True).start()
        self.assertGreater(kills.copies(self.server, acknowledged, 4, Random(11)), 0)
        self.wait_for_work(hands)
        for hand in hands:
            hand.ending.set()
            hand.join(20)
            self.assertEqual(hand.failure, "")
        self.server.kill()
        done = {key for hand in hands for key in hand.acknowledged}
        copy = sorted((self.folder / "backups").glob("*.sqlite"))[0]
        apart = self.folder / "copy.sqlite"
        shutil.copy(copy, apart)  # what the restore prunes is no matter here
        kills.restores(self.folder, apart, done, 4, Random(12))

    def gather(self, hands: list[Hand], acknowledged: dict[str, Any]) -> None:
        while not all(hand.ending.is_set() for hand in hands):
            for hand in hands:
                acknowledged.update(dict(hand.acknowledged))
            time.sleep(0.01)

    def test_kills_amid_bringing_an_old_file_forward_lose_nothing(self) -> None:
        self.server.kill()
        self.assertGreater(kills.migrations(self.folder, 4, Random(13)), 0)

    def test_a_polite_stop_folds_the_log_back_and_ends_well(self) -> None:
        self.assertEqual(self.server.stop(), 0)
        left = {p.name for p in self.folder.glob("lepidos.sqlite*")}
        self.assertEqual(left, {"lepidos.sqlite", "lepidos.sqlite-mark", "lepidos.sqlite-lock"})
