"""The yield book, as the API shows it."""

from lepidos.stations.yieldbook.yieldbook import Book, SpeciesRow
from lepidos.web.api.shapes import Out
from lepidos.web.api.views.deck import WeightOut, weight
from lepidos.web.api.views.table import FigureOut, figure


class BookFishOut(Out):
    """What a fish gave: kilograms by part, and the rest that nobody weighed."""

    code: str
    species: str
    round_weight: WeightOut
    parts: dict[str, float]
    weighed_kg: float
    rest_kg: float
    rest_is: str
    fillet_yield: FigureOut | None


class BookSpeciesOut(Out):
    """Finished fish of a species that were weighed whole: their fillets per round weight."""

    species: str
    fish: int
    round_kg: float
    fillet_kg: float
    fraction: float


class BookOut(Out):
    """The yield book of a trip, and of all trips by species."""

    fish: list[BookFishOut]
    by_species: list[BookSpeciesOut]
    all_trips: list[BookSpeciesOut]


def book(view: Book) -> BookOut:
    """The yield book."""
    return BookOut(
        fish=[
            BookFishOut(
                code=r.fish.code,
                species=r.species.key,
                round_weight=weight(r.weight),
                parts=dict(r.parts),
                weighed_kg=r.balance.weighed_kg,
                rest_kg=r.balance.rest_kg,
                rest_is="unaccounted for" if r.closed else "still on the fish",
                fillet_yield=figure(r.fillet_yield),
            )
            for r in view.rows
        ],
        by_species=[_species(r) for r in view.by_species],
        all_trips=[_species(r) for r in view.all_trips],
    )


def _species(row: SpeciesRow) -> BookSpeciesOut:
    return BookSpeciesOut(
        species=row.species.key,
        fish=row.fish,
        round_kg=row.round_kg,
        fillet_kg=row.fillet_kg,
        fraction=row.fraction,
    )
