"""Eight clients of mixed reads and writes: how soon they are answered, and where memory goes.

`python -m bench.eight [seconds]`: each client asks again as soon as it was answered; six of ten
requests are pages, the others landings, weighings and bags. Resident memory of the server and of
its searching process is read along the way.
"""

import re
import statistics
import sys
import tempfile
import threading
import time
from pathlib import Path
from random import Random

from bench.deck import post
from bench.pages import get
from bench.weighing import SLOTS, day
from tests.server import Server

CLIENTS = 8
FISH = 60


def resident_mb(pid: int) -> float:
    """Of a process and its children [MB of 10⁶ bytes]."""
    total = 0
    for task in Path(f"/proc/{pid}/task").iterdir():
        for child in (task / "children").read_text().split():
            total += round(resident_mb(int(child)) * 1e6)
    found = re.search(r"VmRSS:\s+(\d+) kB", Path(f"/proc/{pid}/status").read_text())
    return (total + (int(found[1]) * 1024 if found else 0)) / 1e6


class Client(threading.Thread):
    """One device that never rests."""

    def __init__(self, port: int, name: str, trip: str, fish: list[str], until: float) -> None:
        super().__init__(daemon=True)
        self.port, self.name, self.trip, self.fish, self.until = port, name, trip, fish, until
        self.reads: list[float] = []
        self.writes: list[float] = []
        self.failed: list[str] = []

    def run(self) -> None:
        """Until the time is over."""
        rng, count = Random(self.name), 0
        mine, slots = list(self.fish), list(SLOTS)
        while time.monotonic() < self.until:
            count += 1
            began = time.perf_counter()
            reads = rng.random() < 0.6
            try:
                if reads:
                    get(self.port, self._page(rng))
                elif rng.random() < 0.25:
                    self._land(f"{self.name}-land-{count:06d}", rng)
                else:
                    if not slots:
                        slots, mine = list(SLOTS), mine[1:] or list(self.fish)
                    self._weigh(f"{self.name}-weigh-{count:06d}", mine[0], slots.pop(0), rng)
            except Exception as error:
                self.failed.append(f"{type(error).__name__}: {error}"[:200])
                continue
            took = (time.perf_counter() - began) * 1000
            (self.reads if reads else self.writes).append(took)

    def _page(self, rng: Random) -> str:
        return rng.choice(
            [f"{self.trip}/{name}" for name in ("deck", "table", "pack", "freezer", "yieldbook")]
            + [rng.choice(self.fish), f"{rng.choice(self.fish)}/card"]
        )

    def _land(self, key: str, rng: Random) -> None:
        fields = {
            "species": rng.choice(("pollack", "cod", "ling")),
            "length": str(rng.randint(45, 80)),
        }
        post(
            self.port,
            f"/live{self.trip}/fish",
            {"key": key, "bled": "on", "lies": "iced", **fields},
        )

    def _weigh(self, key: str, fish: str, slot: str, rng: Random) -> None:
        kg = {"g": 0.4, "b": 0.09, "f": 0.58, "c": 0.045, "h": 0.6}[slot[0]] * rng.uniform(
            0.95, 1.05
        )
        post(self.port, f"/live{fish}/weighings", {"key": key, "slot": slot, "weight": f"{kg:.3f}"})


def main(seconds: float) -> None:
    """Measure and print Markdown."""
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        server.start()
        try:
            trip, _, fish = day(server, FISH)
            pid = server.pid
            memory = [(0.0, resident_mb(pid))]
            began = time.monotonic()
            each = FISH // CLIENTS
            clients = [
                Client(
                    server.port,
                    f"client-{k}",
                    trip,
                    fish[k * each : (k + 1) * each],
                    began + seconds,
                )
                for k in range(CLIENTS)
            ]
            for client in clients:
                client.start()
            while any(c.is_alive() for c in clients):
                time.sleep(min(15.0, seconds / 4))
                memory.append((time.monotonic() - began, resident_mb(pid)))
        finally:
            server.stop()
    print("| eight clients | requests | median | 95 of 100 | worst |\n|---|---|---|---|---|")
    for name, found in (
        ("pages", [t for c in clients for t in c.reads]),
        ("writes", [t for c in clients for t in c.writes]),
        ("all", [t for c in clients for t in (*c.reads, *c.writes)]),
    ):
        most = statistics.quantiles(found, n=20)[-1]
        print(
            f"| {name} | {len(found)} | {statistics.median(found):.0f} ms | {most:.0f} ms | {max(found):.0f} ms |"
        )
    failed = [text for c in clients for text in c.failed]
    print(f"\nfailed: {len(failed)} {failed[:3]}")
    print("resident memory: " + ", ".join(f"{mb:.0f} MB after {at:.0f} s" for at, mb in memory))


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 180.0)
