"""Nothing acknowledged is lost, nothing is doubled: the process is killed amid a stream of writes."""

import http.client
import json
import sqlite3
import tempfile
import threading
import time
import unittest
from pathlib import Path
from random import Random

from tests.server import Server

ROUNDS = 12
HANDS = 3


class Hand(threading.Thread):
    """Lands fish one after another; a request without an answer is sent again with its key."""

    def __init__(self, name: str, server: Server, trip: str) -> None:
        super().__init__(daemon=True)
        self.name, self._server, self._trip = name, server, trip
        self.acknowledged: dict[str, str] = {}
        self.sent = 0
        self.ending = threading.Event()
        self.failure: str = ""

    def run(self) -> None:
        while not self.ending.is_set() and not self.failure:
            key = f"{self.name}-{self.sent:08d}"
            answer = None
            while answer is None and not self.failure:
                answer = self._land(key)
            if answer:
                self.acknowledged[key] = answer
            self.sent += 1

    def what(self) -> tuple[str, dict[str, object]]:
        """Where to send what."""
        return f"/api/v1/trips/{self._trip}/fish", {"species": "mackerel", "length_cm": 37}

    def _land(self, key: str) -> str | None:
        path, body = self.what()
        line = http.client.HTTPConnection("127.0.0.1", self._server.port, timeout=10)
        try:
            line.request(
                "POST", path, json.dumps(body),
                {"content-type": "application/json", "idempotency-key": key},
            )  # fmt: skip
            answer = line.getresponse()
            body = answer.read()
        except (OSError, http.client.HTTPException):
            time.sleep(0.02)
            return None
        finally:
            line.close()
        if answer.status != 201:
            self.failure = f"{answer.status} {body[:200]!r}"
            return None
        return str(json.loads(body)["id"])


class Weigher(Hand):
    """Weighs pieces of one fish, one after another."""

    fish = ""

    def what(self) -> tuple[str, dict[str, object]]:
        return f"/api/v1/fish/{self.fish}/weighings", {"piece": "trim", "weight_kg": 0.01}


class KillTest(unittest.TestCase):
    def test_every_acknowledged_write_is_there_once_after_many_kills(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        server = Server(Path(folder.name))
        server.start()
        self.addCleanup(server.kill)
        line = http.client.HTTPConnection("127.0.0.1", server.port)
        line.request(
            "POST", "/api/v1/trips",
            json.dumps({"name": "Marram Lass", "harbour": "Skarrow Quay", "on_date": "2026-07-14"}),
            {"content-type": "application/json", "idempotency-key": "the-trip-itself"},
        )  # fmt: skip
        trip = json.loads(line.getresponse().read())["id"]
        hands = [Hand(f"hand-{k}", server, trip) for k in range(HANDS)]
        weigher = Weigher("weigher", server, trip)
        weigher.fish = str(hands[0]._land("the-fish-that-is-cut"))
        for hand in [*hands, weigher]:
            hand.start()
        rng = Random(5)
        for _ in range(ROUNDS):
            time.sleep(rng.uniform(0.1, 0.5))
            server.kill()
            server.start()
        time.sleep(0.3)
        for hand in [*hands, weigher]:
            hand.ending.set()
        for hand in [*hands, weigher]:
            hand.join(20)
            self.assertEqual(hand.failure, "")
        server.kill()

        file = sqlite3.connect(Path(folder.name) / "lepidos.sqlite")
        self.addCleanup(file.close)
        self.assertEqual(file.execute("PRAGMA integrity_check").fetchone(), ("ok",))
        kept = dict(file.execute("SELECT key, subject_id FROM entry WHERE action = 'deck.land'"))
        acknowledged = {k: v for hand in hands for k, v in hand.acknowledged.items()}
        self.assertGreater(len(acknowledged), 10 * ROUNDS)
        for key, fish in acknowledged.items():
            self.assertEqual(kept.get(key), fish)
        fish_ids = [row[0] for row in file.execute("SELECT id FROM fish")]
        self.assertEqual(sorted(fish_ids), sorted(kept.values()))
        self.assertEqual(len(set(kept.values())), len(kept))
        weighed = dict(
            file.execute("SELECT key, subject_id FROM entry WHERE action = 'table.weigh'")
        )
        self.assertGreater(len(weigher.acknowledged), ROUNDS)
        for key, row in weigher.acknowledged.items():
            self.assertEqual(weighed.get(key), row)
        rows = [row[0] for row in file.execute("SELECT id FROM weighing")]
        self.assertEqual(sorted(rows), sorted(weighed.values()))
        (derived,) = file.execute(
            "SELECT weighed_kg FROM fish_now WHERE fish_id = ?", (weigher.fish,)
        ).fetchone()
        self.assertAlmostEqual(derived, 0.01 * len(rows), places=6)
        # nothing half-written: each fish has its length and its derived row
        (whole,) = file.execute(
            """SELECT COUNT(*) FROM fish f JOIN measurement m ON m.fish_id = f.id
               JOIN fish_now n ON n.fish_id = f.id"""
        ).fetchone()
        self.assertEqual(whole, len(fish_ids))

    def test_a_polite_stop_folds_the_log_back_and_ends_well(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            server = Server(Path(folder))
            server.start()
            self.assertEqual(server.stop(), 0)
            self.assertEqual([p.name for p in Path(folder).iterdir()], ["lepidos.sqlite"])
