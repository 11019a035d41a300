"""Server time of every page, landing time, and the first load: `python -m bench.pages`.

Server time is what the app states in its Server-Timing header, over a real connection; the
medians of both data sizes come from one run, so that their ratio holds on any machine.
"""

import gzip
import http.client
import json
import re
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from bench.season import fill
from tests.server import Server

ROUNDS = 15


def get(port: int, path: str) -> tuple[float, bytes]:
    """Server time [ms] and body of one page."""
    line = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    line.request("GET", path, headers={"accept-encoding": "gzip"})
    answer = line.getresponse()
    body = answer.read()
    if answer.headers.get("content-encoding") == "gzip":
        body = gzip.decompress(body)
    if answer.status not in {200, 303}:
        raise RuntimeError(f"{path}: {answer.status}")
    line.close()
    return float(re.findall(r"dur=([\d.]+)", answer.headers.get("server-timing", "dur=0"))[0]), body


def first(port: int, path: str, pattern: str) -> str:
    """The first address on a page that fits."""
    return re.findall(pattern, get(port, path)[1].decode())[0]


def pages(port: int) -> dict[str, str]:
    """Name and address of every page of the path."""
    line = http.client.HTTPConnection("127.0.0.1", port)
    line.request("GET", "/")
    trip = line.getresponse().headers["location"].removesuffix("/deck")
    return {
        "deck": f"{trip}/deck",
        "table, list": f"{trip}/table",
        "table, one fish": first(port, f"{trip}/table", r"/fish/[0-9A-Z]{26}"),
        "pack, list": f"{trip}/pack",
        "pack, one piece": first(port, f"{trip}/pack", r"/pieces/[0-9A-Z]{26}"),
        "freezer": f"{trip}/freezer",
        "bag": first(port, f"{trip}/freezer", r"/b/[2-9A-Z]{6}"),
        "yield book": f"{trip}/yieldbook",
        "yield book, CSV": f"{trip}/yieldbook.csv",
        "trips": "/trips",
        "guide": "/guide",
    }


def measure(port: int) -> dict[str, tuple[float, float]]:
    """Median and worst server time [ms] of every page, the first call left out."""
    found = {}
    for name, path in pages(port).items():
        get(port, path)
        times = sorted(get(port, path)[0] for _ in range(ROUNDS))
        found[name] = (statistics.median(times), times[-1])
    return found


def landings(port: int, count: int = 60) -> list[float]:
    """Milliseconds from sending a landing to its acknowledgement, full sync included."""
    trip = pages(port)["deck"].split("/")[2]
    times = []
    for k in range(count):
        line = http.client.HTTPConnection("127.0.0.1", port)
        began = time.perf_counter()
        line.request(
            "POST", f"/api/v1/trips/{trip}/fish", json.dumps({"species": "pollack", "length_cm": 60}),
            {"content-type": "application/json", "idempotency-key": f"bench-{time.time_ns()}-{k}"},
        )  # fmt: skip
        answer = line.getresponse()
        answer.read()
        times.append((time.perf_counter() - began) * 1000)
        if answer.status != 201:
            raise RuntimeError(str(answer.status))
    return sorted(times)


def first_load(port: int) -> int:
    """Bytes on the wire of the deck with every file it names, as sent to a browser."""
    path = pages(port)["deck"]
    html = get(port, path)[1].decode()
    css = get(port, re.findall(r"/static/theme\.css\?v=\w+", html)[0])[1].decode()
    files = {path, *re.findall(r"/static/[\w./-]+\?v=\w+", html)}
    files |= {f"/static/{name}" for name in re.findall(r'url\("(vendor/fonts/[^"]+)"\)', css)}
    total = 0
    for name in files:
        line = http.client.HTTPConnection("127.0.0.1", port)
        line.request("GET", name, headers={"accept-encoding": "gzip"})
        total += len(line.getresponse().read())
    return total


def memory_mb(server: Server) -> float:
    """Resident memory of the app [MB]."""
    pid = server._process.pid if server._process else 0
    status = Path(f"/proc/{pid}/status").read_text()
    return int(re.findall(r"VmRSS:\s+(\d+)", status)[0]) / 1024


def main() -> None:
    """Measure both files and print Markdown."""
    with tempfile.TemporaryDirectory() as folder:
        demo, season = Path(folder) / "demo", Path(folder) / "season"
        began = time.perf_counter()
        subprocess.run(
            [sys.executable, "-m", "lepidos", "demo", "--only-data", "--data-dir", str(demo)],
            check=True,
        )
        making = time.perf_counter() - began
        season.mkdir()
        fill(season / "lepidos.sqlite")
        small, large = Server(demo, demo=True), Server(season)
        began = time.perf_counter()
        small.start(at="2026-11-24T12:00:00+00:00")
        starting = time.perf_counter() - began
        large.start()
        try:
            one, two = measure(small.port), measure(large.port)
            print(
                "| page | demo, median ms | worst | 20,000 fish and 100,000 bags, median ms | worst | ratio |"
            )
            print("|---|---|---|---|---|---|")
            for name, (median, worst) in one.items():
                big, big_worst = two[name]
                print(
                    f"| {name} | {median:.1f} | {worst:.1f} | {big:.1f} | {big_worst:.1f} | {big / median:.1f} |"
                )
            for name, server in (("demo", small), ("large file", large)):
                times = landings(server.port)
                print(f"\nlanding acknowledged, {name}: median {statistics.median(times):.1f} ms, "
                      f"95 % {times[int(len(times) * 0.95)]:.1f} ms")  # fmt: skip
                print(f"resident memory, {name}: {memory_mb(server):.0f} MB")
            print(f"\nfirst load of the deck: {first_load(small.port) / 1000:.0f} kB")
            print(
                f"making the demo: {making:.1f} s; second start until it answers: {starting:.1f} s"
            )
            size = (season / "lepidos.sqlite").stat().st_size / 2**20
            print(f"large data file: {size:.0f} MiB")
            peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
            print(f"(the benchmark itself: {peak:.0f} MB)")
        finally:
            small.kill()
            large.kill()


if __name__ == "__main__":
    main()
