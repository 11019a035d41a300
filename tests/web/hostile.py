"""Bundles that nobody's Lepidos wrote: a log with a row in every table, and odd values in its cells."""

import base64
import csv
import io
import json
import sqlite3
import struct
import zipfile
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from random import Random
from typing import Any

from ulid import ULID

from lepidos.core.pack.labels import make_code
from lepidos.stations.bundle.write import write_bundle
from lepidos.store.bundle.whole_log import open_log, rows_of, shapes
from lepidos.store.file import migrate
from tests.app import AppTest

AT, DAY = "2026-07-14T10:00:00.000Z", "2026-07-14"
Table = tuple[list[str], list[list[str]]]

ODD: tuple[str, ...] = (
    "", "0", "-1", "1", "2", "1e300", "-1e300", "nan", "inf", "1e-300", "999999999999999999999", "0.5",
    "null", "[]", "{}", "[[1]]", '["x", 1]', '{"x": {"y": 1}}', "[1e300]", '["\\ud800"]', "[" * 3000,
    "0001-01-01T00:00:00.000Z", "9999-12-31T23:59:59.999Z", "2026-07-14T10:00:00.000Z", "0001-01-01", "9999-12-31",
    "2026-02-30", "7ZZZZZZZZZZZZZZZZZZZZZZZZZ", "00000000000000000000000000", "x" * 60_000, "\x00", "\u202e<b onclick=x>",
    "device", "entry", "A", "B", "C", "on", "off", "cod", "fillet", "gut", "fork", "disc_width", "whole", "in", "out",
    "raw", "vacuum", "SQLITE", "'; DROP TABLE fish; --", "name) SELECT", "../../etc/passwd", "http://[", "é" * 90,
    "%s%n{0}{{7*7}}", "AAAA", "////", "==", "12-31", "02-30", "13-01",
)  # fmt: skip


def full_log(test: AppTest) -> dict[str, Table]:
    """A small log with a row in every table, as the tables of its bundle."""
    trip = test.start_trip(sea_c=14.0, air_c=18.0, ice_kg=30.0)
    fish = [
        test.land(trip, kind, cm).subject_id for kind, cm in (("pollack", 68), ("mackerel", 36))
    ]
    weighing = test.weigh(fish[0], "fillet.A", 0.5).subject_id
    test.seal(weighing)
    with sqlite3.connect(test.ctx.store.path) as file:
        _fill(file, trip, fish[0], weighing)
    return tables(b"".join(write_bundle(test.ctx)))


