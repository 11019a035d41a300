"""The deck with 120 fish that wait: `python -m bench.deck`.

Server time of the slab right after a landing (the order is recalculated), again (nothing
changed) and after an idle minute (every cold, too); the list, the order of work and a card; and how long a landing takes to another device:
from the moment it is sent until the other one, told by the event stream, holds a page with it.
"""

import http.client
import json
import statistics
import tempfile
import threading
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from urllib.parse import urlencode

from bench.pages import get
from tests.server import CLOCK, Server

FISH = 120
KINDS = {
    "pollack": (45, 80),
    "cod": (45, 90),
    "ling": (70, 120),
    "mackerel": (28, 42),
    "plaice": (30, 45),
}


def post(port: int, path: str, fields: dict[str, object]) -> dict[str, object]:
    """Send a form as the page's script does."""
    line = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    headers = {"content-type": "application/x-www-form-urlencoded"}
    line.request("POST", path, urlencode(fields), headers)
    answer = line.getresponse()
    body = answer.read()
    if answer.status not in {200, 201, 303}:
        raise RuntimeError(f"{path}: {answer.status} {body[:300]!r}")
    line.close()
    return json.loads(body) if body.startswith(b"{") else {"to": answer.headers.get("location")}


class Day:
    """A trip that fills up."""

    def __init__(self, port: int) -> None:
        self.port, self.rng, self.count = port, Random(5), 0
        to = post(port, "/trips", {
            "key": "bench-trip-1", "name": "Marram Lass", "kind": "boat", "harbour": "Skarrow Quay",
            "on_date": CLOCK[:10], "people": "Ines, Tobias", "parties": "Tolland, Marsh",
            "sea_c": "14", "air_c": "18", "ice_kg": "80",
        })["to"]  # fmt: skip
        self.trip = str(to).split("/deck")[0]
        for name in ("Ines", "Tobias", "Maud", "Piet"):
            self.count += 1
            post(port, f"{self.trip}/boards", {"key": f"bench-board-{name}", "cutter": name})

    def land(self, ago_min: float = 0.0) -> str:
        """One fish; its code."""
        self.count += 1
        kind = self.rng.choice(list(KINDS))
        fields: dict[str, object] = {
            "key": f"bench-{self.count:08d}", "species": kind, "bled": "on", "lies": "iced",
            "length": f"{self.rng.uniform(*KINDS[kind]):.1f}",
        }  # fmt: skip
        if ago_min:
            at = datetime.fromisoformat(CLOCK) + timedelta(hours=1) - timedelta(minutes=ago_min)
            fields["landed_at"] = f"{at:%Y-%m-%dT%H:%M}"
        return str(post(self.port, f"/live{self.trip}/fish", fields)["sentence"]).split(" ")[0]


class Other(threading.Thread):
    """A second device: hears the stream, fetches the slab, and notes when a code was on it."""

    def __init__(self, day: Day) -> None:
        super().__init__(daemon=True)
        self.day, self.seen = day, {}
        self.ready = threading.Event()

    def run(self) -> None:
        """Until the program ends."""
        line = http.client.HTTPConnection("127.0.0.1", self.day.port, timeout=600)
        line.request("GET", "/live/changes", headers={"accept": "text/event-stream"})
        answer = line.getresponse()
        self.ready.set()
        while text := answer.readline():
            if text.startswith(b"data:"):
                page = get(self.day.port, f"{self.day.trip}/deck")[1].decode()
                now = time.perf_counter()
                for part in page.split('class="code">')[1:]:
                    self.seen.setdefault(part.split("<")[0], now)


def shown(name: str, values: list[float], unit: str = "ms") -> None:
    """A row of the table."""
    print(
        f"| {name} | {statistics.median(values):.0f} {unit} | {max(values):.0f} {unit} |",
        flush=True,
    )


def main() -> None:
    """Measure and print Markdown."""
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        server.start()
        try:
            day = Day(server.port)
            for _ in range(FISH):
                day.land(day.rng.uniform(5, 400))
            time.sleep(12)  # the search for a better order has ended
            print("| what, with 120 fish that wait | median | worst of 15 |\n|---|---|---|")
            fresh, again, listed, order, card = [], [], [], [], []
            fish = get(server.port, f"{day.trip}/deck")[1].decode().split('data-fish="')[1][:26]
            for _ in range(15):
                day.land()
                fresh.append(get(server.port, f"{day.trip}/deck")[0])
                again.append(get(server.port, f"{day.trip}/deck")[0])
                listed.append(get(server.port, f"{day.trip}/deck?as=list")[0])
                order.append(get(server.port, f"{day.trip}/table")[0])
                card.append(get(server.port, f"/fish/{fish}/card")[0])
            shown("slab, right after a landing", fresh)
            shown("slab again, nothing changed", again)
            shown("list", listed)
            shown("order of work", order)
            shown("a fish's card", card)
            later = []
            for _ in range(3):
                time.sleep(61)  # everything that depends on the time is recalculated
                later.append(get(server.port, f"{day.trip}/deck")[0])
            shown("slab, after a minute without a request (of 3)", later)
            other = Other(day)
            other.start()
            other.ready.wait(10)
            time.sleep(7)
            took = []
            for _ in range(15):
                began = time.perf_counter()
                code = day.land()
                while code not in other.seen and time.perf_counter() - began < 10:
                    time.sleep(0.005)
                took.append((other.seen[code] - began) * 1000)
                time.sleep(1.0)
            shown("a landing until another device holds it", took)
        finally:
            server.kill()
    print(f"\nMeasured {datetime.now(UTC):%Y-%m-%d}.")


if __name__ == "__main__":
    main()
