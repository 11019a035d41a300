"""What a change costs the pages that are open: `python -m bench.live_bytes`.

Every page is asked as its script asks, with the marks of what it has; once after a weighing at
another fish and once after a landing. Bytes as they go over the line, compressed.
"""

import gzip
import http.client
import json
import sys
import time
from pathlib import Path

from bench.compare import Side

HEADER = {"gauges", "rail", "notices"}


def live(port: int, path: str, marks: dict[str, str]) -> tuple[int, dict[str, str], list[str]]:
    """Bytes, marks and the regions that came."""
    line = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    known = " ".join(f"{name}:{mark}" for name, mark in marks.items())
    headers = {"accept": "application/json", "accept-encoding": "gzip", "x-lepidos-live": known}
    line.request("GET", path, headers=headers)
    answer = line.getresponse()
    body = answer.read()
    zipped = answer.headers.get("content-encoding") == "gzip"
    found = json.loads(gzip.decompress(body) if zipped else body)
    return len(body), found["marks"], sorted(found["regions"])


def main() -> None:
    """Print bytes by page."""
    side = Side(Path(__file__).parents[1])
    try:
        time.sleep(5)
        side.fill()
        time.sleep(5)
        trip = f"/trips/{side.trip}"
        pages = {
            "deck": f"{trip}/deck", "table": f"{trip}/table", "one fish": f"/fish/{side.fish[50]}",
            "pack": f"/live/header?here=pack&path={trip}/pack",
            "freezer": f"/live/header?here=freezer&path={trip}/freezer",
            "yield book": f"/live/header?here=yieldbook&path={trip}/yieldbook",
            "guide": "/live/header?here=guide&path=/guide",
        }  # fmt: skip
        marks = {name: live(side.port, path, {})[1] for name, path in pages.items()}
        changes = {
            "a weighing elsewhere": lambda: side.ask(
                "POST", f"/api/v1/fish/{side.fish[45]}/weighings",
                {"piece": "trim", "weight_kg": 0.01},
            ),
            "a landing": lambda: side.ask(
                "POST", f"/api/v1/trips/{side.trip}/fish",
                {"species": "cod", "length_cm": 61, "states": ["bled", "iced"]},
            ),
        }  # fmt: skip
        print("| page | " + " | ".join(changes) + " |\n|---|---|---|")
        rows: dict[str, list[str]] = {name: [] for name in pages}
        for change in changes.values():
            change()
            for name, path in pages.items():
                size, marks[name], regions = live(side.port, path, marks[name])
                rows[name].append(f"{size / 1000:.1f} kB ({', '.join(regions) or 'nothing'})")
        for name, cells in rows.items():
            print(f"| {name} | {' | '.join(cells)} |")
    finally:
        side.process.kill()


if __name__ == "__main__":
    sys.exit(main())
