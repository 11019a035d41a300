"""The slab: every fish of a trip that waits for the knife, and those that are further on."""

from dataclasses import dataclass

from lepidos.core.catch.handling import MEDIUM_STATES
from lepidos.core.cold.ice_balance import IceAccount
from lepidos.core.fish.species import Species
from lepidos.stations.base.context import AppContext, state_of_file
from lepidos.stations.base.fish import (
    RoundWeight,
    facts_by_fish,
    landed,
    round_weight,
    total_length_m,
    was_bought,
)
from lepidos.stations.cold.cold import ColdNow, cold_of_trip
from lepidos.stations.cold.ice import ice_account
from lepidos.stations.deck.handling import Handled, handled
from lepidos.stations.schedule.order import BenchOrder, OrderPlace, bench_order
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store.deck import looks
from lepidos.store.records import Fish, FishNow
from lepidos.store.schedule import work

AT_LANDING = ("dispatched", "bled", "gills_out", "gutted", "headed", *MEDIUM_STATES[:3])
ONLY_ALIVE = frozenset({"dispatched", "bled"})  # nobody does these to a bought fish
BY = ("urgency", "species", "party")


@dataclass(frozen=True)
class SlabFish:
    """A fish as it lies on the slab; `landed_as` are the states it was landed with."""

    fish: Fish
    now: FishNow
    species: Species
    weight: RoundWeight
    total_length_m: float
    party: str
    caught_by: str
    states: frozenset[str]
    landed_as: frozenset[str]
    cold: ColdNow | None
    handled: Handled
    place: OrderPlace | None
    bought: bool


@dataclass(frozen=True)
class Slab:
    """The deck's page: the trip, the fish that wait, and those that are further on.

    `ice` is None on a trip where no ice was noted.
    """

    view: TripView
    waiting: tuple[SlabFish, ...]
    further: tuple[SlabFish, ...]
    order: BenchOrder
    ice: IceAccount | None

    @property
    def last(self) -> SlabFish | None:
        """The fish that was entered last: the next one is often of its kind."""
        return max((*self.waiting, *self.further), key=lambda f: str(f.fish.id), default=None)


def view_slab(ctx: AppContext, trip_id: str, by: str = "urgency") -> Slab:
    """Every fish of a trip that stands, in an order of `BY`. Raises Unknown."""
    with ctx.store.reading():
        # several devices look at the deck after every landing: it is put together once
        key = ("slab", trip_id, by, ctx.search.found, ctx.changes.count, *state_of_file(ctx))
        return ctx.memo.get(key, lambda: _slab(ctx, trip_id, by))


def _slab(ctx: AppContext, trip_id: str, by: str) -> Slab:
    view = view_in_transaction(ctx, trip_id)
    order = bench_order(ctx, view.trip)
    ice = ice_account(ctx, view.trip)
    make = SlabRows(ctx, view, order)
    rows = [make.row(fish, now) for fish, now in landed(ctx, trip_id)]
    rank = {place.fish_id: index for index, place in enumerate(order.places)}
    waiting = [f for f in rows if f.now.stage in {"slab", "table"}]
    waiting.sort(
        key=lambda f: (
            f.species.name if by == "species" else f.party if by == "party" else "",
            rank.get(str(f.fish.id), 0),
        )
    )
    further = tuple(f for f in rows if f.now.stage == "done")
    return Slab(view, tuple(waiting), further, order, ice)


class SlabRows:
    """Makes the rows of a trip's slab from what is read once. Inside an open transaction."""

    def __init__(self, ctx: AppContext, view: TripView, order: BenchOrder) -> None:
        self.ctx = ctx
        self.people = {p.id: p.name for p in view.people}
        self.parties = {p.id: p.name for p in view.parties}
        self.cold = cold_of_trip(ctx, view.trip)
        self.facts = facts_by_fish(ctx, view.trip.id)
        self.looks = looks.looks_of_trip(view.trip.id)
        self.places = {p.fish_id: p for p in order.places}

    def row(self, fish: Fish, now: FishNow) -> SlabFish:
        """One fish."""
        species = self.ctx.guide.one(fish.species)
        cold = self.cold.get(fish.id)
        return SlabFish(
            fish,
            now,
            species,
            round_weight(now, species),
            total_length_m(now, species),
            self.parties.get(fish.party_id or "", ""),
            self.people.get(fish.caught_by_id or "", ""),
            frozenset(now.facts.split()),
            frozenset(
                f.name for f in self.facts.get(fish.id, ())
                if f.kind == work.STATE and f.at == fish.landed_at and f.name in AT_LANDING
            ),
            cold,
            handled(
                self.ctx, fish, species, self.facts.get(fish.id, []),
                self.looks.get(fish.id, {}), cold,
            ),
            self.places.get(fish.id), was_bought(self.ctx, fish.trip_id),
        )  # fmt: skip
