"""How to cut: what is said of a fish, by a party, or by the crew from now on."""

import json
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Literal

from lepidos.core.cutting.wishes import Wish
from lepidos.core.errors import Refused
from lepidos.core.fish.species import Species
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import FLAT
from lepidos.stations.base.fish import plan_of, require_workable, round_weight
from lepidos.stations.base.wishes import choice_of, sayings, wish_of
from lepidos.stations.table.said import (
    Said,
    first_field,
    only_new,
    pairs_of,
    said_onto,
    wish_words,
    words,
)
from lepidos.store.deck import fishes
from lepidos.store.records import Fish, FishNow, WishRow
from lepidos.store.table import wishes
from lepidos.store.trips import trips

SIZES = {"": "every", "small": "a small", "usual": "a usual", "large": "a large"}


@dataclass(frozen=True)
class WishForFish:
    """How a fish is cut. What is left out stays as it was said before; "" takes it back."""

    fish_id: str
    said: Said = field(metadata=FLAT)


def wish_for_fish(ctx: AppContext, key: str, order: WishForFish) -> Receipt:
    """Possible until its first fillet is weighed. Raises Refused, CannotWorkOut, Unknown."""

    def do(at: datetime) -> Receipt:
        fish, now = open_fish(ctx, order.fish_id)
        if now.fillet_kg > 0:
            why = f"{fish.code}'s fillets are weighed already; undo them first"
            raise Refused({first_field(order.said): why})
        species = ctx.guide.one(fish.species)
        _check(ctx, order.said, species)
        before = sayings(ctx, fish.trip_id).fish.get(fish.id)
        earlier = wish_of(before) if before else Wish(skin="off" if fish.skin == "off" else "")
        where = {"trip": fish.trip_id, "fish": fish.id, "species": fish.species}
        return _say(ctx, at, str(fish.code), earlier, order.said, **where)

    return run_idempotent(ctx, key, "wishes.fish", order, do)


@dataclass(frozen=True)
class WishOfParty:
    """How a party's fish are cut, all or those of a species."""

    party_id: str
    said: Said = field(metadata=FLAT)
    species: str = ""


def wish_of_party(ctx: AppContext, key: str, order: WishOfParty) -> Receipt:
    """It goes before the crew's word. Raises Refused, Unknown."""

    def do(at: datetime) -> Receipt:
        party = trips.party(order.party_id)
        species = ctx.guide.one(order.species) if order.species else None
        _check(ctx, order.said, species)
        before = sayings(ctx, party.trip_id).parties.get((party.id, order.species))
        earlier = wish_of(before) if before else Wish()
        who = f"{party.name}, {species.name}" if species else party.name
        where = {"trip": party.trip_id, "party": party.id, "species": order.species}
        return _say(ctx, at, who, earlier, order.said, **where)

    return run_idempotent(ctx, key, "wishes.party", order, do)


def wishes_of_parties(ctx: AppContext, trip_id: str) -> dict[str, dict[str, Wish]]:
    """By party: what it asks for, by species, of all its fish under ""."""
    with ctx.store.reading():
        rows = sayings(ctx, trip_id).parties
    found: dict[str, dict[str, Wish]] = {}
    for (party, species), row in rows.items():
        found.setdefault(party, {})[species] = wish_of(row)
    return found


@dataclass(frozen=True)
class CrewSaying:
    """What the crew said of a kind of fish and a size ("" for every size), and in words."""

    size: str
    wish: Wish
    words: str


def crew_sayings(ctx: AppContext, species: str) -> tuple[CrewSaying, ...]:
    """What stands of the crew's word on a species."""
    with ctx.store.reading():
        last = {row.size: wish_of(row) for row in wishes.of_crew() if row.species == species}
    return tuple(
        CrewSaying(size, wish, wish_words(ctx, wish))
        for size, wish in last.items()
        if wish != Wish()
    )


@dataclass(frozen=True)
class WishOfCrew:
    """How fish are cut from now on: all, those of a species, or those of a size of it."""

    species: str
    said: Said = field(metadata=FLAT)
    size: Literal["", "small", "usual", "large"] = ""


