"""Undo, at every station: an earlier row is undone by a new one, where nothing rests on it."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Conflict, Refused
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.undo_change import Undo, undo_change, undo_made, undo_of
from lepidos.stations.deck import undo as deck
from lepidos.stations.freezer import meals, moves, stocktake, temperature
from lepidos.stations.freezer import undo as freezer
from lepidos.stations.guide import own_guide
from lepidos.stations.pack import undo as pack
from lepidos.stations.table import undo as table
from lepidos.stations.yieldbook import drift, millimetres, trials
from lepidos.store.base import entries
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
    """Whether there is an undo for this kind of act."""
    return bool(done.subject_id) and done.subject_kind in _UNDO and not done.undoes


_AFTER: dict[str, Callable[[AppContext, str], None]] = {"own change": own_guide.follow_undo}
_UNDO: dict[str, Undo] = {
    "change": undo_change,
    "new trip": undo_made("trip"),
    "new board": undo_made("board"),
    "new place": undo_made("place"),
    "new card": undo_made("rule_card"),
    # deck
    "fish": deck.undo_fish,
    "lot": deck.undo_lot,
    "reading": undo_of("reading", deck.reading_undone),
    "look": deck.undo_look,
    "ice": undo_of("ice", deck.ice_undone),
    # table
    "fact": table.undo_fact,
    "alike": table.undo_alike,
    "weighing": table.undo_weighing,
    "sight": undo_of("sight", table.sight_undone),
    "fate": undo_of("fate", table.fate_undone),
    "wish": undo_of("wish", table.wish_undone),
    # pack
    "bag": pack.undo_bag,
    "cost": undo_of("cost", pack.cost_undone),
    "receipt link": undo_of("receipt link", pack.link_undone),
    "bag plan": pack.undo_bag_plan,
    "bag rule": pack.undo_of_packing("bag rule", "Servings and bags are as they were"),
    "piece mark": pack.undo_of_packing("piece mark", "It is cut as it was to be before"),
    "sharing": pack.undo_of_packing("sharing", "Bags are shared as they were before"),
    "party wish": pack.undo_of_packing("party wish", "That wish is undone"),
    "supply": pack.undo_of_packing("supply", "The box is as it was counted before"),
    "label count": pack.undo_of_packing("label count", "The roll is as it was counted before"),
    # freezer
    "place said": undo_of("place said", freezer.place_said_undone),
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
