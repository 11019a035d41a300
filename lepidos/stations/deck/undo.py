"""What was done on deck, undone."""

from datetime import datetime

from lepidos.core.errors import Conflict
from lepidos.stations.base.context import AppContext
from lepidos.store.base import entries
from lepidos.store.deck import fish_now, fishes, looks
from lepidos.store.trips import trips


def undo_fish(ctx: AppContext, fish_id: str, at: datetime) -> str:
    fish = fishes.get(fish_id)
    if fishes.weighings_of(fish_id):
        raise Conflict(f"{fish.code} has pieces weighed; undo those first")
    entries.undo(ctx.ids, "fish", fish_id, at)
    fish_now.refresh(fish_id, ctx.is_fillet)
    return f"{fish.code}: landing undone"


def undo_look(ctx: AppContext, row_id: str, at: datetime) -> str:
    row = looks.look(row_id)
    for mark in looks.same_look(row):
        entries.undo(ctx.ids, "look", mark.id, at)
    return f"{fishes.get(row.fish_id).code}: look undone"


def reading_undone(ctx: AppContext, row_id: str) -> str:
    return f"{fishes.get(looks.reading(row_id).fish_id).code}: reading undone"


def ice_undone(_: AppContext, row_id: str) -> str:
    trips.ice_note(row_id)
    return "The note of ice is undone"
