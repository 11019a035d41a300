"""Catch import: fish from a CSV file, checked row by row before anything is written."""

import hashlib
import re
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import cache, partial

from lepidos.core.errors import BadInput, Refused, Unknown
from lepidos.core.fish.lengths import KINDS_OF_LENGTH, LENGTHS
from lepidos.core.fish.species import LengthType, Species
from lepidos.core.units import LENGTH_M, MASS_KG, System, parse_length_m, parse_mass_kg
from lepidos.exchange.table_csv import read_csv
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import BESIDE, digest_of
from lepidos.stations.base.waters import find_here
from lepidos.stations.deck.landing import add_fish
from lepidos.stations.deck.landing_check import LandFish, check_landing
from lepidos.store.base import earlier, entries
from lepidos.store.base.earlier import Act
from lepidos.store.deck import fishes
from lepidos.store.trips import trips

IMPORT, SLICED = "deck.import", "deck.import.part"
SLICE = 25  # rows a transaction: a tenth of a second, in which others wait
COLUMNS = "code, species, length, length_type, weight"
LENGTH_TYPES: dict[str, LengthType] = {
    "": "total",
    "tl": "total",
    "fl": "fork",
    "sl": "standard",
    "ljfl": "lower_jaw_fork",
    "dw": "disc_width",
    "ml": "mantle",
    **{kind: kind for kind in LENGTHS},
    **{one.short: kind for kind, one in LENGTHS.items()},
}


@dataclass(frozen=True)
class ImportedRow:
    """A row of the file: the landing it would be, or why it cannot be one."""

    line: int
    cells: dict[str, str]
    order: LandFish | None
    problem: str
    question: str = ""


@dataclass(frozen=True)
class ImportReport:
    """Every row of the file with its verdict. Nothing has been written.

    `already`: when the same file was landed on this trip, and what that came to.
    """

    rows: tuple[ImportedRow, ...]
    already: tuple[datetime, str] | None = None

    @property
    def good(self) -> tuple[ImportedRow, ...]:
        """Rows that can be landed."""
        return tuple(r for r in self.rows if r.order)

    @property
    def bad(self) -> tuple[ImportedRow, ...]:
        """Rows that cannot, each with its reason."""
        return tuple(r for r in self.rows if not r.order)


@dataclass(frozen=True)
class AcceptRows:
    """An order to land the good rows of a file."""

    trip_id: str
    text: str
    system: System = field(default="metric", metadata=BESIDE)
    again: bool = field(default=False, metadata=BESIDE)


@dataclass(frozen=True)
class _Slice:
    """Some rows of a long file, by the lines they stand on. Each is a transaction of its own."""

    file: AcceptRows
    first: int
    last: int


def check_file(ctx: AppContext, trip_id: str, text: str, system: System = "metric") -> ImportReport:
    """Read and check a file. Raises Refused when it is no such table, Unknown for the trip."""
    order = AcceptRows(trip_id, text, system)
    with ctx.store.reading():
        return replace(_check(ctx, order, ctx.clock()), already=_already(order, ""))


def accept_rows(
    ctx: AppContext,
    key: str,
    order: AcceptRows,
    tell: Callable[[int, int], None] = lambda done, of: None,
) -> Receipt:
    """Land every good row; a long file slice by slice, so that others can land and weigh meanwhile.

    Stopped half-way, the same request goes on where it was. A file that was landed on this trip
    before is refused unless `order.again`. `tell` hears how many of how many rows were gone
    through. Raises Refused, also when no row can be landed.
    """
    with ctx.store.reading():
        if not order.again and (told := _already(order, key)):
            at, sentence = told
            said = f"This file was landed before, at {at:%H:%M} UTC on {at:%d %b}: {sentence}"
            raise Refused({"again": f"{said}. Say that all of it is to be landed again"})
        lines = [row.line for row in _check(ctx, order, ctx.clock()).rows]
    parts = [lines[n : n + SLICE] for n in range(0, len(lines), SLICE)]
    if len(parts) <= 1:
        return run_idempotent(ctx, key, IMPORT, order, lambda at: _land(ctx, order, at))
    landed = left = 0
    acts: list[str] = []
    for number, part in enumerate(parts, start=1):
        piece = _Slice(order, part[0], part[-1])
        own_key = hashlib.sha256(f"{key} {part[0]}".encode()).hexdigest()[:40]
        done = run_idempotent(ctx, own_key, SLICED, piece, partial(_land_slice, ctx, piece))
        acts.append(done.subject_id)
        tell(min(number * SLICE, len(lines)), len(lines))
        numbers = [int(word) for word in re.findall(r"\d+", done.sentence)]
        landed, left = landed + numbers[0], left + (numbers[1] if len(numbers) > 1 else 0)

    def sum_up(at: datetime) -> Receipt:
        act = Act(ctx.ids, at)
        for part_done in acts:
            act.made("fish", [row.row_id for row in earlier.of_act(part_done)])
        return Receipt("change", act.id, _sentence(landed, left))

    return run_idempotent(ctx, key, IMPORT, order, sum_up)


