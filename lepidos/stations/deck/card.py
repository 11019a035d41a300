"""Card: one fish on deck, all that is known of it before the knife."""

from dataclasses import dataclass

from lepidos.core.units import System
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import require_workable
from lepidos.stations.cold.cold import Cold, cold_of_fish
from lepidos.stations.deck import rule_cards
from lepidos.stations.deck.lots import waiting_alike
from lepidos.stations.deck.slab import SlabFish, SlabRows
from lepidos.stations.schedule.order import bench_order
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store.deck import fishes, looks
from lepidos.store.records import Fact, Measurement, Reading


@dataclass(frozen=True)
class CardView:
    """A fish's card. `cold` is None when it is finished or the sea's warmth was not noted.

    `facts`, `readings` and `measurements` are the rows that stand, oldest first; `alike` how many
    of those landed together with it wait, itself among them.
    """

    view: TripView
    row: SlabFish
    cold: Cold | None
    verdicts: tuple[rule_cards.RuleVerdict, ...]
    facts: tuple[Fact, ...]
    readings: tuple[Reading, ...]
    measurements: tuple[Measurement, ...]
    alike: int


def view_card(ctx: AppContext, fish_id: str, system: System) -> CardView:
    """One fish. Raises Unknown."""
    with ctx.store.reading():
        fish, now = fishes.get(fish_id), fishes.now(fish_id)
        require_workable(ctx, fish, now)
        view = view_in_transaction(ctx, fish.trip_id)
        order = bench_order(ctx, view.trip)
        return CardView(
            view,
            SlabRows(ctx, view, order).row(fish, now),
            cold_of_fish(ctx, view.trip, fish, now),
            rule_cards.verdicts(ctx, fish, now, system),
            tuple(fishes.facts_of(fish_id)),
            tuple(looks.readings_of_trip(fish.trip_id).get(fish_id, ())),
            tuple(fishes.measurements_of(fish_id)),
            sum(1 for _ in waiting_alike(fish)),
        )
