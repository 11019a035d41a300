"""Weighings at four benches: how soon they are acknowledged, and whether kills lose or double any.

`python -m bench.weighing [seconds]`: four benches take a piece a second each; alone, then with what
their pages do besides (the stream of changes, the page fetched again, the scale's stream).
`python -m bench.weighing kills [how many]`: so many weighings while the process is killed again and
again; then every acknowledged one must be there once.
"""

import http.client
import json
import sqlite3
import statistics
import sys
import tempfile
import threading
import time
from pathlib import Path
from random import Random
from urllib.parse import urlencode

from bench.deck import post
from bench.pages import get
from tests.server import Server

SLOTS = (
    "gut",
    "belly.A",
    "belly.B",
    "fillet.A",
    "fillet.B",
    "collar.A",
    "collar.B",
    "head",
    "frame",
)
BENCHES = 4
GATHER_S = 0.35


def day(server: Server, fish: int) -> tuple[str, list[str], list[str]]:
    """A trip with four boards and so many pollack; paths of the boards and of the fish."""
    to = post(server.port, "/trips", {
        "key": "bench-trip-1", "name": "Marram Lass", "kind": "boat", "harbour": "Skarrow Quay",
        "on_date": "2026-07-14", "sea_c": "14", "air_c": "18", "ice_kg": "80",
    })["to"]  # fmt: skip
    trip = str(to).split("/deck")[0]
    for name in ("Ines", "Tobias", "Maud", "Piet"):
        post(server.port, f"{trip}/boards", {"key": f"bench-board-{name}", "cutter": name})
    ids = []
    for k in range(fish):
        fields = {
            "key": f"bench-{k:08d}",
            "species": "pollack",
            "length": "68",
            "weight": "2.9",
            "bled": "on",
        }
        ids.append(str(post(server.port, f"/live{trip}/fish", fields)["id"]))
    page = get(server.port, f"{trip}/table")[1].decode()
    boards = [part[:26] for part in page.split('action="/boards/')[1:]]
    return trip, boards, [f"/fish/{i}" for i in ids]


class Listener(threading.Thread):
    """Follows a stream, as an open page does; fetches the page again for each change."""

    def __init__(self, port: int, path: str, fetch: str = "") -> None:
        super().__init__(daemon=True)
        self.port, self.path, self.fetch = port, path, fetch
        self.heard, self.pages, self.news = 0, [], threading.Event()

    def _look_again(self) -> None:
        while True:
            self.news.wait()
            time.sleep(GATHER_S)  # as the page does: changes are gathered for a moment
            self.news.clear()
            try:
                self.pages.append(get(self.port, self.fetch)[0])
            except (OSError, http.client.HTTPException):
                return

    def run(self) -> None:
        """Until the program ends."""
        if self.fetch:
            threading.Thread(target=self._look_again, daemon=True).start()
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=600)
        line.request("GET", self.path, headers={"accept": "text/event-stream"})
        answer = line.getresponse()
        while text := answer.readline():
            if text.startswith(b"data:"):
                self.heard += 1
                self.news.set()


class Bench(threading.Thread):
    """Takes a piece a second."""

    def __init__(self, port: int, name: str, board: str, fish: list[str], seconds: float) -> None:
        super().__init__(daemon=True)
        self.port, self.name, self.board, self.fish, self.seconds = port, name, board, fish, seconds
        self.acks: list[float] = []

    def run(self) -> None:
        """For so many seconds."""
        end, rng, count = time.monotonic() + self.seconds, Random(self.name), 0
        for fish in self.fish:
            post(
                self.port,
                f"{fish}/board",
                {"key": f"{self.name}-on-{fish[-12:]}", "board": self.board},
            )
            for slot in SLOTS:
                if time.monotonic() > end:
                    return
                count += 1
                kg = {"g": 0.4, "b": 0.09, "f": 0.58, "c": 0.045, "h": 0.6}[slot[0]] * rng.uniform(
                    0.95, 1.05
                )
                fields = {"key": f"{self.name}-{count:06d}", "slot": slot, "weight": f"{kg:.3f}"}
                began = time.perf_counter()
                post(self.port, f"/live{fish}/weighings", fields)
                self.acks.append((time.perf_counter() - began) * 1000)
                time.sleep(max(0.0, 1.0 - (time.perf_counter() - began)))


