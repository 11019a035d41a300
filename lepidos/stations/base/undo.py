"""Undo, at every station: an earlier row is undone by a new one, where nothing rests on it."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Conflict, Refused
from lepidos.core.pack.labels import count, show_code
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.fish import fact_words
from lepidos.stations.base.undo_change import undo_change, undo_made
from lepidos.store import (
    bags,
    entries,
    fish_now,
    fishes,
    looks,
    packing,
    portions,
    receipts,
    sessions,
    trips,
    wishes,
    work,
)
from lepidos.store import places as place_store
from lepidos.store.records import Entry, Fact, Fish


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


def teach(
    kind: str,
    how: Callable[[AppContext, str, datetime], str],
    after: Callable[[AppContext, str], None] | None = None,
) -> None:
    """A station whose rows rest on more than this module knows says how its own are undone.

    `after`: called with the same id when that is written, and again when it is asked for twice.
    """
    _UNDO[kind] = how
    if after:
        _AFTER[kind] = after


def done_by(ctx: AppContext, order: UndoRow) -> Entry | None:
    """What was done when a row was made; None of one of several rows of one touch."""
    with ctx.store.reading():
        return entries.latest_for(order.id)


def can_undo(done: Receipt) -> bool:
    """Whether what was done can be undone, as far as its kind goes."""
    return bool(done.subject_id) and done.subject_kind in _UNDO and not done.undoes


def _undo_fish(ctx: AppContext, fish_id: str, at: datetime) -> str:
    fish = fishes.get(fish_id)
    if fishes.weighings_of(fish_id):
        raise Conflict(f"{fish.code} has pieces weighed; undo those first")
    entries.undo(ctx.ids, "fish", fish_id, at)
    fish_now.refresh(fish_id, ctx.is_fillet)
    return f"{fish.code}: landing undone"


def _undo_fact(ctx: AppContext, fact_id: str, at: datetime) -> str:
    fact = fishes.fact(fact_id)
    fish = fishes.get(fact.fish_id)
    if fishes.now(fish.id).stage == "done" and fact.name != work.CLOSED:
        raise Conflict(f"{fish.code} is finished; open it again first")
    entries.undo(ctx.ids, "fact", fact_id, at)
    if made := _made_by(ctx, fish, fact):
        entries.undo(ctx.ids, "fact", made.id, at)
    fish_now.refresh(fish.id, ctx.is_fillet)
    if fact.kind == work.WORK and fact.name == work.CLOSED:
        _undo_by_eye(ctx, fact, at)
        _free_plan(ctx, fish.id, at)
        return f"{fish.code} is open again"
    return f"{fish.code}: {fact_words(ctx, fish, fact)} undone"


def _undo_by_eye(ctx: AppContext, closed: Fact, at: datetime) -> None:
    """What was said to be taken when a fish was finished goes with that, unless it is in a bag."""
    taken = [
        w
        for w in fishes.weighings_of(closed.fish_id)
        if w.method == work.BY_EYE and w.at == closed.at
    ]
    if any(portions.of_piece(w.id) for w in taken):
        return
    for row in taken:
        entries.undo(ctx.ids, "weighing", row.id, at)
    fish_now.refresh(closed.fish_id, ctx.is_fillet)


def _free_plan(ctx: AppContext, fish_id: str, at: datetime) -> None:
    """A fish without a fillet, and not finished, hears wishes again."""
    now, own = fishes.now(fish_id), wishes.settled(fish_id)
    if own and now.fillet_kg == 0 and now.stage != "done":
        entries.undo(ctx.ids, "wish", own.id, at)


def _made_by(ctx: AppContext, fish: Fish, fact: Fact) -> Fact | None:
    """What was noted of the fish because this step was ticked."""
    if fact.kind != work.STEP:
        return None
    makes = ctx.guide.step_makes(fish.species, fact.name)
    states = fishes.facts_of(fish.id, work.STATE)
    same = [f for f in states if f.name == makes and f.at == fact.at]
    return same[0] if makes and same else None


def _undo_reading(ctx: AppContext, row_id: str, at: datetime) -> str:
    row = looks.reading(row_id)
    entries.undo(ctx.ids, "reading", row_id, at)
    return f"{fishes.get(row.fish_id).code}: reading undone"


def _undo_look(ctx: AppContext, row_id: str, at: datetime) -> str:
    row = looks.look(row_id)
    for mark in looks.same_look(row):
        entries.undo(ctx.ids, "look", mark.id, at)
    return f"{fishes.get(row.fish_id).code}: look undone"


def _undo_ice(ctx: AppContext, row_id: str, at: datetime) -> str:
    trips.ice_note(row_id)
    entries.undo(ctx.ids, "ice", row_id, at)
    return "The note of ice is undone"


def _undo_weighing(ctx: AppContext, weighing_id: str, at: datetime) -> str:
    row = fishes.weighing(weighing_id)
    fish = fishes.get(row.fish_id)
    if packed := portions.of_piece(weighing_id):
        code = show_code(packed[0][1].code)
        raise Conflict(f"That piece is in bag {code}; take the bag back first")
    if fishes.now(fish.id).stage == "done":
        raise Conflict(f"{fish.code} is finished; open it again first")
    together = [w for w in sessions.of_joint(row.joint) if w.id != weighing_id]
    for other in together:
        if packed := portions.of_piece(other.id):
            code = show_code(packed[0][1].code)
            raise Conflict(f"A piece weighed with it is in bag {code}; take the bag back first")
        entries.undo(ctx.ids, "weighing", other.id, at)
    entries.undo(ctx.ids, "weighing", weighing_id, at)
    fish_now.refresh(fish.id, ctx.is_fillet)
    _free_plan(ctx, fish.id, at)
    if together:
        return f"{fish.code}: {count(len(together) + 1, 'piece')} weighed together undone"
    plan = ctx.guide.plan_of(ctx.guide.known_or_named(fish.species))
    name = plan.call(ctx.guide.piece(row.piece).name, row.side)
    return f"{fish.code} {name} undone"


def _undo_sight(ctx: AppContext, row_id: str, at: datetime) -> str:
    row = sessions.sight(row_id)
    entries.undo(ctx.ids, "sight", row_id, at)
    return f"{fishes.get(row.fish_id).code}: not seen after all"


def _undo_fate(ctx: AppContext, row_id: str, at: datetime) -> str:
    row = sessions.fate(row_id)
    entries.undo(ctx.ids, "fate", row_id, at)
    return f"{fishes.get(row.fish_id).code} {ctx.guide.piece(row.piece).name}: open again"


def _undo_bag(ctx: AppContext, bag_id: str, at: datetime) -> str:
    bag, now = bags.get(bag_id), bags.now(bag_id)
    if now.state != "sealed":
        raise Conflict(f"Bag {show_code(bag.code)} has been moved; undo that first")
    entries.undo(ctx.ids, "bag", bag_id, at)
    bags.refresh(bag_id)
    return f"Bag {show_code(bag.code)} undone; its label is void"


def _undo_wish(ctx: AppContext, row_id: str, at: datetime) -> str:
    row = wishes.get(row_id)
    if row.fish_id and wishes.settled(row.fish_id):
        raise Conflict("A fillet of it is weighed, or it is finished; undo that first")
    entries.undo(ctx.ids, "wish", row_id, at)
    return "It is cut as it was to be before"


def _undo_cost(ctx: AppContext, row_id: str, at: datetime) -> str:
    row = receipts.get_cost(row_id)
    entries.undo(ctx.ids, "cost", row_id, at)
    return f"{row.name} is off the receipts"


def _undo_link(ctx: AppContext, row_id: str, at: datetime) -> str:
    receipts.get_link(row_id)
    entries.undo(ctx.ids, "receipt link", row_id, at)
    return "That address shows nothing any more"


def _undo_bag_plan(ctx: AppContext, row_id: str, at: datetime) -> str:
    for said in packing.said_together(row_id):
        entries.undo(ctx.ids, "bag plan", said.id, at)
    return "The bags are as they were before"


def _undo_place_said(ctx: AppContext, row_id: str, at: datetime) -> str:
    name = place_store.place(place_store.place_said(row_id).place_id).name
    entries.undo(ctx.ids, "place said", row_id, at)
    return f"{name} is as it was said before"


def _undo_of_packing(kind: str, sentence: str) -> Callable[[AppContext, str, datetime], str]:
    """What was said before holds again: the last row that stands is the one that holds."""

    def undo(ctx: AppContext, row_id: str, at: datetime) -> str:
        packing.require(kind, row_id)
        entries.undo(ctx.ids, kind, row_id, at)
        return sentence

    return undo


_AFTER: dict[str, Callable[[AppContext, str], None]] = {}
_UNDO: dict[str, Callable[[AppContext, str, datetime], str]] = {
    "fish": _undo_fish,
    "fact": _undo_fact,
    "reading": _undo_reading,
    "look": _undo_look,
    "ice": _undo_ice,
    "weighing": _undo_weighing,
    "sight": _undo_sight,
    "fate": _undo_fate,
    "bag": _undo_bag,
    "wish": _undo_wish,
    "cost": _undo_cost,
    "receipt link": _undo_link,
    "bag plan": _undo_bag_plan,
    "place said": _undo_place_said,
    "bag rule": _undo_of_packing("bag rule", "Servings and bags are as they were"),
    "piece mark": _undo_of_packing("piece mark", "It is cut as it was to be before"),
    "sharing": _undo_of_packing("sharing", "Bags are shared as they were before"),
    "party wish": _undo_of_packing("party wish", "That wish is undone"),
    "supply": _undo_of_packing("supply", "The box is as it was counted before"),
    "change": undo_change,
    "new trip": undo_made("trip"),
    "new board": undo_made("board"),
    "new place": undo_made("place"),
    "new card": undo_made("rule_card"),
    "label count": _undo_of_packing("label count", "The roll is as it was counted before"),
}
