"""The yield book with 60,000 fish, 720,000 pieces, 400,000 bags: pages, the bundle out and in.

`python -m bench.book [folder]` prints milliseconds and megabytes; the file is made when it is not
there (a minute and a half). Pages are asked for over HTTP in one process: once as after a start,
then again and again, each time after one of them something was entered.
"""

import io
import json
import resource
import sqlite3
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path
from random import Random
from statistics import median, quantiles

import pandas as pd
from starlette.testclient import TestClient

from bench.season import fill
from lepidos.settings import Settings
from lepidos.stations.bundle.bring_in import BringIn, Coming, bring_in
from lepidos.stations.bundle.read import read_bundle
from lepidos.stations.bundle.write import write_bundle
from lepidos.stations.yieldbook import every_fish, season
from lepidos.stations.yieldbook.book_figures import BookSelection
from lepidos.store.base.ids import IdMaker
from lepidos.store.file.database import Store
from lepidos.web.app import make_app, make_context

FISH, BAGS = 60_000, 400_000
PAGES = (
    "/season",
    "/season/fish",
    "/season/fish?year=all",
    "/season/fish?year=all&species=pollack&by=cutter",
    "/season/cutters",
    "/season/trials",
    "/season/keep?species=cod&length=70&portions=8&serving=0.2",
    "/season/what-if?species=cod&length=70",
    "/season/millimetres",
    "/season.pdf",
    "/freezer/find?q=pollack",
    "/bundle",
)
ROUNDS = 20


def memory_mb() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def pages(folder: Path) -> dict[str, object]:
    """First, median and 95th percentile of each page [ms]; every fifth time after an entry."""
    found = {}
    app = make_app(Settings(data_dir=folder, search_seconds=0))
    with TestClient(app, base_url="http://127.0.0.1:8000") as client:
        ctx = app.state.context
        client.get("/")
        trip = client.get("/", follow_redirects=False).headers["location"]
        for path in (*PAGES, trip.rsplit("/", 1)[0] + "/yieldbook"):
            times = []
            for n in range(ROUNDS + 1):
                if n and n % 5 == 0:
                    done = client.post(
                        "/season/cutters/sharpened",
                        data={"key": ctx.ids.new(ctx.clock()), "cutter": "Ines"},
                        headers={"origin": "http://127.0.0.1:8000"},
                        follow_redirects=False,
                    )
                    assert done.status_code == 303, done.text
                start = time.perf_counter()
                status = client.get(path).status_code
                times.append((time.perf_counter() - start) * 1000)
            found[path if "/trips/" not in path else "/yieldbook"] = {
                "status": status,
                "first": round(times[0]),
                "median": round(median(times[1:])),
                "p95": round(quantiles(times[1:], n=20)[-1]),
            }
    return found


def figures(folder: Path) -> dict[str, object]:
    """The book's figures beside a plain recomputation from the file's rows: the worst difference."""
    ctx = make_context(Settings(data_dir=folder))
    view = every_fish.view_fish(ctx, BookSelection(year=every_fish.ALL_YEARS))
    year = season.view_season(ctx)
    ctx.store.close()
    file = sqlite3.connect(folder / "lepidos.sqlite")
    pieces = pd.read_sql("SELECT fish_id, piece, kg FROM weighing", file)
    whole = pd.read_sql(
        "SELECT f.id AS fish_id, f.species, m.value AS kg, t.on_date FROM fish f JOIN trip t ON t.id = f.trip_id "
        "JOIN measurement m ON m.fish_id = f.id AND m.quantity = 'whole' "
        "WHERE EXISTS (SELECT 1 FROM fact WHERE fact.fish_id = f.id AND fact.name = 'closed')", file)  # fmt: skip
    fillets = pieces[pieces.piece.isin(["fillet", "belly"])].groupby("fish_id").kg.sum()
    both = whole.join(fillets.rename("fillet"), on="fish_id")
    by = both.groupby("species")[["fillet", "kg"]].sum()
    names = {"black sea bream": "black_sea_bream"}
    worst = max(
        abs(
            g.yields.fraction
            - by.fillet[names.get(g.name, g.name)] / by.kg[names.get(g.name, g.name)]
        )
        for g in view.groups
    )
    bags = pd.read_sql(
        "SELECT b.kg, n.state, b.species FROM bag b JOIN bag_now n ON n.bag_id = b.id JOIN trip t "
        f"ON t.id = b.trip_id WHERE t.on_date LIKE '{year.year}%'", file)  # fmt: skip
    frozen = abs(year.total.outcomes["in"] - bags[bags.state == "in"].kg.sum())
    file.close()
    return {"fish": len(view.fish), "yield_off": worst, "frozen_off_kg": frozen}


def bundle(folder: Path) -> dict[str, object]:
    """Seconds and megabytes of the whole log out, read and checked, merged, and out again."""
    ctx = make_context(Settings(data_dir=folder))
    out = folder / "log.zip"
    before, start = memory_mb(), time.perf_counter()
    with out.open("wb") as file:
        for piece in write_bundle(ctx):
            file.write(piece)
    found: dict[str, object] = {
        "out_s": round(time.perf_counter() - start, 1),
        "out_mb": round(out.stat().st_size / 1e6),
        "out_memory_mb": round(memory_mb() - before),
    }
    ctx.store.close()
    with tempfile.TemporaryDirectory(dir=folder) as name:
        path = Path(name) / "lepidos.sqlite"
        home = replace(ctx, store=Store.open(path), ids=IdMaker(Random(1)))
        before, start = memory_mb(), time.perf_counter()
        log, digest = read_bundle(home, out, Path(name) / "staged", lambda _t, _p: None)
        found["read_s"] = round(time.perf_counter() - start, 1)
        start = time.perf_counter()
        bring_in(home, "bench-0001", log, BringIn(digest, "log"), Coming("", "log"))
        found["merged_s"] = round(time.perf_counter() - start, 1)
        found["in_memory_mb"] = round(memory_mb() - before)
        log.close()
        again = io.BytesIO(b"".join(write_bundle(home)))
        found["identical"] = again.getvalue() == out.read_bytes()
        home.store.close()
    return found


def main() -> None:
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(tempfile.mkdtemp())
    if not (folder / "lepidos.sqlite").exists():
        folder.mkdir(parents=True, exist_ok=True)
        fill(folder / "lepidos.sqlite", FISH, BAGS, 80, thorough=True)
    if "--pages" not in sys.argv:
        print(json.dumps(bundle(folder), indent=1))
    if "--bundle" not in sys.argv:
        print(json.dumps(figures(folder), indent=1))
        print(json.dumps(pages(folder), indent=1))


if __name__ == "__main__":
    main()
