"""Yield book: what every fish gave, of what, and what is unaccounted for."""

from dataclasses import dataclass

from lepidos.core.cutting.model import Skin, Slot
from lepidos.core.fish.species import Species
from lepidos.core.yields.balance import (
    Balance,
    BalancePart,
    YieldFigure,
    balance,
    expected_fraction,
    fillet_yield,
)
from lepidos.exchange.table_csv import write_csv
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import RoundWeight, landed, round_weight, skin_as_cut, skins_as_cut
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store.base import entries
from lepidos.store.deck import fishes
from lepidos.store.records import Fish, FishNow, Weighing


@dataclass(frozen=True)
class BookRow:
    """One fish: what it weighed, what came off it, and its yield."""

    fish: Fish
    now: FishNow
    species: Species
    party: str
    weight: RoundWeight
    skin: Skin
    parts: tuple[tuple[str, float], ...]
    balance: Balance
    fillet_yield: YieldFigure | None
    expected: tuple[float, float]

    @property
    def closed(self) -> bool:
        """Whether the rest is unaccounted for, and not still on the fish."""
        return self.now.stage == "done"


@dataclass(frozen=True)
class SpeciesRow:
    """Finished fish of a species that were weighed whole: their fillet per round weight."""

    species: Species
    fish: int
    round_kg: float
    fillet_kg: float

    @property
    def fraction(self) -> float:
        """All fillets over all round weights, so that big fish count for what they are."""
        return self.fillet_kg / self.round_kg


@dataclass(frozen=True)
class Book:
    """A trip's fish, the trip by species, all trips by species; `state` of the file it is of."""

    view: TripView
    rows: tuple[BookRow, ...]
    by_species: tuple[SpeciesRow, ...]
    all_trips: tuple[SpeciesRow, ...]
    state: str


def view_book(ctx: AppContext, trip_id: str) -> Book:
    """The yield book of a trip. Raises Unknown."""
    with ctx.store.reading():
        view = view_in_transaction(ctx, trip_id)
        key = ("book", trip_id, entries.last_key(), ctx.guide.edition)
        return ctx.memo.get(key, lambda: _book(ctx, view), most=4)


def _book(ctx: AppContext, view: TripView) -> Book:
    by_fish: dict[str, list[Weighing]] = {}
    for weighing in fishes.weighings_of_trip(view.trip.id):
        by_fish.setdefault(weighing.fish_id, []).append(weighing)
    parties = {p.id: p.name for p in view.parties}
    rows = tuple(
        _row(ctx, fish, now, parties, by_fish.get(fish.id, []))
        for fish, now in landed(ctx, view.trip.id)
    )
    totals = tuple(
        SpeciesRow(ctx.guide.known_or_named(key), n, round_kg, fillet_kg)
        for key, n, round_kg, fillet_kg in fishes.species_totals()
    )
    return Book(view, rows, _by_species(rows), totals, entries.last_key())


def book_csv(ctx: AppContext, trip_id: str) -> str:
    """One line per fish, masses in kg, every figure with what it is. Raises Unknown."""
    book = view_book(ctx, trip_id)
    pieces = list(ctx.guide.pieces)
    header = [
        "trip_date",
        "trip",
        "code",
        "species",
        "scientific_name",
        "party",
        "length_cm",
        "length_type",
        "round_kg",
        "round_how",
        "round_low_kg",
        "round_high_kg",
        "skin",
        *(f"{key}_kg" for key in pieces),
        "weighed_kg",
        "rest_kg",
        "rest_is",
        "fillet_yield",
        "yield_numerator",
        "yield_denominator",
    ]
    return write_csv(header, (_csv_row(book, row, pieces) for row in book.rows))


def _csv_row(book: Book, row: BookRow, pieces: list[str]) -> list[object]:
    low, high = row.weight.interval or (row.weight.kg, row.weight.kg)
    by_piece = dict.fromkeys(pieces, 0.0)
    for part in row.balance.parts:
        by_piece[part.slot.piece] += part.kg
    figure = row.fillet_yield
    return [
        book.view.trip.on_date.isoformat(),
        book.view.trip.name,
        row.fish.code,
        row.species.name,
        row.species.scientific,
        row.party,
        row.now.length_m * 100,
        row.now.length_type,
        row.weight.kg,
        how_weighed(row.now),
        low,
        high,
        row.skin,
        *(by_piece[key] or None for key in pieces),
        row.balance.weighed_kg,
        row.balance.rest_kg,
        "unaccounted for" if row.closed else "still on the fish",
        figure.fraction if figure else None,
        figure.numerator if figure else "",
        figure.denominator if figure else "",
    ]


def how_weighed(now: FishNow) -> str:
    """How the round weight is known."""
    if now.whole_kg is not None:
        return "measured"
    if now.gutted_kg is not None:
        return "estimated from gutted weight"
    if now.headed_kg is not None:
        return "estimated from headed weight"
    if now.shared_kg is not None:
        return "estimated from a weight of several"
    return "estimated from length"


def _row(
    ctx: AppContext,
    fish: Fish,
    now: FishNow,
    parties: dict[str, str],
    weighings: list[Weighing],
) -> BookRow:
    species = ctx.guide.one(fish.species)
    weight = round_weight(now, species)
    row = species.yields
    fraction = row.fillet_skin_on if skin_as_cut(ctx, fish) == "on" else row.fillet_skinless
    parts = [BalancePart(Slot(w.piece, w.side), w.kg) for w in weighings]
    weighed = balance(weight.kg, parts, weight.interval)
    named: dict[str, float] = {}
    for part in parts:
        name = ctx.guide.piece(part.slot.piece).name
        named[name] = named.get(name, 0.0) + part.kg
    return BookRow(
        fish,
        now,
        species,
        parties.get(fish.party_id or "", ""),
        weight,
        skin_as_cut(ctx, fish),
        tuple(named.items()),
        weighed,
        fillet_yield(weighed, skins_as_cut(ctx, fish, now), ctx.guide.pieces),
        expected_fraction(fraction)[1:],
    )


def _by_species(rows: tuple[BookRow, ...]) -> tuple[SpeciesRow, ...]:
    found: dict[str, list[BookRow]] = {}
    for row in rows:
        if row.closed and row.weight.measured and row.now.fillet_kg > 0 and not row.now.doubt:
            found.setdefault(row.species.key, []).append(row)
    return tuple(
        SpeciesRow(
            group[0].species,
            len(group),
            sum(r.weight.kg for r in group),
            sum(r.now.fillet_kg for r in group),
        )
        for _, group in sorted(found.items())
    )
