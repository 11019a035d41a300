"""The freezer at its size: 5,000 bags in ten places, a year of one-minute readings.

`python -m bench.freezer`: server time of the pages, taking a year's file in, judging all bags
again, and the memory that takes.
"""

import re
import resource
import statistics
import sys
import tempfile
import time
import urllib.parse
import urllib.request
import uuid
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from bench.pages import get
from tests.server import Server

BAGS, PLACES = 5000, 10
MINUTES = 525_600
ROUNDS = 15


def fill(folder: Path) -> None:
    """A data file with the bags, over the app's own use cases for one, and its store for the rest."""
    from lepidos.stations.freezer import places  # noqa: PLC0415
    from lepidos.store.pack import bags  # noqa: PLC0415
    from tests.app import AppTest  # noqa: PLC0415 - the test's ready context, without its runner

    app = AppTest("setUp")
    app.setUp()
    app.clock.at = datetime.now(UTC) - timedelta(days=365)
    trip = app.start_trip()
    ids = []
    for n in range(PLACES):
        done = places.add_place(app.ctx, app.key(), places.AddPlace(f"place {n}"))
        ids.append(done.subject_id)
        inside = ids[0] if n else ""
        order = places.SayPlace(done.subject_id, -22, 300, "still", "metric", "freezer", inside)
        places.say_place(app.ctx, app.key(), order)
    fish = app.land(trip, "cod", 70).subject_id
    first = app.seal(app.weigh(fish, "fillet.A", 0.4).subject_id).subject_id
    kinds = ("cod", "pollack", "ling", "mackerel", "plaice", "turbot")
    with app.ctx.store.writing():
        one = bags.get(first)._asdict()
        for n in range(BAGS):
            at = app.clock.at + timedelta(minutes=n)
            code = "".join("23456789ABCDEFGHJKMNPQRSTVWXYZ"[n // 30**k % 30] for k in range(6))
            values = one | {
                "code": code,
                "species": kinds[n % 6],
                "thick_m": 0.012 + n % 5 * 0.007,
                "best_by": (at + timedelta(days=60 + n % 300)).date(),
                "purpose": "raw" if n % 9 == 0 else "",
                "width_m": 0.15 + n % 3 * 0.05,
                "length_m": 0.25,
            }
            for key in ("id", "sealed_at"):
                values.pop(key)
            values["trip"], values["party"] = values.pop("trip_id"), values.pop("party_id")
            bag = bags.add(app.ctx.ids, at, **values)
            bags.move(app.ctx.ids, at, bag.id, "in", ids[n % PLACES])
            bags.refresh(bag.id)
    app.ctx.store.close()
    (folder / "lepidos.sqlite").write_bytes((app.folder / "lepidos.sqlite").read_bytes())


def year_file() -> bytes:
    """A reading a minute for a year until now, −22 °C with a swing, and a warm day in the middle."""
    start = (
        np.datetime64(datetime.now(UTC).replace(tzinfo=None, second=0, microsecond=0), "m")
        - MINUTES
    )
    at = start + np.arange(MINUTES)
    air = -22 + np.sin(np.arange(MINUTES) / 45 * 6.28)
    air[MINUTES // 2 : MINUTES // 2 + 1440] = -9
    stamps = np.datetime_as_string(at, unit="s")
    lines = "\n".join(f"{t}Z,{c:.1f}" for t, c in zip(stamps, air, strict=True))
    return f"time,temp °C\n{lines}\n".encode()


def post(port: int, path: str, fields: dict[str, str], file: bytes = b"") -> tuple[float, str]:
    """Seconds, and where it leads."""
    origin = f"http://127.0.0.1:{port}"
    headers = {"origin": origin}
    if file:
        edge = uuid.uuid4().hex
        head = (
            f'--{edge}\r\ncontent-disposition: form-data; name="log"; filename="year.csv"\r\n\r\n'
        )
        body = head.encode() + file + f"\r\n--{edge}--\r\n".encode()
        headers["content-type"] = f"multipart/form-data; boundary={edge}"
    else:
        body = urllib.parse.urlencode(fields).encode()
    began = time.perf_counter()
    request = urllib.request.Request(origin + path, body, headers)
    with urllib.request.urlopen(request, timeout=120) as answer:
        answer.read()
        return time.perf_counter() - began, answer.geturl()


def main() -> None:
    """Measure, and print."""
    with tempfile.TemporaryDirectory() as folder:
        fill(Path(folder))
        server = Server(Path(folder))
        server.start(f"{datetime.now(UTC):%Y-%m-%dT%H:%M:%S+00:00}")
        try:
            measure(server.port)
        finally:
            server.stop()
            usage = resource.getrusage(resource.RUSAGE_CHILDREN)
            print(f"most memory of the app: {usage.ru_maxrss / 1024:.0f} MB")


def measure(port: int) -> None:
    """All of it, against a running app."""
    trip = re.findall(r"/trips/[0-9A-Z]{26}", get(port, "/trips")[1].decode())[0]
    html = get(port, f"{trip}/freezer")[1].decode()
    place = re.findall(r"/freezer/places/\w+", html)[0]
    pages = {
        "map": f"{trip}/freezer",
        "place": place,
        "use next": "/freezer/next",
        "find": "/freezer/find?q=cod+fillet",
        "feed": "/freezer/calendar.ics",
        "count": f"{place}/count",
    }

    def times(when: str) -> None:
        for name, path in pages.items():
            taken = [get(port, path)[0] for _ in range(ROUNDS)]
            print(f"{when} {name}: {statistics.median(taken):.0f} ms, worst {max(taken):.0f}")

    times("no log,")
    data = year_file()
    print(f"a year of minutes: {len(data) / 1e6:.1f} MB")
    look, at = post(port, f"{place}/log", {}, data)
    token = at.partition("file=")[2]
    fields = {"file": token, "order": "ymd", "unit": "C", "zone": "UTC", "key": uuid.uuid4().hex}
    take, _ = post(port, f"{place}/take", fields)
    print(f"looked at in {look:.1f} s, taken in and all bags judged in {take:.1f} s")
    rule, _ = post(port, "/freezer/rule", {"rule": "eu", "key": uuid.uuid4().hex})
    print(f"all bags judged by the other rule in {rule:.2f} s")
    times("a year,")


if __name__ == "__main__":
    sys.exit(main())