def _fill(file: sqlite3.Connection, trip: str, fish: str, weighing: str) -> None:
    """A row in each table that has none; of a bundle's, by names and values that can be there."""
    (party,) = file.execute("SELECT id FROM party LIMIT 1").fetchone()
    (bag,) = file.execute("SELECT id FROM bag").fetchone()
    (code,) = file.execute("SELECT code FROM bag").fetchone()
    ids = (
        str(ULID.from_timestamp(datetime(2026, 7, 14, 10, tzinfo=UTC).timestamp() + n))
        for n in range(99)
    )
    board, place, log, trial = (next(ids) for _ in range(4))
    stamps = struct.pack("<3I", 1783987200, 1783987260, 1783987320)
    rows: dict[str, dict[str, Any]] = {
        "board": {"id": board, "trip_id": trip, "name": "Ines", "opens_at": AT},
        "hold": {"fish_id": fish, "board_id": board, "position": 1},
        "fact": {"id": next(ids), "fish_id": fish, "name": board, "at": AT, "kind": "board"},
        "reading": {"id": next(ids), "fish_id": fish, "celsius": 4.5, "method": "typed", "at": AT},
        "look": {"id": next(ids), "fish_id": fish, "mark": "gills", "points": 1, "at": AT},
        "ice_note": {"id": next(ids), "trip_id": trip, "kg": 12.0, "at": AT},
        "sight": {"id": next(ids), "fish_id": fish, "what": "worms", "number": 2, "place": "belly flap", "at": AT,
                  "piece": "fillet", "side": "A", "x": 0.4, "y": 0.1, "lost_kg": 0.01, "lost_how": "estimated"},
        "fate": {"id": next(ids), "fish_id": fish, "piece": "gut", "fate": "crab", "at": AT},
        "place": {"id": place, "name": "chest"},
        "place_said": {"id": next(ids), "place_id": place, "celsius": -22.0, "litres": 90.0, "cooling": "still", "at": AT},
        "move": {"id": next(ids), "bag_id": bag, "action": "in", "place_id": place, "at": AT},
        "temperature_log": {"id": log, "place_id": place, "name": "logger", "first_at": "2026-07-14T00:00:00.000Z",
                            "last_at": "2026-07-14T00:02:00.000Z", "readings": 3, "at": AT},
        "temperature_slice": {"id": next(ids), "log_id": log, "day": 20648, "at_s": stamps,
                              "centi_c": struct.pack("<3h", -2200, -2190, -2195)},
        "stocktake": {"id": next(ids), "place_id": place, "seen": 1, "missing": "[]", "strange": json.dumps([code]), "at": AT},
        "meal": {"id": next(ids), "eaten_at": "2026-07-20T18:00:00.000Z", "people": 4, "purpose": "", "thaw": "refrigerator",
                 "codes": json.dumps([code]), "out_at": "2026-07-19T18:00:00.000Z", "at": AT},
        "bag_rule": {"id": next(ids), "trip_id": trip, "party_id": party, "serving_kg": 0.2, "per_bag": 2, "tail_apart": 1, "at": AT},
        "piece_mark": {"id": next(ids), "weighing_id": weighing, "serving_kg": 0.2, "per_bag": 2, "tail_apart": 0,
                       "length_m": 0.3, "cuts": "[0.1]", "at": AT},
        "part_said": {"id": next(ids), "weighing_id": weighing, "position": 0, "pin": "x1", "party_id": party, "at": AT},
        "supply_count": {"id": next(ids), "width_m": 0.2, "length_m": 0.3, "held": 40.0, "at": AT},
        "share_rule": {"id": next(ids), "trip_id": trip, "how": "shares", "shares": json.dumps({party: 2}), "at": AT},
        "party_wish": {"id": next(ids), "trip_id": trip, "party_id": party, "guest": "Bo", "note": "no bones", "without": "histamine", "at": AT},
        "label_print": {"id": next(ids), "bag_id": bag, "at": AT},
        "label_count": {"id": next(ids), "held": 200, "at": AT},
        "cost": {"id": next(ids), "trip_id": trip, "name": "Ice", "coins": 900, "shared_by": "equal", "at": AT},
        "trial": {"id": trial, "species": "pollack", "way_x": "over the ribs", "way_y": "through", "fish": 8, "at": AT},
        "trial_fish": {"id": next(ids), "trial_id": trial, "fish_id": fish, "number": 1, "x_side": "A", "first_side": "B", "at": AT},
        "sharpening": {"id": next(ids), "cutter": "Ines", "blade": "long", "at": AT},
        "scraping": {"id": next(ids), "fish_id": fish, "side": "A", "zone": "ribs", "kg": 0.02, "at": AT},
        "forecast": {"fish_id": fish, "species": "pollack", "cutter": "Ines", "skin": "on", "level": 0.8, "kg": 1.0,
                     "low_kg": 0.9, "high_kg": 1.1, "learned_from": 0, "at": AT},
        "wish": {"id": next(ids), "trip_id": trip, "fish_id": fish, "species": "pollack", "purpose": "grill", "skin": "on",
                 "methods": '{"ribs": "through"}', "pieces": '{"belly": "smoke_hot"}', "tools": "fillet_knife", "at": AT},
        "rule_card": {"id": next(ids), "species": "cod", "area": "Skarrow Bay", "source": "invented", "checked_on": DAY,
                      "season_from": "06-01", "season_to": "03-31", "length_type": "total", "min_cm": 38.0, "per_boat": 12,
                      "fillet_at_sea": "no"},
        "own_guide": {"id": next(ids), "kind": "species", "key": "harbour_pollack",
                      "toml": 'nearest = "pollack"\nname = "harbour fish (like pollack)"\ncode = "HF"\n', "at": AT},
        "undo": {"id": next(ids), "kind": "ice", "target_id": next(ids), "at": AT},
        "earlier": {"id": next(ids), "act": next(ids), "of_table": "place", "row_id": place,
                    "before": json.dumps({"id": place, "name": "old chest"}), "at": AT},
    }  # fmt: skip
    for table, row in rows.items():
        if file.execute(f"SELECT count(*) FROM {table}").fetchone() == (0,) or table in {
            "fact",
            "wish",
        }:
            names, marks = ", ".join(row), ", ".join("?" * len(row))
            file.execute(
                f"INSERT OR IGNORE INTO {table} ({names}) VALUES ({marks})", list(row.values())
            )


