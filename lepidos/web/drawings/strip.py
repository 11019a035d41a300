"""The strip at the bench: what of the round weight is accounted for."""

from dataclasses import dataclass

from lepidos.core.units import System, format_mass
from lepidos.guide.library import Guide
from lepidos.stations.table.fish_view import TableView


@dataclass(frozen=True)
class StripPart:
    """A stretch of the strip "where this fish went", as parts of the round weight."""

    name: str
    weight: str
    start: float
    width: float
    kind: str


@dataclass(frozen=True)
class Strip:
    """The mass balance as a strip, with the stretch that fillets usually take."""

    parts: tuple[StripPart, ...]
    usual: tuple[float, float]


_ORDER = ["fillet", "extra", "rest"]


def strip(guide: Guide, table: TableView, system: System) -> Strip:
    """Fillets first, so that the bracket of what is usual can be read against them."""
    by_piece: dict[str, float] = {}
    for part in table.balance.parts:
        by_piece[part.slot.piece] = by_piece.get(part.slot.piece, 0.0) + part.kg
    keys = sorted(by_piece, key=lambda k: _ORDER.index(guide.piece(k).counts_as))
    whole = max(table.balance.round_kg, table.balance.weighed_kg)
    parts, at = [], 0.0
    for key in keys:
        width = by_piece[key] / whole
        piece = guide.piece(key)
        name = piece.plural if piece.sided else piece.name
        parts.append(
            StripPart(name, format_mass(by_piece[key], system), at, width, piece.counts_as)
        )
        at += width
    if table.balance.rest_kg > 0:
        name = "unaccounted for" if table.closed else "still on the fish"
        rest = format_mass(table.balance.rest_kg, system)
        parts.append(StripPart(name, rest, at, 1 - at, "open"))
    usual = table.fillet_now if table.fillet_now and not table.closed else table.expected_fillet
    return Strip(tuple(parts), (min(1.0, usual.low / whole), min(1.0, usual.high / whole)))
