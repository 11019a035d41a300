"""Who takes which bag: how a trip's bags are shared out, and what comes of it."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Refused
from lepidos.core.pack.fair_split import ALL, Bag, Split, deviations, entitled, in_turn, split_of
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.fish import landed, round_weight
from lepidos.stations.trips.trips import TripView
from lepidos.store.pack import packing
from lepidos.store.records import ShareRule
from lepidos.store.trips import trips

OWN, EQUAL, SHARES, TROPHY, TURN = "own", "equal", "shares", "trophy", "turn"
WAYS = {
    OWN: "each takes the fish it caught",
    EQUAL: "all fish pooled, equal parts",
    SHARES: "all fish pooled, by shares",
    TROPHY: "each keeps its heaviest fish, the rest pooled",
    TURN: "all fish pooled, drawn in turn",
}
MAX_SHARE = 100


@dataclass(frozen=True)
class ShareOut:
    """An order: share this trip's bags so; `shares` is whole numbers by party, for SHARES."""

    trip_id: str
    how: str
    shares: tuple[tuple[str, int], ...] = ()


def share_out(ctx: AppContext, key: str, order: ShareOut) -> Receipt:
    """Say how bags are shared. Raises Refused with the field, Unknown."""

    def do(at: datetime) -> Receipt:
        trip = trips.get(order.trip_id)
        parties = {p.id: p.name for p in trips.parties_of(trip.id)}
        if order.how not in WAYS:
            raise Refused({"how": "Choose how the bags are shared"})
        if order.how != OWN and len(parties) < 2:
            raise Refused({"how": "There are no parties to share between"})
        shares = {party: share for party, share in order.shares if party in parties}
        if order.how == SHARES:
            for party, share in shares.items():
                if not 0 <= share <= MAX_SHARE:
                    raise Refused({f"share-{party}": f"A whole number from 0 to {MAX_SHARE}"})
            if not any(shares.values()):
                raise Refused({"how": "Somebody must have a share"})
        row = packing.set_sharing(ctx.ids, at, trip.id, order.how, json.dumps(shares))
        return Receipt("sharing", row.id, f"Bags: {WAYS[order.how]}")

    return run_idempotent(ctx, key, "pack.share", order, do)


def way_of(rule: ShareRule | None) -> str:
    """How a trip's bags are shared; each its own as long as nobody said."""
    return rule.how if rule and rule.how in WAYS else OWN


def shares_of(rule: ShareRule | None, view: TripView) -> dict[str, int]:
    """Each party's share by its id: equal, but where shares were given."""
    given = json.loads(rule.shares) if rule and rule.how == SHARES else {}
    return {p.id: int(given.get(p.id, 0 if given else 1)) for p in view.parties}


def pooled_fish(ctx: AppContext, view: TripView, rule: ShareRule | None) -> frozenset[str]:
    """Fish that are everybody's. In an open transaction."""
    how = way_of(rule)
    if how == OWN:
        return frozenset()
    rows = landed(ctx, view.trip.id)
    if how != TROPHY:
        return frozenset(fish.id for fish, _ in rows)
    heaviest: dict[str, tuple[float, str]] = {}
    for fish, now in rows:
        if fish.party_id:
            kg = round_weight(now, ctx.guide.one(fish.species)).kg
            heaviest[fish.party_id] = max(heaviest.get(fish.party_id, (0.0, "")), (kg, fish.id))
    return frozenset(fish.id for fish, _ in rows) - {fish for _, fish in heaviest.values()}


@dataclass(frozen=True)
class PartyShare:
    """What one party gets [kg]: its due, what it has, and by kind (has less due)."""

    party_id: str
    name: str
    due_kg: float
    has_kg: float
    by_kind: tuple[tuple[str, float, float], ...]

    @property
    def off(self) -> float:
        """What it has over its due, as a part of it; 0 when it is due nothing."""
        return (self.has_kg - self.due_kg) / self.due_kg if self.due_kg else 0.0


@dataclass(frozen=True)
class Shared:
    """A split of pooled bags by their keys; how long a better one has been looked for."""

    how: str
    party_of: Mapping[str, str]
    parties: tuple[PartyShare, ...] = ()
    split: Split | None = None
    looking_s: float | None = None


def split_bags(
    ctx: AppContext, view: TripView, rule: ShareRule | None, bags: Sequence[Bag]
) -> Shared:
    """Share out bags of the pool; `pinned` numbers parties in the trip's order."""
    how, shares = way_of(rule), shares_of(rule, view)
    # who has no share takes part only with what was pinned to it: the split leaves it out
    taking = [p.id for p in view.parties if shares[p.id] > 0]
    if how == OWN or not bags or not taking:
        return Shared(how, {})
    number = {view.parties.index(p): taking.index(p.id) for p in view.parties if p.id in taking}
    rows = []
    for b in bags:
        refusing = frozenset(number[n] for n in b.not_for if n in number)
        if len(refusing) == len(taking):
            continue  # nobody's: somebody decides by hand
        if b.pinned is None or b.pinned in number:
            pinned = None if b.pinned is None else number[b.pinned]
            rows.append(Bag(b.key, b.kind, b.grams, pinned, refusing))
    if not rows:
        return Shared(how, {})
    weights = tuple(shares[party] for party in taking)
    looking = None
    if how == TURN:
        split = split_of(rows, weights, in_turn(rows, len(taking)))
    else:
        split = ctx.splits.best(rows, weights)
        looking = ctx.splits.looking(rows, weights)
    names = {p.id: p.name for p in view.parties}
    should = entitled(rows, weights)
    off = deviations(rows, weights, split.party_of)
    kinds = [kind for kind in should if kind != ALL]
    table = tuple(
        PartyShare(
            party,
            names[party],
            float(should[ALL][n]) / 1000,
            (float(should[ALL][n]) + off[ALL][n]) / 1000,
            tuple((k, float(should[k][n]) / 1000, off[k][n] / 1000) for k in kinds),
        )
        for n, party in enumerate(taking)
    )
    party_of = {b.key: taking[n] for b, n in zip(rows, split.party_of, strict=True)}
    return Shared(how, party_of, table, split, looking)
