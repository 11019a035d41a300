"""A season on paper: what was caught, what it gave, what became of it, party by party."""

from datetime import datetime

from lepidos.core.pack.labels import count
from lepidos.core.units import System, format_mass
from lepidos.exchange.receiptpdf import ReceiptBlock, ReceiptText, receipt_pdf
from lepidos.stations.base.context import AppContext
from lepidos.stations.yieldbook.season import Season, SeasonRow, view_season

MAX_PARTIES = 40
WASTED = ("spoiled", "missing")


def report_text(ctx: AppContext, year: int, party: str, system: System) -> ReceiptText:
    """The report of a year, of all or of one party by its name."""
    found = view_season(ctx, year, party, "round")
    blocks = [_species(found, system)]
    if not party and found.parties:
        blocks.append(_parties(ctx, found, system))
    total = found.total
    wasted = sum(total.outcomes[key] for key in WASTED)
    lines = [
        f"{count(total.fish, 'fish', 'fish')} caught and kept: "
        f"{format_mass(total.round_kg, system)} round, "
        f"{format_mass(total.estimated_kg, system)} of it estimated from lengths",
        _gave(total, system),
        f"{format_mass(total.outcomes['to eat'], system)} eaten, "
        f"{format_mass(total.outcomes['given away'], system)} given away, "
        f"{format_mass(wasted, system)} thrown away or missing, "
        f"{format_mass(total.outcomes['in'], system)} still frozen",
    ]
    whose = f"{party}, " if party else ""
    title = f"Season {found.year}"
    line = f"{whose}{count(total.fish, 'fish', 'fish')}, {count(total.bags, 'bag')}"
    return ReceiptText(title, line, tuple(blocks), tuple(lines), ())


def report_pdf(ctx: AppContext, year: int, party: str, system: System, at: datetime) -> bytes:
    """The same as PDF."""
    return receipt_pdf(report_text(ctx, year, party, system), at, "Lepidos season")


def _gave(row: SeasonRow, system: System) -> str:
    if row.share is None:
        return "No fish is finished yet"
    return (
        f"{row.share * 100:.1f} % meat of round weight: "
        f"{format_mass(row.finished_meat_kg, system)} of {format_mass(row.cut_kg, system)}, "
        "all pieces that are eaten, of finished fish"
    )


def _species(found: Season, system: System) -> ReceiptBlock:
    rows = [_row(row, system) for row in (*found.rows, found.total)]
    return ReceiptBlock("By species", ("Fish", *_HEADS), tuple(rows), _PARTS)


def _parties(ctx: AppContext, found: Season, system: System) -> ReceiptBlock:
    rows = []
    for name in found.parties[:MAX_PARTIES]:
        total = view_season(ctx, found.year, name).total
        rows.append((name, *_row(total, system)[1:]))
    return ReceiptBlock("By party", ("Party", *_HEADS), tuple(rows), _PARTS)


_HEADS = ("Number", "Round", "Meat of round", "Eaten", "Given", "Wasted", "Frozen")
_PARTS = (0.26, 0.09, 0.13, 0.13, 0.1, 0.09, 0.1, 0.1)


def _row(row: SeasonRow, system: System) -> tuple[str, ...]:
    def mass(kg: float) -> str:
        return format_mass(kg, system) if kg else "–"

    return (
        row.name,
        str(row.fish),
        mass(row.round_kg),
        f"{row.share * 100:.1f} %" if row.share is not None else "–",
        mass(row.outcomes["to eat"]),
        mass(row.outcomes["given away"]),
        mass(sum(row.outcomes[key] for key in WASTED)),
        mass(row.outcomes["in"] + row.outcomes["sealed"]),
    )
