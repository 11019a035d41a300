"""Receipts: what one party's fish were, what they gave, what is in its bags, and what it pays."""

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import BadInput, Refused, Unknown
from lepidos.core.pack.costs import each, read_amount, share_out, show_amount
from lepidos.core.pack.labels import one_line
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.fish import RoundWeight, facts_by_fish, landed, round_weight
from lepidos.stations.base.money import currency, digits_of
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store.base import settings
from lepidos.store.base.earlier import Act
from lepidos.store.pack import bags, receipts
from lepidos.store.records import Bag, Cost, Fish, FishNow, ReceiptLink
from lepidos.store.schedule import work
from lepidos.store.trips import trips

SHARED_BY = {
    "weight": "by the weight of their bags",
    "fish": "by their number of fish",
    "time": "by the time at the board",
    "equal": "in equal parts",
}
MAX_NAME_LENGTH = 60


@dataclass(frozen=True)
class AddCost:
    """An order: this trip cost so much, shared by a way of `SHARED_BY`."""

    trip_id: str
    name: str
    amount: str
    shared_by: str


def add_cost(ctx: AppContext, key: str, order: AddCost) -> Receipt:
    """Note it. Raises Refused with the field, Unknown."""

    def do(at: datetime) -> Receipt:
        trip = trips.get(order.trip_id)
        problems: dict[str, str] = {}
        name, coins, code = one_line(order.name, 10_000), 0, currency()
        if not 1 <= len(name) <= MAX_NAME_LENGTH:
            problems["cost"] = f"Name the cost in fewer than {MAX_NAME_LENGTH} letters"
        if order.shared_by not in SHARED_BY:
            problems["shared_by"] = "Choose how it is shared"
        try:
            coins = read_amount(order.amount, digits_of(code))
        except BadInput as error:
            problems["amount"] = str(error)
        if problems:
            raise Refused(problems)
        row = receipts.add_cost(ctx.ids, at, trip.id, name, coins, order.shared_by)
        return Receipt("cost", row.id, f"{name}: {money(coins, code)}")

    return run_idempotent(ctx, key, "pack.cost", order, do)


@dataclass(frozen=True)
class ChooseCurrency:
    """An order: money is in this currency, three letters (ISO 4217)."""

    code: str


def choose_currency(ctx: AppContext, key: str, order: ChooseCurrency) -> Receipt:
    """Keep it. Raises Refused."""

    def do(at: datetime) -> Receipt:
        code = order.code.strip().upper()
        if not (len(code) == 3 and code.isascii() and code.isalpha()):
            raise Refused({"currency": "Three letters, such as EUR, GBP or USD"})
        act = Act(ctx.ids, at)
        settings.put(ctx.ids, at, settings.CURRENCY, code, act)
        return Receipt("change", act.id, f"Money is in {code}")

    return run_idempotent(ctx, key, "settings.currency", order, do)


def money(coins: int, code: str) -> str:
    """An amount in words."""
    return show_amount(coins, code, digits_of(code))


@dataclass(frozen=True)
class MakeLink:
    """An order: a private address for a party's receipt."""

    trip_id: str
    party_id: str


def make_link(ctx: AppContext, key: str, order: MakeLink) -> Receipt:
    """Make one. It is withdrawn by undoing it. Raises Refused, Unknown."""

    def do(at: datetime) -> Receipt:
        party = trips.party(order.party_id)
        if party.trip_id != order.trip_id:
            raise Refused({"party": "That party is not on this trip"})
        # 128 bits from the system: no seeded chance, which could be foretold
        token = secrets.token_urlsafe(16)
        row = receipts.add_link(ctx.ids, at, order.trip_id, party.id, token)
        return Receipt("receipt link", row.id, f"A private address for {party.name}")

    return run_idempotent(ctx, key, "pack.link", order, do)


@dataclass(frozen=True)
class FishLine:
    """One fish of a party: its weight, and its fillets' part of it (None while it is not cut)."""

    fish: Fish
    now: FishNow
    kind: str
    weight: RoundWeight
    fillet_part: float | None


@dataclass(frozen=True)
class CostLine:
    """A cost, and what of it this party pays, in the smallest coin."""

    cost: Cost
    coins: int


