"""The book as a file: a row a fish, every figure with what it is."""

from collections.abc import Iterator

from lepidos.core.yields.stages import STAGES
from lepidos.exchange.table_csv import write_csv
from lepidos.exchange.table_files import write_json, write_xlsx
from lepidos.stations.base.context import AppContext
from lepidos.stations.yieldbook.book_figures import share_of
from lepidos.stations.yieldbook.every_fish import EveryFish

KINDS = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "json": "application/json",
}


def book_file(ctx: AppContext, found: EveryFish, kind: str) -> bytes:
    """All fish that were asked for, as a file of a kind: a key of `KINDS`."""
    pieces = sorted({piece for g in found.fish for piece in g.row.parts})
    pieces.sort(key=list(ctx.guide.pieces).index)
    header = [
        "trip_date", "trip", "code", "species", "scientific_name", "party", "cutter", "size",
        "purpose", "skin", "length_m", "length_type", "round_kg", "round_is",
        *(f"{stage}_kg" for stage in STAGES if stage != "round"),
        *(f"piece_{piece}_kg" for piece in pieces),
        "meat_kg", "minutes", "yield", "yield_numerator", "yield_denominator",
    ]  # fmt: skip
    rows = _rows(found, pieces)
    if kind == "csv":
        return write_csv(header, rows).encode()
    if kind == "xlsx":
        return write_xlsx("fish", header, rows)
    return write_json(header, rows).encode()


def _rows(found: EveryFish, pieces: list[str]) -> Iterator[list[object]]:
    asked = found.asked
    for g in found.fish:
        share = share_of(g, asked)
        yield [
            g.row.on_date.isoformat(), g.row.trip, g.row.code, str(g.species.name),
            g.species.scientific, g.row.party, g.row.cutter, g.size, g.row.purpose, g.skin,
            g.row.length_m, g.row.length_type, g.round_kg,
            "estimated" if g.estimated else "measured",
            *(g.masses.get(stage) for stage in STAGES if stage != "round"),
            *(g.row.parts.get(piece) for piece in pieces),
            g.meat_kg, g.minutes, share,
            STAGES[asked.over] if share is not None else "",
            STAGES[asked.under] if share is not None else "",
        ]  # fmt: skip
