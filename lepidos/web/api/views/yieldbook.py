"""The yield book as plain JSON values."""

from lepidos.stations.yieldbook.yieldbook import Book, SpeciesRow
from lepidos.web.api.shapes import Json
from lepidos.web.api.views.deck import weight
from lepidos.web.api.views.table import figure


def book(view: Book) -> Json:
    """The yield book."""
    return {
        "fish": [
            {
                "code": r.fish.code,
                "species": r.species.key,
                "round_weight": weight(r.weight),
                "parts": dict(r.parts),
                "weighed_kg": r.balance.weighed_kg,
                "rest_kg": r.balance.rest_kg,
                "rest_is": "unaccounted for" if r.closed else "still on the fish",
                "fillet_yield": figure(r.fillet_yield),
            }
            for r in view.rows
        ],
        "by_species": [_species(r) for r in view.by_species],
        "all_trips": [_species(r) for r in view.all_trips],
    }


def _species(row: SpeciesRow) -> Json:
    return {
        "species": row.species.key,
        "fish": row.fish,
        "round_kg": row.round_kg,
        "fillet_kg": row.fillet_kg,
        "fraction": row.fraction,
    }