@dataclass(frozen=True)
class PartyReceipt:
    """All of one party's receipt. Money in the smallest coin; None where there is nothing yet."""

    view: TripView
    party_id: str
    name: str
    fish: tuple[FishLine, ...]
    bags: tuple[Bag, ...]
    costs: tuple[CostLine, ...]
    currency: str
    links: tuple[ReceiptLink, ...]

    @property
    def kg(self) -> float:
        """In its bags."""
        return sum(bag.kg for bag in self.bags)

    @property
    def servings(self) -> float:
        """In its bags."""
        return sum(bag.servings for bag in self.bags)

    @property
    def coins(self) -> int:
        """All that it pays."""
        return sum(line.coins for line in self.costs)

    @property
    def per_serving(self) -> int | None:
        """What a serving costs it."""
        return each(self.coins, self.servings) if self.costs else None

    @property
    def per_kg(self) -> int | None:
        """What a kilogram in its bags costs it."""
        return each(self.coins, self.kg) if self.costs else None


def costs_of(ctx: AppContext, trip_id: str) -> tuple[list[Cost], str]:
    """A trip's costs, and the currency they are in."""
    with ctx.store.reading():
        return receipts.costs_of(trip_id), currency()


def view_receipt(ctx: AppContext, trip_id: str, party_id: str) -> PartyReceipt:
    """One party's receipt; `party_id` "" for a trip without parties. Raises Unknown."""
    with ctx.store.reading():
        return _receipt(ctx, trip_id, party_id)


def receipt_of_party(ctx: AppContext, party_id: str) -> PartyReceipt:
    """The receipt of a party, on whatever trip. Raises Unknown."""
    with ctx.store.reading():
        return _receipt(ctx, trips.party(party_id).trip_id, party_id)


def receipt_by_token(ctx: AppContext, token: str) -> PartyReceipt:
    """The receipt behind a private address. Raises Unknown."""
    with ctx.store.reading():
        link = receipts.link_by_token(token)
        return _receipt(ctx, link.trip_id, link.party_id)


def _receipt(ctx: AppContext, trip_id: str, party_id: str) -> PartyReceipt:
    view = view_in_transaction(ctx, trip_id)
    names = {p.id: p.name for p in view.parties} or {"": view.trip.name}
    if party_id not in names:
        raise Unknown("party", party_id)
    rows = landed(ctx, trip_id)
    sealed = [bag for bag, _ in bags.of_trip(trip_id, ("sealed", "in", "out"))]
    costs = receipts.costs_of(trip_id)
    place = list(names).index(party_id)
    shares = _weights(ctx, trip_id, list(names), rows, sealed) if costs else {}
    return PartyReceipt(
        view,
        party_id,
        names[party_id],
        tuple(_line(ctx, fish, now) for fish, now in rows if _is(fish.party_id, party_id, names)),
        tuple(bag for bag in sealed if _is(bag.party_id, party_id, names)),
        tuple(CostLine(c, share_out(c.coins, shares[c.shared_by])[place]) for c in costs),
        currency(),
        tuple(link for link in receipts.links_of(trip_id) if link.party_id == party_id),
    )


def _is(owner: str | None, party_id: str, names: dict[str, str]) -> bool:
    return (owner or "") == party_id if party_id or len(names) > 1 else True


def _line(ctx: AppContext, fish: Fish, now: FishNow) -> FishLine:
    species = ctx.guide.one(fish.species)
    weight = round_weight(now, species)
    part = now.fillet_kg / weight.kg if now.stage == "done" and now.fillet_kg else None
    return FishLine(fish, now, species.name, weight, part)


def _weights(
    ctx: AppContext,
    trip_id: str,
    parties: list[str],
    rows: Sequence[tuple[Fish, FishNow]],
    sealed: Sequence[Bag],
) -> dict[str, list[float]]:
    """By way of sharing: each party's weight in it."""
    facts = facts_by_fish(ctx, trip_id)
    by_kg, by_fish, by_time = (dict.fromkeys(parties, 0.0) for _ in range(3))
    only = parties[0] if parties == [""] else None
    for bag in sealed:
        owner = only if only is not None else bag.party_id or ""
        if owner in by_kg:
            by_kg[owner] += bag.kg
    for fish, _ in rows:
        owner = only if only is not None else fish.party_id or ""
        if owner not in by_fish:
            continue
        by_fish[owner] += 1
        of_fish = list(facts.get(fish.id, ()))
        board, end = work.last_board(of_fish), work.closed_at(of_fish)
        if board and end:
            by_time[owner] += work.worked(of_fish, board.at, end)
    return {
        "weight": list(by_kg.values()),
        "fish": list(by_fish.values()),
        "time": list(by_time.values()),
        "equal": [1.0] * len(parties),
    }
