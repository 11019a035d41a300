"""The strip at the bench: what of the round weight is accounted for."""

from dataclasses import dataclass

from lepidos.core.units import System, format_mass
from lepidos.guide.library import Guide
from lepidos.stations.table.fish_view import TableView
from lepidos.store.schedule.work import BY_EYE


@dataclass(frozen=True)
class StripPart:
    """A stretch of the strip "where this fish went", as parts of the round weight.

    `about`: some of it was judged by eye, or follows from what was.
    """

    name: str
    weight: str
    start: float
    width: float
    kind: str
    about: bool


@dataclass(frozen=True)
class Strip:
    """The mass balance as a strip, with the stretch that fillets usually take."""

    parts: tuple[StripPart, ...]
    usual: tuple[float, float]

    @property
    def about(self) -> bool:
        """Whether a piece was judged by eye, so that its sum is no weight."""
        return any(part.about for part in self.parts)


_ORDER = ["fillet", "extra", "rest"]


def strip(guide: Guide, table: TableView, system: System) -> Strip:
    """Fillets first, so that the bracket of what is usual can be read against them."""
    by_piece: dict[str, float] = {}
    for part in table.balance.parts:
        by_piece[part.slot.piece] = by_piece.get(part.slot.piece, 0.0) + part.kg
    keys = sorted(by_piece, key=lambda k: _ORDER.index(guide.piece(k).counts_as))
    judged = {w.piece for w in table.weighings if w.method == BY_EYE}
    whole = max(table.balance.round_kg, table.balance.weighed_kg)
    parts, at = [], 0.0
    for key in keys:
        width = by_piece[key] / whole
        piece = guide.piece(key)
        name = piece.plural if piece.sided else piece.name
        parts.append(
            StripPart(
                name,
                format_mass(by_piece[key], system),
                at,
                width,
                piece.counts_as,
                key in judged,
            )
        )
        at += width
    if table.balance.rest_kg > 0:
        name = "unaccounted for" if table.closed else "still on the fish"
        rest = format_mass(table.balance.rest_kg, system)
        parts.append(StripPart(name, rest, at, 1 - at, "open", bool(judged)))
    usual = table.fillet_now if table.fillet_now and not table.closed else table.expected_fillet
    return Strip(tuple(parts), (min(1.0, usual.low / whole), min(1.0, usual.high / whole)))
