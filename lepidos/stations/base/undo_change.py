"""Undo of an act: restore the rows it changed, remove the rows it made."""

from collections.abc import Callable
from datetime import datetime

from lepidos.core.errors import Conflict
from lepidos.stations.base.context import AppContext
from lepidos.store.base import earlier, entries
from lepidos.store.bundle import contradictions
from lepidos.store.deck import fish_now, fishes
from lepidos.store.pack import bags
from lepidos.store.records import Earlier
from lepidos.store.schedule import boards


def undo_change(ctx: AppContext, act: str, at: datetime) -> str:
    """Restore every row that an act changed. Raises Conflict, see `earlier.put_back`."""
    done = entries.latest_for(act)
    rows = earlier.of_act(act)
    kinds = {r.row_id: fishes.get(r.row_id).species for r in rows if _is_fish(r)}
    undone = [r.row_id for r in rows if r.of_table == "undo"]
    before = contradictions.undone_by(undone)
    put_back = earlier.put_back(ctx.ids, at, act)
    fish_ids, bag_ids = contradictions.touched([*before, *contradictions.undone_by(undone)])
    fish_now.refresh_many(sorted(fish_ids), ctx.is_fillet)
    bags.refresh_many(sorted(bag_ids))
    for table, row_id in put_back:
        if table == "fish":
            fish = fishes.get(row_id)
            is_other = entries.is_undone(row_id) or fish.species != kinds[row_id]
            if is_other and fishes.weighings_of(row_id):
                raise Conflict(f"{fish.code} has pieces weighed; undo those first")
            fish_now.refresh(row_id, ctx.is_fillet)
    return f"Undone: {done.sentence}" if done else "Undone"


def _is_fish(row: Earlier) -> bool:
    return bool(row.of_table == "fish")


Undo = Callable[[AppContext, str, datetime], str]


def undo_of(kind: str, say: Callable[[AppContext, str], str]) -> Undo:
    """How to undo a row on which nothing rests: what was said before holds again.

    `say`: what then holds, in a sentence; raises Unknown for a row that is not there, Conflict.
    """

    def undo(ctx: AppContext, row_id: str, at: datetime) -> str:
        sentence = say(ctx, row_id)
        entries.undo(ctx.ids, kind, row_id, at)
        return sentence

    return undo


def undo_made(table: str) -> Undo:
    """How to remove a row that an act made in a table. It stays while other rows need it."""

    def undo(ctx: AppContext, row_id: str, at: datetime) -> str:
        rows = earlier.of_row(table, row_id)
        if not rows or rows[0].before is not None:
            raise Conflict("That is from an earlier Lepidos, which kept nothing to undo it by")
        if table == "board" and boards.is_used(row_id):
            raise Conflict("Fish came to that board; close it instead")
        done = entries.latest_for(row_id)
        earlier.put_back(ctx.ids, at, rows[0].act)
        entries.undo(ctx.ids, f"new {table}", row_id, at)
        return f"Undone: {done.sentence}" if done else "Undone"

    return undo
