"""Undo, at every station: an earlier row is undone by a new one, where nothing rests on it."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Conflict, Refused
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.undo_change import undo_change, undo_made
from lepidos.stations.deck import undo as deck
from lepidos.stations.freezer import meals, moves, stocktake, temperature
from lepidos.stations.freezer import undo as freezer
from lepidos.stations.guide import own_guide
from lepidos.stations.pack import undo as pack
from lepidos.stations.table import undo as table
from lepidos.stations.yieldbook import drift, millimetres, trials
from lepidos.store import entries
from lepidos.store.records import Entry


@dataclass(frozen=True)
class UndoRow:
    """An order to undo the row `id` of a kind, one of `_UNDO`."""

    kind: str
    id: str


def undo_row(ctx: AppContext, key: str, order: UndoRow) -> Receipt:
    """Undo. Raises Refused for a kind that cannot be undone, Unknown for a row that is not there,
    Conflict for one that something rests on.
    """

    def do(at: datetime) -> Receipt:
        if order.kind not in _UNDO:
            raise Refused({"kind": "That cannot be undone"})
        if entries.is_undone(order.id):
            raise Conflict("That was undone already")
        sentence = _UNDO[order.kind](ctx, order.id, at)
        return Receipt("undo", order.id, sentence, undoes=order.id)

    done = run_idempotent(ctx, key, "undo", order, do)
    if after := _AFTER.get(order.kind):
        after(ctx, order.id)
    return done


def done_by(ctx: AppContext, order: UndoRow) -> Entry | None:
    """What was done when a row was made; None of one of several rows of one touch."""
    with ctx.store.reading():
        return entries.latest_for(order.id)


def can_undo(done: Receipt) -> bool:
    """Whether what was done can be undone, as far as its kind goes."""
    return bool(done.subject_id) and done.subject_kind in _UNDO and not done.undoes


_AFTER: dict[str, Callable[[AppContext, str], None]] = {"own change": own_guide.follow_undo}
_UNDO: dict[str, Callable[[AppContext, str, datetime], str]] = {
    "change": undo_change,
    "new trip": undo_made("trip"),
    "new board": undo_made("board"),
    "new place": undo_made("place"),
    "new card": undo_made("rule_card"),
    # deck
    "fish": deck.undo_fish,
    "reading": deck.undo_reading,
    "look": deck.undo_look,
    "ice": deck.undo_ice,
    # table
    "fact": table.undo_fact,
    "weighing": table.undo_weighing,
    "sight": table.undo_sight,
    "fate": table.undo_fate,
    "wish": table.undo_wish,
    # pack
    "bag": pack.undo_bag,
    "cost": pack.undo_cost,
    "receipt link": pack.undo_link,
    "bag plan": pack.undo_bag_plan,
    "bag rule": pack.undo_of_packing("bag rule", "Servings and bags are as they were"),
    "piece mark": pack.undo_of_packing("piece mark", "It is cut as it was to be before"),
    "sharing": pack.undo_of_packing("sharing", "Bags are shared as they were before"),
    "party wish": pack.undo_of_packing("party wish", "That wish is undone"),
    "supply": pack.undo_of_packing("supply", "The box is as it was counted before"),
    "label count": pack.undo_of_packing("label count", "The roll is as it was counted before"),
    # freezer
    "place said": freezer.undo_place_said,
    "move": moves.undo_move,
    "moves": moves.undo_move,
    "stocktake": stocktake.undo_count,
    "meal": meals.undo_meal,
    "temperature log": temperature.undo_log,
    # yield book
    "trial": trials.undo_trial,
    "sharpening": drift.undo_sharpening,
    "scraping": millimetres.undo_scraping,
    # guide
    "own change": own_guide.undo_own,
}
