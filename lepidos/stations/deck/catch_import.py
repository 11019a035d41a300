"""Catch import: fish from a CSV file, checked row by row before anything is written."""

from dataclasses import dataclass, field
from datetime import datetime

from lepidos.core.errors import BadInput, Refused, Unknown
from lepidos.core.fish.species import LengthType
from lepidos.core.units import LENGTH_M, MASS_KG, System, parse_length_m, parse_mass_kg
from lepidos.exchange.table_csv import read_csv
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import BESIDE
from lepidos.stations.base.waters import find_here
from lepidos.stations.deck.landing import add_fish
from lepidos.stations.deck.landing_check import LandFish, check_landing
from lepidos.store import fishes, trips

COLUMNS = "code, species, length, length_type, weight"
LENGTH_TYPES: dict[str, LengthType] = {
    "": "total",
    "total": "total",
    "tl": "total",
    "fork": "fork",
    "fl": "fork",
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
    """Every row of the file with its verdict. Nothing has been written."""

    rows: tuple[ImportedRow, ...]

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


def check_file(ctx: AppContext, trip_id: str, text: str, system: System = "metric") -> ImportReport:
    """Read and check a file. Raises Refused when it is no such table, Unknown for the trip."""
    with ctx.store.reading():
        return _check(ctx, AcceptRows(trip_id, text, system), ctx.clock())


def accept_rows(ctx: AppContext, key: str, order: AcceptRows) -> Receipt:
    """Land every good row, all in one transaction. Raises Refused when there is none."""

    def do(at: datetime) -> Receipt:
        report = _check(ctx, order, at)
        if not report.good:
            raise Refused({"file": "No row of this file can be landed"})
        trip = trips.get(order.trip_id)
        for row in report.good:
            if row.order:
                add_fish(ctx, trip, row.order, at)
        left = f"; {len(report.bad)} left out" if report.bad else ""
        return Receipt("trip", trip.id, f"{len(report.good)} fish landed from the file{left}")

    return run_idempotent(ctx, key, "deck.import", order, do)


def _check(ctx: AppContext, order: AcceptRows, at: datetime) -> ImportReport:
    trip = trips.get(order.trip_id)
    try:
        header, rows = read_csv(order.text)
        columns = _columns(header)
    except BadInput as error:
        raise Refused({"file": str(error)}) from error
    used = fishes.codes_of(trip.id)
    checked: list[ImportedRow] = []
    for line, cells in rows:
        try:
            if "" in cells:
                raise BadInput(cells[""])
            landing = _landing(ctx, order, columns, cells)
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


def _columns(header: list[str]) -> _Columns:
    names: dict[str, str] = {}
    units = {"length": "", "weight": ""}
    for column in header:
        base, _, unit = column.replace(" ", "_").rpartition("_")
        if base == "length" and unit in LENGTH_M:
            names["length"], units["length"] = column, unit
        elif base == "weight" and unit in MASS_KG:
            names["weight"], units["weight"] = column, unit
        elif column.replace(" ", "_") in {"code", "species", "length", "length_type", "weight"}:
            names[column.replace(" ", "_")] = column
    if missing := {"species", "length"} - set(names):
        raise BadInput(
            f"No column for {' and '.join(sorted(missing))}. The first line names the columns: "
            f"{COLUMNS}; a unit may be in the name, as in length_cm and weight_g"
        )
    return _Columns(names, units["length"], units["weight"])


def _landing(
    ctx: AppContext, order: AcceptRows, columns: _Columns, cells: dict[str, str]
) -> LandFish:
    def cell(name: str) -> str:
        return cells.get(columns.names.get(name, "-"), "")

    if len(cell("code")) > 12:
        raise BadInput("a fish's code has at most 12 characters")
    species = find_here(ctx, cell("species"))
    given = cell("length_type").lower().removesuffix(" length")
    if given not in LENGTH_TYPES:
        raise BadInput(f"“{given[:20]}” is no length type; use fork or total")
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
