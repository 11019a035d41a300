"""What was said of how to cut a fish, put together: the crew's word, its party's, its own."""

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from typing import cast

from lepidos.core.catch.size_class import size_of
from lepidos.core.cutting.wishes import Choice, SkinAsked, Wish, chosen, fitting
from lepidos.core.fish.species import Species
from lepidos.stations.base.context import AppContext
from lepidos.store.base import entries
from lepidos.store.records import Fish, WishRow
from lepidos.store.table import wishes
from lepidos.store.trips import trips

CREW, OWN = "the crew", "this fish"
# a fish is cut so when nobody said otherwise
USUAL_PURPOSE = "freezer"
NOTHING_SAID = Choice()


@dataclass(frozen=True)
class Sayings:
    """What stands on a trip: the crew's by species and size, parties' by species, fishes'."""

    crew: Mapping[tuple[str, str], WishRow] = field(default_factory=dict)
    parties: Mapping[tuple[str, str], WishRow] = field(default_factory=dict)
    fish: Mapping[str, WishRow] = field(default_factory=dict)
    names: Mapping[str, str] = field(default_factory=dict)

    @cached_property
    def of_many(self) -> tuple[str, ...]:
        """The rows that are not of one fish."""
        return tuple(row.id for row in (*self.crew.values(), *self.parties.values()))


def meant_for(ctx: AppContext, purpose: str) -> str:
    """What a piece or a bag is for, in words, where that is more than the freezer; else ""."""
    known = ctx.guide.methods.purposes.get(purpose)
    return known.text if known and purpose != USUAL_PURPOSE else ""


def sayings(ctx: AppContext, trip_id: str) -> Sayings:
    """Read once for each state of the file. In an open transaction that wrote nothing yet."""
    key = ("wishes", trip_id, entries.last_key())
    return ctx.memo.get(key, lambda: _sayings(trip_id))


def _sayings(trip_id: str) -> Sayings:
    crew: dict[tuple[str, str], WishRow] = {}
    parties: dict[tuple[str, str], WishRow] = {}
    fish: dict[str, WishRow] = {}
    for row in wishes.of_trip(trip_id):
        if row.fish_id:
            fish[row.fish_id] = row
        elif row.party_id:
            parties[row.party_id, row.species] = row
        else:
            crew[row.species, row.size] = row
    return Sayings(crew, parties, fish, {p.id: p.name for p in trips.parties_of(trip_id)})


def said_to(ctx: AppContext, fish: Fish) -> tuple[tuple[str, ...], str]:
    """Stands for all that was said of how to cut this fish. As `sayings`."""
    found = sayings(ctx, fish.trip_id)
    own = found.fish.get(fish.id)
    return found.of_many, own.id if own else ""


@lru_cache(maxsize=4096)  # a row never changes, and every page asks for all of a trip's
def wish_of(row: WishRow) -> Wish:
    """A saying as the core takes it."""
    return Wish(
        row.purpose,
        cast(SkinAsked, row.skin),
        json.loads(row.methods),
        frozenset(row.tools.split()),
        json.loads(row.pieces),
        tuple(row.keeps.split()),
    )


def choice_of(ctx: AppContext, fish: Fish, kg: Callable[[], float], species: Species) -> Choice:
    """How this fish is to be cut, from the widest word to the narrowest. As `sayings`.

    Args: kg: gives its round weight, for the size class that the crew's word may be of.
    """
    found = sayings(ctx, fish.trip_id)
    methods, own = ctx.guide.methods, found.fish.get(fish.id)
    if own and own.settled:
        return chosen([(OWN, fitting(wish_of(own), methods, species.traits))])
    kind, party = species.key, fish.party_id or ""
    crew = [found.crew.get(key) for key in (("", ""), (kind, ""))] if found.crew else []
    if any(size and one == kind for one, size in found.crew):
        crew.append(found.crew.get((kind, size_of(kg(), species))))
    theirs = [found.parties.get((party, which)) for which in ("", kind)] if found.parties else []
    said = [(CREW, wish_of(row)) for row in crew if row]
    said += [(found.names.get(party, ""), wish_of(row)) for row in theirs if row]
    if own:
        said.append((OWN, wish_of(own)))
    elif fish.skin == "off":
        said.append((OWN, Wish(skin="off")))  # said when it was landed
    if not said:
        return NOTHING_SAID
    return chosen((who, fitting(wish, methods, species.traits)) for who, wish in said)
