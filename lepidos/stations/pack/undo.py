"""What was done at Pack, undone: bags, what was said of them, costs, receipts."""

from collections.abc import Callable
from datetime import datetime

from lepidos.core.errors import Conflict
from lepidos.core.pack.labels import show_code
from lepidos.stations.base.context import AppContext
from lepidos.store import bags, entries, packing, receipts


def undo_bag(ctx: AppContext, bag_id: str, at: datetime) -> str:
    bag, now = bags.get(bag_id), bags.now(bag_id)
    if now.state != "sealed":
        raise Conflict(f"Bag {show_code(bag.code)} has been moved; undo that first")
    entries.undo(ctx.ids, "bag", bag_id, at)
    bags.refresh(bag_id)
    return f"Bag {show_code(bag.code)} undone; its label is void"


def undo_cost(ctx: AppContext, row_id: str, at: datetime) -> str:
    row = receipts.get_cost(row_id)
    entries.undo(ctx.ids, "cost", row_id, at)
    return f"{row.name} is off the receipts"


def undo_link(ctx: AppContext, row_id: str, at: datetime) -> str:
    receipts.get_link(row_id)
    entries.undo(ctx.ids, "receipt link", row_id, at)
    return "That address shows nothing any more"


def undo_bag_plan(ctx: AppContext, row_id: str, at: datetime) -> str:
    for said in packing.said_together(row_id):
        entries.undo(ctx.ids, "bag plan", said.id, at)
    return "The bags are as they were before"


def undo_of_packing(kind: str, sentence: str) -> Callable[[AppContext, str, datetime], str]:
    """What was said before holds again: the last row that stands is the one that holds."""

    def undo(ctx: AppContext, row_id: str, at: datetime) -> str:
        packing.require(kind, row_id)
        entries.undo(ctx.ids, kind, row_id, at)
        return sentence

    return undo