def tables(bundle: bytes) -> dict[str, Table]:
    """A bundle's tables, each its columns and its rows, all as text."""
    found = {}
    with zipfile.ZipFile(io.BytesIO(bundle)) as package:
        for name in package.namelist():
            if name.endswith(".csv"):
                head, *rows = csv.reader(io.StringIO(package.read(name).decode(), newline=""))
                found[name[5:-4]] = (head, rows)
    return found


def zipped(log: dict[str, Table], schema: int = migrate.steps()[-1][0]) -> bytes:
    """Tables as a bundle again."""
    out = io.BytesIO()
    resources = [{"name": name, "path": f"data/{name}.csv"} for name in log]
    with zipfile.ZipFile(out, "w") as package:
        package.writestr(
            "datapackage.json", json.dumps({"lepidos": {"schema": schema}, "resources": resources})
        )
        for name, (head, rows) in log.items():
            text = io.StringIO()
            csv.writer(text).writerows([head, *rows])
            package.writestr(f"data/{name}.csv", text.getvalue().encode("utf-8", "surrogatepass"))
    return out.getvalue()


def renewed(log: dict[str, Table], rng: Random) -> dict[str, Table]:
    """The same log of other fish: every key and code another one."""
    new: dict[str, str] = {}
    for table, (head, rows) in log.items():
        for column in ("id", "act") if table != "bag" else ("id", "code"):
            if column in head:
                for row in rows:
                    old = row[head.index(column)]
                    new[old] = old[:10] + "".join(
                        rng.choices("0123456789ABCDEFGHJKMNPQRSTVWXYZ", k=16)
                    )
    for code in (row[log["bag"][0].index("code")] for row in log["bag"][1]):
        new[code] = make_code(rng)

    def cell(text: str) -> str:
        if text in new:
            return new[text]
        if text[:1] in "[{":
            for old, other in new.items():
                text = text.replace(old, other)
        return text

    changed = {
        name: (head, [[cell(text) for text in row] for row in rows])
        for name, (head, rows) in log.items()
    }
    keys = changed["entry"]
    at = keys[0].index("key")
    for row in keys[1]:
        row[at] = "".join(rng.choices("abcdefghijklmnop", k=20))
    for table, column in (("place", "name"), ("own_guide", "key"), ("rule_card", "area")):
        head, rows = changed[table]
        for row in rows:
            row[head.index(column)] += f"_{rng.randrange(10**6)}"
    return changed


def spoiled(log: dict[str, Table], rng: Random) -> Iterator[tuple[str, dict[str, Table]]]:
    """Without end: a log of other fish with one to three odd values, and what they are."""
    cells = [(table, n) for table, (head, rows) in log.items() if rows for n in range(len(head))]
    while True:
        other, said = renewed(log, rng), []
        for table, n in rng.sample(cells, rng.choice((1, 1, 1, 2, 3))):
            head, rows = other[table]
            value = odd(rng, rows[0][n])
            rng.choice(rows)[n] = value
            said.append(f"{table}.{head[n]} = {value[:60]!r}")
        yield "; ".join(said), other


def odd(rng: Random, usual: str) -> str:
    """An odd value, or a usual one that is off by a little or a lot."""
    if rng.random() < 0.25:
        try:
            return repr(float(usual) * rng.choice((0, -1, 1e-9, 10, 1000, 1e9)))
        except ValueError:
            pass
    if rng.random() < 0.05:
        return base64.b64encode(rng.randbytes(rng.choice((1, 6, 12, 4000)))).decode()
    if rng.random() < 0.05:
        return "".join(chr(rng.randrange(32, 0x2FFF)) for _ in range(rng.randrange(40)))
    return rng.choice(ODD)


def every_table(path: Path) -> set[str]:
    """Tables of a data file that go into a bundle and have rows."""
    with open_log(path) as (_, file):
        return {shape.name for shape in shapes(file) if next(rows_of(file, shape), None)}
