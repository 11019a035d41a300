"""What was done at Pack, undone: bags, what was said of them, costs, receipts."""

from datetime import datetime

from lepidos.core.errors import Conflict
from lepidos.core.pack.labels import show_code
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.undo_change import Undo, undo_of
from lepidos.store.base import entries
from lepidos.store.pack import bags, packing, receipts


def undo_bag(ctx: AppContext, bag_id: str, at: datetime) -> str:
    bag, now = bags.get(bag_id), bags.now(bag_id)
    if now.state != "sealed":
        raise Conflict(f"Bag {show_code(bag.code)} has been moved; undo that first")
    entries.undo(ctx.ids, "bag", bag_id, at)
    bags.refresh(bag_id)
    return f"Bag {show_code(bag.code)} undone; its label is void"


def undo_bag_plan(ctx: AppContext, row_id: str, at: datetime) -> str:
    for said in packing.said_together(row_id):
        entries.undo(ctx.ids, "bag plan", said.id, at)
    return "The bags are as they were before"


def cost_undone(_: AppContext, row_id: str) -> str:
    return f"{receipts.get_cost(row_id).name} is off the receipts"


def link_undone(_: AppContext, row_id: str) -> str:
    receipts.get_link(row_id)
    return "That address shows nothing any more"


def undo_of_packing(kind: str, sentence: str) -> Undo:
    """How to undo what was said of servings, marks or shares; `sentence` says what holds then."""

    def say(_: AppContext, row_id: str) -> str:
        packing.require(kind, row_id)
        return sentence

    return undo_of(kind, say)