def wish_of_crew(ctx: AppContext, key: str, order: WishOfCrew) -> Receipt:
    """What everyone's fish of a kind and size are cut like. Raises Refused, Unknown."""

    def do(at: datetime) -> Receipt:
        species = ctx.guide.one(order.species) if order.species else None
        if order.size not in SIZES or (order.size and not species):
            raise Refused({"size": "Say small, usual or large of a kind of fish, or leave it"})
        _check(ctx, order.said, species)
        same = [r for r in wishes.of_crew() if (r.species, r.size) == (order.species, order.size)]
        earlier = wish_of(same[-1]) if same else Wish()
        who = f"From now on {SIZES[order.size]} {species.name if species else 'fish'}"
        where = {"species": order.species, "size": order.size}
        return _say(ctx, at, who, earlier, order.said, **where)

    return run_idempotent(ctx, key, "wishes.crew", order, do)


def settle(ctx: AppContext, at: datetime, fish: Fish, now: FishNow) -> None:
    """With its first fillet, or when it is finished without one, a fish's plan is its own.

    What the crew or a party says later must not change what was done. Called in the transaction
    that weighs or finishes, before it writes anything that a plan rests on.
    """
    own = sayings(ctx, fish.trip_id).fish.get(fish.id)
    if now.fillet_kg > 0 or (own and own.settled):
        return
    species = ctx.guide.one(fish.species)
    plan = plan_of(ctx, fish, now, species)
    choice = choice_of(ctx, fish, lambda: round_weight(now, species).kg, species)
    as_cut = replace(choice, purpose=plan.purpose, skin=plan.skin)
    _write(ctx, at, as_cut, trip=fish.trip_id, fish=fish.id, species=fish.species, settled=True)


def open_fish(ctx: AppContext, fish_id: str) -> tuple[Fish, FishNow]:
    """A fish that can be worked on. Raises Refused, CannotWorkOut, Unknown."""
    fish, now = fishes.get(fish_id), fishes.now(fish_id)
    require_workable(ctx, fish, now)
    if now.stage == "withdrawn":
        raise Refused({"": f"The landing of {fish.code} was undone"})
    if now.stage == "done":
        raise Refused({"": f"{fish.code} is finished; open it again first"})
    return fish, now


def _say(
    ctx: AppContext, at: datetime, who: str, earlier: Wish, said: Said, **where: object
) -> Receipt:
    """Write what is said onto what was said there, and tell what is new."""
    row = _write(ctx, at, said_onto(earlier, said), **where)
    return Receipt("wish", row.id, f"{who}: {words(ctx, only_new(earlier, said))}")


def _write(ctx: AppContext, at: datetime, wish: Wish, **where: object) -> WishRow:
    return wishes.say(
        ctx.ids,
        at,
        purpose=wish.purpose,
        skin=wish.skin,
        methods=json.dumps(dict(wish.methods)),
        tools=" ".join(sorted(wish.tools)),
        pieces=json.dumps(dict(wish.pieces)),
        keeps=" ".join(wish.keeps),
        **where,
    )


def _check(ctx: AppContext, said: Said, species: Species | None) -> None:
    """Raises Refused with each field that does not hold."""
    methods, problems = ctx.guide.methods, {}
    purposes, by_key = set(methods.purposes), methods.by_key()
    if said.purpose and said.purpose not in purposes:
        problems["purpose"] = f"Choose one of {', '.join(methods.purposes)}"
    if said.skin not in {None, "", "on", "off"}:
        problems["skin"] = "Say skin on or off"
    for key, way in pairs_of(said.ways).items():
        if key not in by_key or (way and way not in by_key[key].options):
            problems["ways"] = "The guide has no such way; choose one that is shown"
    never = ctx.guide.never_used(species) if species else frozenset()
    for slot, purpose in pairs_of(said.pieces).items():
        piece = slot.partition(".")[0]
        if piece not in ctx.guide.pieces or (purpose and purpose not in purposes):
            problems["pieces"] = "There is no such piece or purpose"
        elif purpose and methods.purposes[purpose].whole:
            problems["pieces"] = "A piece is not cooked whole"
        elif piece in never:
            problems["pieces"] = _poisonous(ctx, piece)
    for piece in said.keeps or ():
        if piece not in ctx.guide.pieces:
            problems["keeps"] = "There is no such piece"
        elif piece in never:
            problems["keeps"] = _poisonous(ctx, piece)
    if set(said.tools or ()) - set(ctx.guide.tools):
        problems["tools"] = "There is no such tool"
    if problems:
        raise Refused(problems)
    if all(value in (None, ()) for value in vars(said).values()):
        raise Refused({"purpose": "Say what is to be different"})


def _poisonous(ctx: AppContext, piece: str) -> str:
    return f"The {ctx.guide.piece(piece).name} of this fish is poisonous: into the bin with it"
