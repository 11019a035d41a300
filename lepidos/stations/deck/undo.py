"""What was done on deck, undone."""

from datetime import datetime

from lepidos.core.errors import Conflict, Unknown
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


def undo_lot(ctx: AppContext, lot: str, at: datetime) -> str:
    found = [fishes.get(fish_id) for fish_id in fishes.of_lot(lot)]
    if not found:
        raise Unknown("lot", lot)
    for fish in found:
        undo_fish(ctx, fish.id, at)
    entries.undo(ctx.ids, "lot", lot, at)
    return f"{found[0].code} to {found[-1].code}: landing undone"


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