def acks(seconds: float) -> None:
    """Measure and print Markdown."""
    print(
        "| four benches, a piece a second each | acknowledged, median | 95 of 100 | worst | page again, median |"
    )
    print("|---|---|---|---|---|")
    for name, pages, scales in (
        ("weighings alone", False, False),
        ("with four open pages that look again", True, False),
        ("with four scale displays of 20 readings a second too", True, True),
    ):
        with tempfile.TemporaryDirectory() as folder:
            server = Server(Path(folder))
            server.start()
            try:
                _, boards, fish = day(server, 4 * (int(seconds / 9) + 2))
                time.sleep(8)  # the search for an order has ended
                mine = [fish[k::BENCHES] for k in range(BENCHES)]
                listeners = [
                    Listener(server.port, "/live/changes", mine[k][0])
                    for k in range(BENCHES)
                    if pages
                ]
                listeners += [
                    Listener(server.port, "/live/scale/stream") for _ in range(BENCHES) if scales
                ]
                benches = [
                    Bench(server.port, f"bench-{k}", boards[k], mine[k], seconds)
                    for k in range(BENCHES)
                ]
                for one in listeners:
                    one.start()
                for one in benches:
                    one.start()
                    time.sleep(0.25)
                for one in benches:
                    one.join()
                times = sorted(t for b in benches for t in b.acks)
                seen = [t for one in listeners for t in one.pages]
                print(
                    f"| {name} | {statistics.median(times):.0f} ms | {times[int(0.95 * len(times))]:.0f} ms | "
                    f"{times[-1]:.0f} ms | {f'{statistics.median(seen):.0f} ms' if seen else ''} |",
                    flush=True,
                )
            finally:
                server.kill()


class Hand(threading.Thread):
    """Weighs as fast as it can; a request without an answer is sent again with its key."""

    def __init__(self, server: Server, name: str, fish: list[str], how_many: int) -> None:
        super().__init__(daemon=True)
        self.server, self.name, self.fish, self.how_many = server, name, fish, how_many
        self.acknowledged: dict[str, str] = {}
        self.again = 0

    def run(self) -> None:
        """Until so many are acknowledged."""
        for n in range(self.how_many):
            key = f"{self.name}-{n:06d}"
            fish = self.fish[n % len(self.fish)].rpartition("/")[2]
            while key not in self.acknowledged:
                self._send(key, fish, SLOTS[n % len(SLOTS)])

    def _send(self, key: str, fish: str, slot: str) -> None:
        line = http.client.HTTPConnection("127.0.0.1", self.server.port, timeout=15)
        try:
            body = urlencode({"key": key, "slot": slot, "weight": "0.010"})
            line.request(
                "POST", f"/live/fish/{fish}/weighings", body,
                {"content-type": "application/x-www-form-urlencoded"},
            )  # fmt: skip
            answer = line.getresponse()
            text = answer.read()
        except (OSError, http.client.HTTPException):
            self.again += 1
            time.sleep(0.02)
            return
        finally:
            line.close()
        if answer.status != 200:
            raise RuntimeError(f"{answer.status} {text[:300]!r}")
        self.acknowledged[key] = str(json.loads(text)["id"])


def kills(how_many: int) -> None:
    """Weigh through SIGKILLs, then look what is there."""
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        server.start()
        _, _, fish = day(server, 160)
        hands = [Hand(server, f"hand-{k}", fish[k::4], how_many // 4) for k in range(4)]
        for hand in hands:
            hand.start()
        rng, killed = Random(3), 0
        while any(h.is_alive() for h in hands):
            time.sleep(rng.uniform(2, 9))
            server.kill()
            killed += 1
            server.start()
        server.kill()
        file = sqlite3.connect(Path(folder) / "lepidos.sqlite")
        sound = file.execute("PRAGMA integrity_check").fetchone()[0]
        kept = dict(file.execute("SELECT key, subject_id FROM entry WHERE action = 'table.weigh'"))
        rows = [row[0] for row in file.execute("SELECT id FROM weighing")]
        derived = file.execute("SELECT SUM(weighed_kg) FROM fish_now").fetchone()[0]
        file.close()
    acknowledged = {k: v for hand in hands for k, v in hand.acknowledged.items()}
    lost = sum(kept.get(k) != v for k, v in acknowledged.items())
    doubled = len(rows) - len(set(kept.values()))
    print(
        f"{len(acknowledged)} weighings acknowledged through {killed} SIGKILLs, "
        f"{sum(h.again for h in hands)} requests sent again: {lost} lost, {doubled} doubled; "
        f"{len(rows)} rows, {derived * 1000:.0f} g in the derived sums; the file is {sound}."
    )


if __name__ == "__main__":
    words = sys.argv[1:]
    if words[:1] == ["kills"]:
        kills(int(words[1]) if len(words) > 1 else 10_000)
    else:
        acks(float(words[0]) if words else 30.0)
