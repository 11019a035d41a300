"""A large data file for measuring: many trips, 20,000 fish and 100,000 bags, written directly.

Rows are made by SQL in bulk and not through the stations, which would take an hour; the derived
tables are filled as the stations would. Figures are invented; only the amounts matter.
"""

import sqlite3
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random

from lepidos.core.pack.labels import ALPHABET, check_character
from lepidos.store.base.ids import IdMaker
from lepidos.store.file import migrate
from lepidos.store.file.database import Store

PIECES = (("gut", ""), ("fillet", "A"), ("fillet", "B"), ("head", ""), ("frame", ""))
# The same with all that a thorough crew weighs: twelve pieces, of which two are fillets.
THOROUGH = (
    *PIECES,
    ("belly", "A"),
    ("belly", "B"),
    ("collar", ""),
    ("cheek", ""),
    ("skin", "A"),
    ("skin", "B"),
    ("trim", ""),
)
KINDS = ("pollack", "cod", "ling", "mackerel", "black_sea_bream")
CUTTERS = ("Ines", "Tobias", "Maren")
SHARES = {
    "gut": 0.13,
    "fillet": 0.21,
    "head": 0.18,
    "frame": 0.11,
    "belly": 0.02,
    "collar": 0.02,
    "cheek": 0.01,
    "skin": 0.02,
    "trim": 0.02,
}

# its columns as rows have them here, where a migration made one of them anew
MADE_ANEW = {"measurement": ["id", "fish_id", "quantity", "value", "length_type", "method", "at"]}


