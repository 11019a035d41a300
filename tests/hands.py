"""Hands that write to a running app, one request after another, and know what was acknowledged."""

import http.client
import json
import threading
import time
from collections.abc import Generator
from typing import Any

from tests.server import Server

Script = Generator[tuple[str, dict[str, Any]], dict[str, Any], None]


class Hand(threading.Thread):
    """Sends one request after another; one without an answer is sent again with its key."""

    def __init__(self, name: str, server: Server, trip: str) -> None:
        super().__init__(daemon=True)
        self.name, self._server, self.trip = name, server, trip
        self.acknowledged: dict[str, dict[str, Any]] = {}
        self.sent = 0
        self.ending = threading.Event()
        self.failure = ""

    def script(self) -> Script:
        """What it sends, path and body; it is given each answer."""
        while True:
            yield f"/trips/{self.trip}/fish", {"species": "mackerel", "length_cm": 37}

    def run(self) -> None:
        script = self.script()
        path, body = next(script)
        while not self.ending.is_set() and not self.failure:
            answer = self.send(f"{self.name}-{self.sent:08d}", path, body)
            if answer is not None:
                path, body = script.send(answer)

    def send(self, key: str, path: str, body: dict[str, Any]) -> dict[str, Any] | None:
        """The answer, however often it takes to get one; None when the hand is to end."""
        while not self.failure:
            line = http.client.HTTPConnection("127.0.0.1", self._server.port, timeout=10)
            try:
                line.request(
                    "POST", f"/api/v1{path}", json.dumps(body),
                    {"content-type": "application/json", "idempotency-key": key},
                )  # fmt: skip
                answer = line.getresponse()
                text = answer.read()
            except (OSError, http.client.HTTPException):
                time.sleep(0.02)
                continue
            finally:
                line.close()
            if answer.status == 503 and answer.getheader("retry-after"):
                time.sleep(0.05)  # a machine under load: the same is asked for again, by its key
                continue
            if answer.status != 201:
                self.failure = f"{path}: {answer.status} {text[:200]!r}"
                return None
            self.sent += 1
            self.acknowledged[key] = json.loads(text)
            return self.acknowledged[key]
        return None


class Worker(Hand):
    """A hand with a fish of its own."""

    fish = ""


class Weigher(Worker):
    """Weighs, corrects what it weighed, and takes every third correction back."""

    def script(self) -> Script:
        for n in range(10**6):
            row = yield f"/fish/{self.fish}/weighings", {"piece": "trim", "weight_kg": 0.1}
            new = yield (
                f"/fish/{self.fish}/corrections",
                {"weighing_id": row["id"], "weight_kg": 0.01},
            )
            if n % 3 == 0:
                yield "/undo", {"kind": "weighing", "id": new["id"]}


class Joiner(Worker):
    """Weighs two pieces together, and takes every other pair back."""

    def script(self) -> Script:
        for n in range(10**6):
            row = yield (
                f"/fish/{self.fish}/together",
                {"slots": ["collar.A", "collar.B"], "weight_kg": 0.12},
            )
            if n % 2:
                yield "/undo", {"kind": "weighing", "id": row["id"]}


class Packer(Worker):
    """Seals a bag, puts it away, takes it out again; takes some of it back."""

    place = ""

    def script(self) -> Script:
        for n in range(10**6):
            row = yield f"/fish/{self.fish}/weighings", {"piece": "spoon_meat", "weight_kg": 0.2}
            bag = yield f"/pieces/{row['id']}/bags", {"index": 0}
            if n % 4 == 3:
                yield "/undo", {"kind": "bag", "id": bag["id"]}
                continue
            yield f"/bags/{bag['code']}/in", {"place_id": self.place}
            if n % 4 == 0:
                continue
            move = yield f"/bags/{bag['code']}/out", {"why": "to eat"}
            if n % 4 == 1:
                yield "/undo", {"kind": "move", "id": move["id"]}
