"""Where it goes: fates of what is not packed, the use of the whole fish, the day's waste list."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Refused, Unknown
from lepidos.core.fish.bodyplan import Piece
from lepidos.core.pack.findings import ByproductUse, WholeUse, whole_use
from lepidos.core.pack.labels import sentence
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.fish import landed, round_weight
from lepidos.stations.table import spots
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store.deck import fishes
from lepidos.store.records import Fish, Weighing
from lepidos.store.table import sessions


@dataclass(frozen=True)
class Destined:
    """A weighed by-product and where it goes; `as_last` when nobody said so of this fish.

    `fate` is None while it is open. `offered` are the fates that suit it.
    """

    piece: Piece
    kg: float
    fate: ByproductUse | None
    as_last: bool
    offered: tuple[ByproductUse, ...]


def destined(
    ctx: AppContext, fish: Fish, by_piece: Mapping[str, float], last: Mapping[str, str]
) -> tuple[Destined, ...]:
    """Every weighed by-product of a fish. Called in an open transaction."""
    rows = sessions.fates_of_trip(fish.trip_id).get(fish.id, {})
    own = {piece: row.fate for piece, row in rows.items()}
    return _destined(ctx, fish, by_piece, own, last)


def _destined(
    ctx: AppContext,
    fish: Fish,
    by_piece: Mapping[str, float],
    own: Mapping[str, str],
    last: Mapping[str, str],
) -> tuple[Destined, ...]:
    found = []
    poison = ctx.guide.never_used(ctx.guide.known_or_named(fish.species))
    for key, kg in by_piece.items():
        piece = ctx.guide.piece(key)
        if piece.counts_as != "rest" and key not in own and key not in poison:
            continue  # it is packed and eaten, unless somebody says otherwise
        offered = _offered(ctx, key, key in poison)
        fate = ctx.guide.byproduct_uses.one(own.get(key, last.get(key, "")))
        if fate not in offered:
            fate = offered[0] if key in poison else None
        found.append(Destined(piece, kg, fate, key not in own and fate is not None, offered))
    return tuple(found)


def _offered(ctx: AppContext, piece: str, poison: bool) -> tuple[ByproductUse, ...]:
    """Where a piece may go; a poisonous one into the bin only."""
    fates = ctx.guide.byproduct_uses.uses
    return tuple(f for f in fates if (f.takes_poison if poison else f.suits(piece)))


def use_of(
    ctx: AppContext, round_kg: float, by_piece: Mapping[str, float], rows: tuple[Destined, ...]
) -> WholeUse:
    """How much of the fish is used: what is eaten, and by-products that go somewhere useful."""
    fate = {row.piece.key: row.fate for row in rows}
    parts: list[tuple[float, bool | None]] = []
    for key, kg in by_piece.items():
        if key in fate:
            chosen = fate[key]
            parts.append((kg, chosen.used if chosen else None))
        else:
            parts.append((kg, True))
    return whole_use(round_kg, parts)


@dataclass(frozen=True)
class SendPiece:
    """Where a piece goes, as in `guide/byproduct_uses.toml`; the next fish's goes there too."""

    fish_id: str
    piece: str
    fate: str


def send_piece(ctx: AppContext, key: str, order: SendPiece) -> Receipt:
    """Say where it goes. Raises Refused with the field, Unknown for the fish."""

    def do(at: datetime) -> Receipt:
        fish = fishes.get(order.fish_id)
        try:
            piece = ctx.guide.piece(order.piece)
        except Unknown as error:
            raise Refused({"piece": sentence(str(error))}) from error
        fate = ctx.guide.byproduct_uses.one(order.fate)
        poison = order.piece in ctx.guide.never_used(ctx.guide.known_or_named(fish.species))
        if fate not in _offered(ctx, order.piece, poison):
            said = (
                f"The {piece.name} of this fish is poisonous: into the bin with it"
                if poison
                else f"Choose where the {piece.name} goes"
            )
            raise Refused({"fate": said})
        row = sessions.decide(ctx.ids, at, fish=fish.id, piece=order.piece, fate=order.fate)
        return Receipt("fate", row.id, f"{fish.code} {piece.name}: {fate.name}" if fate else "")

    return run_idempotent(ctx, key, "fates.send", order, do)


@dataclass(frozen=True)
class WasteLine:
    """One fate of the day: pieces by name with grams, and what they come to."""

    fate: ByproductUse | None
    parts: tuple[tuple[Piece, int, float], ...]

    @property
    def kg(self) -> float:
        """All of it."""
        return sum(kg for _, _, kg in self.parts)


@dataclass(frozen=True)
class WasteList:
    """What has to go where at the end of the day, and how much of all the fish was used."""

    view: TripView
    lines: tuple[WasteLine, ...]
    use: WholeUse | None
    fish: int


def waste_list(ctx: AppContext, trip_id: str) -> WasteList:
    """Of every fish that was worked on. Raises Unknown."""
    with ctx.store.reading():
        view = view_in_transaction(ctx, trip_id)
        last, own = sessions.last_fates(trip_id), sessions.fates_of_trip(trip_id)
        sights = sessions.sights_of_trip(trip_id)
        by_fish: dict[str, list[Weighing]] = {}
        for w in fishes.weighings_of_trip(trip_id):
            by_fish.setdefault(w.fish_id, []).append(w)
        rows = [(f, s) for f, s in landed(ctx, trip_id) if f.id in by_fish]
        found: dict[str, dict[str, tuple[int, float]]] = {}
        used = waste = undecided = whole = 0.0
        for fish, state in rows:
            away = spots.away_by_slot(sights.get(fish.id, ()), by_fish[fish.id])
            by_piece = parts_kg(by_fish[fish.id], away)
            chosen = {p: r.fate for p, r in own.get(fish.id, {}).items()}
            out = _destined(ctx, fish, by_piece, chosen, last)
            kg = round_weight(state, ctx.guide.one(fish.species)).kg
            use = use_of(ctx, kg, by_piece, out)
            used, waste = used + use.used_kg, waste + use.waste_kg
            undecided, whole = undecided + use.undecided_kg, whole + kg
            for row in out:
                pieces = found.setdefault(row.fate.key if row.fate else "", {})
                number, kg_before = pieces.get(row.piece.key, (0, 0.0))
                pieces[row.piece.key] = (number + 1, kg_before + row.kg)
    lines = [
        WasteLine(
            ctx.guide.byproduct_uses.one(key),
            tuple((ctx.guide.piece(p), n, kg) for p, (n, kg) in sorted(pieces.items())),
        )
        for key, pieces in found.items()
    ]
    order = [f.key for f in ctx.guide.byproduct_uses.uses]
    lines.sort(key=lambda line: order.index(line.fate.key) if line.fate else -1)
    use_all = WholeUse(used, waste, undecided, whole) if rows else None
    return WasteList(view, tuple(lines), use_all, len(rows))


def parts_kg(weighings: list[Weighing], away: Mapping[str, float]) -> dict[str, float]:
    """What was weighed of each piece, both sides together, and what was cut out of all [kg]."""
    found: dict[str, float] = {}
    for w in weighings:
        found[w.piece] = found.get(w.piece, 0.0) + w.kg
    if away:
        cut_out = spots.CUT_OUT.piece
        found[cut_out] = found.get(cut_out, 0.0) + sum(away.values())
    return found