def fill(
    path: Path, fish: int = 20_000, bags: int = 100_000, per_trip: int = 80, thorough: bool = False
) -> str:
    """Make the file at `path`; returns the id of its newest trip."""
    Store.open(path).close()
    rng = Random(20)
    ids = IdMaker(rng)
    start = datetime(2019, 1, 1, 6, tzinfo=UTC)
    file = sqlite3.connect(path)
    file.execute("PRAGMA synchronous = OFF")
    place_ids = [ids.new(start) for _ in range(6)]
    file.executemany(
        "INSERT INTO place VALUES (?, ?)", [(p, f"place {k}") for k, p in enumerate(place_ids)]
    )
    kinds = KINDS if thorough else KINDS[:1]
    boards: list[tuple[object, ...]] = []
    forecasts: list[tuple[object, ...]] = []
    entries, hands = [], list[tuple[str, str, str, str]]()
    trips, landed, measured, facts, weighed, now = [], [], [], [], [], []
    parties, sealed, portions, moves, bag_now, sides = [], [], [], [], [], []
    trip = ""
    for number in range(fish):
        at = start + timedelta(days=7 * (number // per_trip), minutes=4 * (number % per_trip))
        stamp = at.strftime("%Y-%m-%dT%H:%M:%S.000Z")
        if number % per_trip == 0:
            trip, party = ids.new(at), ids.new(at)
            day = at.date().isoformat()
            trips.append(
                (trip, "Marram Lass", "boat", "Skarrow Quay", day, "UTC", stamp, 13.0, 17.0, 40.0)
            )
            parties.append((party, trip, "Tolland"))
            if thorough:
                hands = [(ids.new(at), trip, name, stamp) for name in CUTTERS]
                boards.extend(hands)
        key = ids.new(at)
        kg = round(rng.uniform(1.2, 4.5), 3)
        kind = kinds[number % len(kinds)]
        landed.append((key, trip, f"P{number % per_trip + 1}", kind, party, None, "on", stamp))
        measured.append(
            (ids.new(at), key, "length", (kg / 0.0095) ** (1 / 3.05) / 10, "total", "typed", stamp)
        )
        measured.append((ids.new(at), key, "whole", kg, "", "typed", stamp))
        facts.append((ids.new(at), key, "bled", stamp, "state"))
        # on the newest trip every other fish still lies on the slab
        if number >= fish - per_trip and number % 2:
            length = measured[-2][3]
            facts.append((ids.new(at), key, "iced", stamp, "state"))
            now.append((key, trip, kind, "slab", "bled iced", length, "total", kg, None, 0.0, 0.0))
            continue
        ended = (at + timedelta(minutes=6)).strftime("%Y-%m-%dT%H:%M:%S.000Z")
        if hands:
            entries.append(
                (ids.new(at), "deck.land", "", "fish", key, f"P{number} landed", "", "", stamp)
            )
            board = hands[number % len(hands)][0]
            facts.append((ids.new(at), key, board, stamp, "board"))
            forecasts.append(
                (
                    key,
                    kind,
                    CUTTERS[number % len(hands)],
                    "on",
                    0.8,
                    kg * 0.42,
                    kg * 0.38,
                    kg * 0.46,
                    30,
                    stamp,
                )
            )
        facts.append((ids.new(at), key, "closed", ended, "work"))
        spread = rng.gauss(1.0, 0.05)
        given = fillet = 0.0
        for piece, side in THOROUGH if thorough else PIECES:
            share = SHARES[piece]
            row = ids.new(at)
            piece_kg = round(kg * share * (spread if piece == "fillet" else 1.0), 3)
            given += piece_kg
            fillet += piece_kg if piece in {"fillet", "belly"} else 0.0
            weighed.append((row, key, piece, side, piece_kg, "scale", stamp))
            if thorough:
                entries.append(
                    (
                        ids.new(at),
                        "table.weigh",
                        "",
                        "weighing",
                        row,
                        f"P{number} {piece}: {piece_kg} kg",
                        "",
                        "",
                        stamp,
                    )
                )
            if piece == "fillet":
                sides.append((row, trip, party, piece_kg, at, stamp, kind))
        now.append(
            (
                key,
                trip,
                kind,
                "done",
                "bled closed",
                measured[-2][3],
                "total",
                kg,
                None,
                given,
                fillet,
            )
        )
    used: set[str] = set()
    for number in range(bags):
        row, its_trip, its_party, kg, at, stamp, kind = sides[number % len(sides)]
        code = _new_code(rng, used)
        bag, place = ids.new(at), rng.choice(place_ids)
        best = (at + timedelta(days=240)).date().isoformat()
        day = at.date().isoformat()
        # the oldest three quarters have been eaten, as in a real season
        state = "out" if number % len(sides) < len(sides) * 3 // 4 else "in"
        sealed.append(
            (
                bag,
                code,
                its_trip,
                its_party,
                kind,
                "fillet",
                0,
                "on",
                kg / 3,
                0,
                day,
                day,
                best,
                stamp,
            )
        )
        portions.append(
            (ids.new(at), bag, row, number // len(sides), 0.0, 0.1, 0.333, kg / 3, 0.2, 0.4, 1, 1)
        )
        moves.append((ids.new(at), bag, "in", place, "", stamp))
        if state == "out":
            moves.append((ids.new(at), bag, "out", place, "to eat", stamp))
        bag_now.append((bag, its_trip, state, place, best))
    for table, rows in (
        ("trip", trips), ("party", parties), ("fish", landed), ("measurement", measured),
        ("fact", facts), ("weighing", weighed), ("fish_now", now), ("bag", sealed),
        ("portion", portions), ("move", moves), ("bag_now", bag_now), ("board", boards),
        ("forecast", forecasts), ("entry", entries),
    ):  # fmt: skip
        # columns that came later have defaults, and come last
        if not rows:
            continue
        columns = [row[1] for row in file.execute(f"PRAGMA table_info({table})")]
        columns = MADE_ANEW.get(table, columns)[: len(rows[0])]
        marks = ", ".join("?" * len(columns))
        file.executemany(f"INSERT INTO {table} ({', '.join(columns)}) VALUES ({marks})", rows)
    # parts, board and seconds as the migration derives them for files from before
    for statement in migrate._statements(dict(migrate.steps())[16].read_text("utf-8")):
        if "UPDATE fish_now" in statement or "UPDATE bag_now" in statement:
            file.execute(statement)
    file.execute("ANALYZE")
    file.commit()
    file.close()
    return trip


def _new_code(rng: Random, used: set[str]) -> str:
    code = ""
    while not code or code in used:
        body = "".join(rng.choice(ALPHABET) for _ in range(5))
        code = body + check_character(body)
    used.add(code)
    return code
