"""The queue at the table: every board with its row of fish, and why each stands where it stands."""

from collections.abc import Mapping
from dataclasses import dataclass

from lepidos.core.cutting.wishes import Wish
from lepidos.core.pack.labels import hours
from lepidos.core.schedule.deadline import UNBLED_S
from lepidos.core.units import System, format_percent, format_temperature
from lepidos.stations.base.context import AppContext
from lepidos.stations.deck.slab import SlabFish, view_slab
from lepidos.stations.schedule.order import BenchOrder
from lepidos.stations.table.wishes import wishes_of_parties
from lepidos.stations.trips.trips import TripView
from lepidos.store.records import Board


@dataclass(frozen=True)
class BenchView:
    """The bench page: every board with its row of fish, and those that are finished.

    A crew that named no board has one row, for None. `wishes`: by party and species, of all its
    fish under "".
    """

    view: TripView
    order: BenchOrder
    rows: tuple[tuple[Board | None, tuple[SlabFish, ...]], ...]
    finished: tuple[SlabFish, ...]
    wishes: Mapping[str, Mapping[str, Wish]]

    @property
    def held(self) -> int:
        """How many fish a person put in their places."""
        return sum(p.held and not p.in_hand for p in self.order.places)


def view_bench(ctx: AppContext, trip_id: str) -> BenchView:
    """The order of work of a trip. Raises Unknown."""
    slab = view_slab(ctx, trip_id)
    fish = {row.fish.id: row for row in slab.waiting}
    rows: list[tuple[Board | None, tuple[SlabFish, ...]]] = [
        (board, tuple(fish[p.fish_id] for p in slab.order.of_board(board.id)))
        for board in slab.order.boards
    ]
    if not rows:
        rows = [(None, tuple(fish[p.fish_id] for p in slab.order.places))]
    return BenchView(
        slab.view, slab.order, tuple(rows), slab.further, wishes_of_parties(ctx, trip_id)
    )


def reason(ctx: AppContext, row: SlabFish, system: System) -> str:
    """Why a fish stands where it stands, in one sentence."""
    place, cold = row.place, row.cold
    if place is None:
        return "It is finished."
    if place.in_hand:
        return "On the board now."
    if place.held:
        return "You put it here; it stays."
    core = f", {format_temperature(cold.core_c, system)} at the core now" if cold else ""
    spent = format_percent(ctx.guide.bench.late_share)
    return {
        "histamine": f"By then its hours in the warmth are used up{core}.",
        "spoils": f"By then {spent} of its life on ice is used{core}.",
        "unbled": f"{hours(UNBLED_S)} unbled by then: blood spreads into the meat.",
        "party": f"To be packed before {row.party} leave.",
        "rest": "Can wait on ice; comes where the board is free.",
    }[place.why.why]
