"""A season: where its kilograms went, from the fish that were landed to what was eaten."""

from collections import defaultdict
from dataclasses import dataclass, field

from lepidos.core.errors import CannotWorkOut, OutOfRange
from lepidos.core.fish.species import Species
from lepidos.core.units import format_percent
from lepidos.exchange.table_csv import write_csv
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import round_weight
from lepidos.store.base import entries
from lepidos.store.yieldbook import season

# What became of a bag, in the order in which it is shown, and its words.
OUTCOMES = {
    "in": "in the freezer",
    "sealed": "not yet in a freezer",
    "to eat": "eaten",
    "given away": "given away",
    "spoiled": "thrown away",
    "missing": "missing",
}
ORDERS = ("round", "eaten", "share", "fish", "species")


@dataclass
class SeasonRow:
    """A species, or all of them [kg]: `estimated` of `round_kg` was never weighed; `meat_kg` pieces
    that are eaten (fillets and the like); `finished_meat_kg` of them off fish that are finished, of
    `cut_kg` round weight. `unknown` fish have no weight that can be calculated.
    """

    name: str
    fish: int = 0
    round_kg: float = 0.0
    estimated_kg: float = 0.0
    cut_kg: float = 0.0
    meat_kg: float = 0.0
    finished_meat_kg: float = 0.0
    other_kg: float = 0.0
    bags: int = 0
    outcomes: dict[str, float] = field(default_factory=lambda: dict.fromkeys(OUTCOMES, 0.0))
    unknown: int = 0

    @property
    def bagged_kg(self) -> float:
        """In bags of what is eaten, whatever became of them."""
        return sum(self.outcomes.values())

    @property
    def share(self) -> float | None:
        """Meat per round weight of the fish that were cut; None: none was."""
        return self.finished_meat_kg / self.cut_kg if self.cut_kg > 0 else None


@dataclass(frozen=True)
class Season:
    """Rows by species, all of them together, and what may be chosen."""

    year: int
    party: str
    rows: tuple[SeasonRow, ...]
    total: SeasonRow
    years: tuple[int, ...]
    parties: tuple[str, ...]

    @property
    def finding(self) -> str:
        """The chart's title: what it says."""
        total = self.total
        if total.bagged_kg <= 0:
            return "Nothing of it is in bags yet"
        parts = {words: total.outcomes[key] / total.bagged_kg for key, words in OUTCOMES.items()}
        words, share = max(parts.items(), key=lambda item: item[1])
        return f"{format_percent(share)} of what was bagged is {words}"


def view_season(ctx: AppContext, year: int = 0, party: str = "", order: str = "round") -> Season:
    """A year, 0 for the newest; of a party by its name, "" for all."""
    with ctx.store.reading():
        years = tuple(season.years())
        chosen = year if year in years else (years[0] if years else ctx.clock().year)
        key = ("season", entries.last_key(), ctx.guide.edition, chosen, party)
        rows, total, names = ctx.memo.get(key, lambda: _add_up(ctx, chosen, party), most=6)
    return Season(chosen, party, tuple(_sorted(rows, order)), total, years, names)


def _add_up(
    ctx: AppContext, year: int, party: str
) -> tuple[list[SeasonRow], SeasonRow, tuple[str, ...]]:
    first, last = f"{year}-01-01", f"{year}-12-31"
    rows: dict[str, SeasonRow] = defaultdict(lambda: SeasonRow(""))
    total = SeasonRow("all")
    for now in season.fish(first, last, party):
        species = ctx.guide.known_or_named(now.species)
        try:
            weight = round_weight(now, species)
        except (OutOfRange, CannotWorkOut):
            for row in (rows[now.species], total):
                row.fish, row.unknown = row.fish + 1, row.unknown + 1
            continue
        for row in (rows[now.species], total):
            row.fish += 1
            row.round_kg += weight.kg
            row.estimated_kg += 0.0 if weight.measured else weight.kg
            row.cut_kg += weight.kg if now.stage == "done" and not now.doubt else 0.0
    for kind, piece, done, kg in season.pieces(first, last, party):
        for row in (rows[kind], total):
            if _eaten(ctx, piece):
                row.meat_kg += kg
                row.finished_meat_kg += kg if done else 0.0
            else:
                row.other_kg += kg
    for kind, piece, state, why, kg, number in season.bags(first, last, party):
        if _eaten(ctx, piece):
            for row in (rows[kind], total):
                row.outcomes[why or state] += kg
                row.bags += number
    for key, row in rows.items():
        row.name = _name(ctx.guide.known_or_named(key))
    return list(rows.values()), total, tuple(season.parties(first, last))


def _eaten(ctx: AppContext, piece: str) -> bool:
    return ctx.guide.piece(piece).counts_as != "rest"


def _name(species: Species) -> str:
    return str(species.name)


def _sorted(rows: list[SeasonRow], order: str) -> list[SeasonRow]:
    keys = {
        "eaten": lambda r: (-r.outcomes["to eat"], r.name),
        "share": lambda r: (-(r.share or 0.0), r.name),
        "fish": lambda r: (-r.fish, r.name),
        "species": lambda r: (0, r.name),
    }
    return sorted(rows, key=keys.get(order, lambda r: (-r.round_kg, r.name)))


def season_csv(found: Season) -> str:
    """One line a species, masses in kg, each with what it is."""
    outcomes = [f"bagged_{words.replace(' ', '_')}_kg" for words in OUTCOMES.values()]
    header = [
        "year", "party", "species", "fish", "round_kg", "round_estimated_kg", "finished_round_kg",
        "meat_kg", "finished_meat_kg", "meat_per_round", "other_pieces_kg", "bags", *outcomes,
    ]  # fmt: skip
    return write_csv(
        header,
        (
            [
                found.year,
                found.party,
                row.name,
                row.fish,
                row.round_kg,
                row.estimated_kg,
                row.cut_kg,
                row.meat_kg,
                row.finished_meat_kg,
                row.share,
                row.other_kg,
                row.bags,
                *row.outcomes.values(),
            ]
            for row in found.rows
        ),
    )
