"""Every bag that is in a place, due first: read once for each state of the file."""

from lepidos.stations.base.context import AppContext
from lepidos.store.base import entries
from lepidos.store.pack import bags
from lepidos.store.records import Bag, BagNow


def bags_in(ctx: AppContext) -> list[tuple[Bag, BagNow]]:
    """From an open file."""
    return ctx.memo.get(("bags in", entries.last_key()), bags.all_in, most=2)
