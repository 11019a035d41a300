"""Open pages that only listen, and clients that are slow on purpose: what a weighing takes meanwhile.

`python -m bench.streams [streams]`: a day of 60 fish is weighed alone, then beside so many streams
(half of them of changes, half of the scale) and ten clients that send a body a byte a second.
"""

import socket
import statistics
import sys
import tempfile
import time
from pathlib import Path

from bench.deck import post
from bench.weighing import SLOTS, day
from tests.server import Server

FISH, SLOW = 60, 10


def listen(port: int, path: str) -> socket.socket:
    """A stream that is open and seldom read."""
    line = socket.create_connection(("127.0.0.1", port), timeout=30)
    line.sendall(f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\n\r\n".encode())
    line.setblocking(False)
    return line


def drip(port: int) -> socket.socket:
    """A form whose body comes slowly."""
    line = socket.create_connection(("127.0.0.1", port), timeout=30)
    head = (
        f"POST /trips HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nContent-Length: 5000\r\n"
        "Content-Type: application/x-www-form-urlencoded\r\n\r\n"
    )
    line.sendall(head.encode())
    return line


def drain(lines: list[socket.socket]) -> int:
    """Read what came; how many streams are open."""
    open_ones = 0
    for line in lines:
        try:
            open_ones += bool(line.recv(65536))
        except BlockingIOError:
            open_ones += 1
        except OSError:
            pass
    return open_ones


def weigh(server: Server, fish: list[str], name: str, lines: list[socket.socket]) -> list[float]:
    """A weighing every tenth of a second [ms each]."""
    took = []
    for k, one in enumerate(fish):
        for slot in SLOTS[:2]:
            began = time.perf_counter()
            fields = {"key": f"{name}-{k:04d}-{slot}", "slot": slot, "weight": "0.2"}
            fields["key"] = fields["key"].replace(".", "-")
            post(server.port, f"/live{one}/weighings", fields)
            took.append((time.perf_counter() - began) * 1000)
            time.sleep(0.1)
        drain(lines)
    return took


def main(streams: int) -> None:
    """Measure and print Markdown."""
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder), searches=False)
        server.start()
        try:
            _, _, fish = day(server, FISH)
            alone = weigh(server, fish[: FISH // 2], "alone", [])
            paths = ("/live/changes", "/live/scale/stream")
            lines = [listen(server.port, paths[k % 2]) for k in range(streams)]
            slow = [drip(server.port) for _ in range(SLOW)]
            time.sleep(1)
            beside = weigh(server, fish[FISH // 2 :], "beside", lines)
            still = drain(lines)
            for line in (*lines, *slow):
                line.close()
        finally:
            server.kill()
    print("| weighing | median | 95 of 100 | worst |\n|---|---|---|---|")
    for name, took in (("alone", alone), (f"beside {streams} streams, {SLOW} slow", beside)):
        most = statistics.quantiles(took, n=20)[-1]
        print(f"| {name} | {statistics.median(took):.0f} ms | {most:.0f} ms | {max(took):.0f} ms |")
    print(f"\n{still} of {streams} streams still open")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 200)