def _already(order: AcceptRows, key: str) -> tuple[datetime, str] | None:
    earlier = entries.last_like(IMPORT, digest_of(order))
    return None if earlier is None or earlier.key == key else (earlier.at, earlier.sentence)


def _land_slice(ctx: AppContext, piece: _Slice, at: datetime) -> Receipt:
    return _land(ctx, piece.file, at, range(piece.first, piece.last + 1))


def _land(ctx: AppContext, order: AcceptRows, at: datetime, lines: range | None = None) -> Receipt:
    """Land the good rows of some lines. A slice may have none, a whole file may not."""
    report = _check(ctx, order, at, lines)
    if not report.good and lines is None:
        raise Refused({"file": "No row of this file can be landed"})
    trip = trips.get(order.trip_id)
    used = fishes.codes_of(trip.id)
    landed = [add_fish(ctx, trip, r.order, at, used)[0].id for r in report.good if r.order]
    act = Act(ctx.ids, at)
    act.made("fish", landed)
    return Receipt("change", act.id, _sentence(len(report.good), len(report.bad)))


def _sentence(landed: int, left: int) -> str:
    return f"{landed} fish landed from the file" + (f"; {left} left out" if left else "")


def _check(
    ctx: AppContext, order: AcceptRows, at: datetime, lines: range | None = None
) -> ImportReport:
    trip = trips.get(order.trip_id)
    try:
        header, rows = read_csv(order.text, _is_heading)
        columns = _columns(header)
    except BadInput as error:
        raise Refused({"file": str(error)}) from error
    used = fishes.codes_of(trip.id)
    find = cache(partial(find_here, ctx))  # a file names few kinds many times
    checked: list[ImportedRow] = []
    for line, cells in rows:
        if lines is not None and line not in lines:
            continue
        try:
            if "" in cells:
                raise BadInput(cells[""])
            landing = _landing(find, order, columns, cells)
            if landing.code in used:
                raise BadInput(f"the code {landing.code} is used already")
            _, question = check_landing(ctx, trip, landing, at)
        except (BadInput, Unknown, Refused) as error:
            checked.append(ImportedRow(line, cells, None, str(error)))
            continue
        if landing.code:
            used.add(landing.code)
        checked.append(ImportedRow(line, cells, landing, "", question))
    return ImportReport(tuple(checked))


@dataclass(frozen=True)
class _Columns:
    """Which column holds what; a unit in a column's name applies to its bare numbers."""

    names: dict[str, str]
    length_unit: str
    weight_unit: str


def _is_heading(cells: list[str]) -> bool:
    """A line that names both columns that every row needs."""
    names = [cell.replace(" ", "_") for cell in cells]
    return "species" in names and any(name.split("_")[0] == "length" for name in names)


def _columns(header: list[str]) -> _Columns:
    names: dict[str, str] = {}
    units = {"length": "", "weight": ""}
    for column in header:
        whole = column.replace(" ", "_")
        base, _, unit = whole.rpartition("_")
        if (base == "length" and unit in LENGTH_M) or (base == "weight" and unit in MASS_KG):
            units[base] = unit
        elif whole in {"code", "species", "length", "length_type", "weight"}:
            base = whole
        else:
            continue
        if base in names:
            raise BadInput(f"Two columns give the {base}: {names[base]} and {column}; keep one")
        names[base] = column
    if missing := {"species", "length"} - set(names):
        raise BadInput(
            f"No column for {' and '.join(sorted(missing))}. The first line names the columns: "
            f"{COLUMNS}; a unit may be in the name, as in length_cm and weight_g"
        )
    return _Columns(names, units["length"], units["weight"])


def _landing(
    find: Callable[[str], Species], order: AcceptRows, columns: _Columns, cells: dict[str, str]
) -> LandFish:
    def cell(name: str) -> str:
        return cells.get(columns.names.get(name, "-"), "")

    if len(cell("code")) > 12:
        raise BadInput("a fish's code has at most 12 characters")
    species = find(cell("species"))
    given = cell("length_type").lower().removesuffix(" length")
    if given not in LENGTH_TYPES:
        raise BadInput(f"“{given[:20]}” is not a length type; use {KINDS_OF_LENGTH}")
    weight_text = cell("weight")
    weight_kg = None
    if weight_text:
        weight_kg = parse_mass_kg(_with_unit(weight_text, columns.weight_unit), order.system)
        if weight_kg == 0:
            raise BadInput("a weight of zero; leave it empty to estimate it")
    return LandFish(
        trip_id=order.trip_id,
        species=species.key,
        length_m=parse_length_m(_with_unit(cell("length"), columns.length_unit), order.system),
        length_type=LENGTH_TYPES[given],
        weight_kg=weight_kg,
        code=cell("code"),
        system=order.system,
    )


def _with_unit(text: str, unit: str) -> str:
    bare = text and unit and not any(c.isalpha() or c in "\"'" for c in text)
    return f"{text} {unit}" if bare else text
