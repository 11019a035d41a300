"""Fish that were landed together: which they are, and those of them that still wait."""

from collections.abc import Iterator

from lepidos.store.deck import fishes
from lepidos.store.records import Fact, Fish, FishNow
from lepidos.store.schedule import work


def landed_with(fish: Fish) -> list[tuple[Fish, FishNow]]:
    """A fish and those landed together with it that stand. Called inside an open transaction."""
    lot = lot_of(fish.id)
    among = set(fishes.of_lot(lot)) if lot else {fish.id}
    return [(one, now) for one, now in fishes.of_trip(fish.trip_id) if one.id in among]


def waiting_alike(fish: Fish) -> Iterator[tuple[Fish, FishNow]]:
    """A fish and those landed together with it that wait, of its party, nothing of them weighed.

    Called inside an open transaction.
    """
    for one, now in landed_with(fish):
        waits = now.stage in {"slab", "table"} and now.weighed_kg == 0
        if waits and (one.species, one.party_id) == (fish.species, fish.party_id):
            yield one, now


def noted_alike(fact: Fact) -> list[Fact]:
    """What was noted in one touch of a fish and of those landed together with it."""
    lot = lot_of(fact.fish_id)
    return [
        other
        for fish_id in (fishes.of_lot(lot) if lot else [fact.fish_id])
        for other in fishes.facts_of(fish_id, fact.kind)
        if (other.name, other.at) == (fact.name, fact.at)
    ]


def lot_of(fish_id: str) -> str:
    """The key of those landed together with it, "" of one that was landed alone."""
    return next((str(fact.name) for fact in fishes.facts_of(fish_id, work.LOT)), "")
