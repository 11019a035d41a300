"""Which scale stands at which board."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Refused
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.store.base import settings
from lepidos.store.base.earlier import Act
from lepidos.store.schedule import boards


@dataclass(frozen=True)
class GiveScale:
    """An order: this scale stands at a board, today and on later trips of its cutter."""

    board_id: str
    scale: str


def give_scale(ctx: AppContext, key: str, order: GiveScale) -> Receipt:
    """Give a board its scale. Raises Refused for one that is not attached, Unknown."""

    def do(at: datetime) -> Receipt:
        board = boards.get(order.board_id)
        if order.scale not in ctx.scales.named:
            raise Refused({"scale": "No scale of that name is attached"})
        act = Act(ctx.ids, at)
        settings.put(ctx.ids, at, _name(board.name), order.scale, act)
        return Receipt("change", act.id, f"{board.name}: weighs on {order.scale}")

    return run_idempotent(ctx, key, "bench.scale", order, do)


def scale_of(ctx: AppContext, board_id: str) -> str:
    """The name of a board's scale, "" where there is only one. Called inside an open transaction.

    What nobody chose goes by name: a scale called as the cutter is that cutter's. Else the first.
    """
    if len(ctx.scales.named) < 2:
        return ""
    first = next(iter(ctx.scales.named))
    if not board_id:
        return first
    cutter = boards.get(board_id).name
    chosen = settings.value(_name(cutter))
    if chosen in ctx.scales.named:
        return str(chosen)
    called = {name.casefold(): name for name in ctx.scales.named}
    return called.get(cutter.casefold(), first)


def scales_of(ctx: AppContext, board_ids: Sequence[str]) -> dict[str, str]:
    """By board: the name of its scale."""
    with ctx.store.reading():
        return {board: scale_of(ctx, board) for board in board_ids}


def _name(cutter: str) -> str:
    return settings.SCALE_AT + cutter.casefold()
