"""Settling what cannot all be true since two logs were merged."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Annotated

from annotated_types import Ge, Le

from lepidos.core.errors import Conflict
from lepidos.core.units import System
from lepidos.stations.base import contradictions as found_here
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.contradictions import Contradiction
from lepidos.stations.base.digest import BESIDE
from lepidos.store.base import entries
from lepidos.store.base.earlier import Act
from lepidos.store.bundle import contradictions
from lepidos.store.deck import fish_now
from lepidos.store.pack import bags


@dataclass(frozen=True)
class Settle:
    """An order: settle the contradiction of that key by one of its ways, by its number."""

    key: str
    way: Annotated[int, Ge(0), Le(100)]
    system: System = field(default="metric", metadata=BESIDE)


def view_contradictions(ctx: AppContext, system: System) -> tuple[Contradiction, ...]:
    """All that there are."""
    with ctx.store.reading():
        return found_here.found(ctx, system)


def settle(ctx: AppContext, key: str, order: Settle) -> Receipt:
    """Settle one. Raises Conflict when it is not there any more, or has no such way."""

    def do(at: datetime) -> Receipt:
        known = {one.key: one for one in found_here.found(ctx, order.system)}
        one = known.get(order.key)
        if one is None or not 0 <= order.way < len(one.ways):
            raise Conflict("That was settled already; look at what is left")
        way, act = one.ways[order.way], Act(ctx.ids, at)
        for kind, row_id in way.undo:
            act.made("undo", [entries.undo(ctx.ids, kind, row_id, at).id])
        for row_id in way.restore:
            contradictions.restore(act, row_id)
        fish, in_bags = contradictions.touched((*(i for _, i in way.undo), *way.restore))
        fish_now.refresh_many(sorted(fish), ctx.is_fillet)
        bags.refresh_many(sorted(in_bags))
        return Receipt("change", act.id, f"{one.text} {way.label}")

    return run_idempotent(ctx, key, "bundle.settle", order, do)
