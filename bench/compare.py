"""Two versions side by side, asked in turn in one run: `python -m bench.compare OLD`.

`OLD` is a folder with another checkout (`git worktree add ../old <commit>`). Both serve the same
invented day of 61 fish; what is printed is the server's own time, the medians and their ratio, so
that it holds on any machine.
"""

import http.client
import json
import os
import re
import statistics
import subprocess
import sys
import tempfile
import time
from collections import defaultdict
from pathlib import Path

from tests.server import free_port

ROUNDS = 30
FISH = 61
CLOCK = "2026-07-14T12:10:00+00:00"


class Side:
    """One version, running, with its day aboard."""

    def __init__(self, root: Path) -> None:
        self.port, self.count = free_port(), 0
        env = {
            **os.environ, "LEPIDOS_LOG_LEVEL": "error", "LEPIDOS_CLOCK_AT": CLOCK,
            "LEPIDOS_TIMEZONE": "Etc/GMT-1", "PYTHONPATH": str(root),
        }  # fmt: skip
        # where an earlier version began
        begins = "lepidos" if (root / "lepidos/__main__.py").exists() else "lepidos.cli"
        words = ["run", "--data-dir", tempfile.mkdtemp(), "--port", str(self.port)]
        self.process = subprocess.Popen(
            [sys.executable, "-m", begins, *words],
            cwd=root, env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        self.times: dict[str, list[float]] = defaultdict(list)

    def ask(self, method: str, path: str, body: object = None) -> tuple[float, bytes]:
        """Server time [ms] and what was answered."""
        self.count += 1
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)
        headers = {"idempotency-key": f"compare-{self.count:08d}"}
        data = None
        if body is not None:
            data, headers["content-type"] = json.dumps(body), "application/json"
        line.request(method, path, data, headers)
        answer = line.getresponse()
        text = answer.read()
        if answer.status >= 400:
            raise RuntimeError(f"{path}: {answer.status} {text[:200]!r}")
        took = re.search(r"dur=([\d.]+)", answer.headers.get("server-timing", "dur=0"))
        return float(took[1]) if took else 0.0, text

    def make(self, path: str, **values: object) -> str:
        """The id of what a POST to the API made."""
        return str(json.loads(self.ask("POST", f"/api/v1{path}", values)[1])["id"])

    def fill(self) -> None:
        """A trip with fish on the slab, forty of them with a piece weighed."""
        self.trip = self.make(
            "/trips", name="Marram Lass", harbour="Skarrow Quay", on_date="2026-07-14", sea_c=14,
            air_c=18, ice_kg=60, people=["Ines"], parties=["Tolland", "Marsh"],
        )  # fmt: skip
        kinds = (("pollack", 60, 20), ("mackerel", 33, 8), ("cod", 60, 15))
        self.fish = []
        for n in range(FISH):
            species, least, span = kinds[n % 3]
            self.fish.append(
                self.make(f"/trips/{self.trip}/fish", species=species, length_cm=least + n % span,
                          states=["bled", "iced"])
            )  # fmt: skip
        self.pieces = [
            self.make(f"/fish/{fish}/weighings", piece="trim", weight_kg=0.2)
            for fish in self.fish[: ROUNDS + 10]
        ]

    def take(self, name: str, method: str, path: str, body: object = None) -> None:
        """Ask, and note how long it took."""
        self.times[name].append(self.ask(method, path, body)[0])

    def round(self, n: int) -> None:
        """A bag sealed, the pages after it and again, a weighing, a landing and the pages."""
        pages = ("yieldbook", "freezer", "pack", "table", "deck")
        self.take("sealing a bag", "POST", f"/api/v1/pieces/{self.pieces[n]}/bags", {"index": 0})
        for page in pages:
            self.take(f"{page} after a bag", "GET", f"/trips/{self.trip}/{page}")
        bench = f"/fish/{self.fish[50]}"
        self.take("bench after a bag", "GET", bench)
        self.take("bench again", "GET", bench)
        weighing = {"piece": "trim", "weight_kg": 0.01}
        self.take("a weighing", "POST", f"/api/v1/fish/{self.fish[45]}/weighings", weighing)
        for page in pages[:3]:
            self.take(f"{page} after a weighing", "GET", f"/trips/{self.trip}/{page}")
            self.take(f"{page} again", "GET", f"/trips/{self.trip}/{page}")
        landing = {"species": "cod", "length_cm": 61, "states": ["bled", "iced"]}
        self.take("a landing", "POST", f"/api/v1/trips/{self.trip}/fish", landing)
        for page in pages[:3]:
            self.ask("POST", f"/api/v1/trips/{self.trip}/fish", landing)
            self.take(f"{page} after a landing", "GET", f"/trips/{self.trip}/{page}")


def main() -> None:
    """Print a table of medians, old and new, and their ratio."""
    roots = {"old": Path(sys.argv[1]).resolve(), "new": Path(__file__).parents[1]}
    sides = {name: Side(root) for name, root in roots.items()}
    try:
        time.sleep(6)
        for side in sides.values():
            side.fill()
        time.sleep(8)  # until the searching has come to rest
        for n in range(ROUNDS):
            for name in list(sides)[:: 1 if n % 2 else -1]:
                sides[name].round(n)
        print("| what | old | new | new ÷ old |\n|---|---|---|---|")
        for what in sides["old"].times:
            old, new = (statistics.median(side.times[what]) for side in sides.values())
            print(f"| {what} | {old:.1f} ms | {new:.1f} ms | {new / old:.2f} |")
    finally:
        for side in sides.values():
            side.process.kill()


if __name__ == "__main__":
    main()
