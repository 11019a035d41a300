"""What people say of the bag plan: servings and bags, what lies together, whose it is, the box."""

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Annotated

from annotated_types import Ge, Le

from lepidos.core.errors import Refused
from lepidos.core.pack.labels import count
from lepidos.core.units import System, format_length, format_mass
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import BESIDE
from lepidos.stations.pack.parts import PartRow
from lepidos.stations.pack.seal import parts_of, require_kin
from lepidos.stations.trips.trips import view_in_transaction
from lepidos.store.pack import packing
from lepidos.store.trips import trips

MAX_PER_BAG = 12
MIN_SERVING_KG, MAX_SERVING_KG = 0.02, 5.0
MIN_SIDE_M, MAX_SIDE_M = 0.05, 1.0
MAX_HELD = 10_000.0


@dataclass(frozen=True)
class SetRule:
    """An order: how a party's fish go into bags; everybody's without a party."""

    trip_id: str
    party_id: str
    serving_kg: float = 0.0
    per_bag: Annotated[int, Ge(1), Le(MAX_PER_BAG)] = 2
    tail_apart: bool = True
    system: System = field(default="metric", metadata=BESIDE)


def set_rule(ctx: AppContext, key: str, order: SetRule) -> Receipt:
    """Keep it. Raises Refused with the field, Unknown."""

    def do(at: datetime) -> Receipt:
        trip = trips.get(order.trip_id)
        who = "Everybody"
        if order.party_id:
            party = trips.party(order.party_id)
            if party.trip_id != trip.id:
                raise Refused({"party": "That party is not on this trip"})
            who = party.name
        require_servings(order.serving_kg, order.per_bag)
        row = packing.set_rule(
            ctx.ids,
            at,
            trip=trip.id,
            party=order.party_id or None,
            serving_kg=order.serving_kg,
            per_bag=order.per_bag,
            tail_apart=order.tail_apart,
        )
        each = format_mass(order.serving_kg, order.system)
        return Receipt(
            "bag rule", row.id, f"{who}: {count(order.per_bag, 'serving')} of {each} in a bag"
        )

    return run_idempotent(ctx, key, "pack.rule", order, do)


def require_servings(serving_kg: float, per_bag: int) -> None:
    """Raises Refused with the field."""
    problems = {}
    if not MIN_SERVING_KG <= serving_kg <= MAX_SERVING_KG:
        problems["serving"] = "A serving is between 20 g and 5 kg"
    if not 1 <= per_bag <= MAX_PER_BAG:
        problems["per_bag"] = f"1 to {MAX_PER_BAG} servings in a bag"
    if problems:
        raise Refused(problems)


@dataclass(frozen=True)
class LayTogether:
    """An order: lay these parts into the bag that holds those; `into` empty: a bag of their own.

    With `free` the plan decides again where they go.
    """

    trip_id: str
    parts: tuple[str, ...]
    into: tuple[str, ...] = ()
    free: bool = False


def lay_together(ctx: AppContext, key: str, order: LayTogether) -> Receipt:
    """Keep it. Raises Refused with the reason when they may not share a bag, Conflict, Unknown."""

    def do(at: datetime) -> Receipt:
        view = view_in_transaction(ctx, order.trip_id)
        moved = parts_of(ctx, view, order.parts)
        others = parts_of(ctx, view, order.into) if order.into else []
        others = [row for row in others if row.part.key not in set(order.parts)]
        if order.free:
            first = _say(ctx, at, moved, "", lambda row: None)
            return Receipt("bag plan", first, f"{_names(moved)}: as the plan has it")
        require_kin([*others, *moved])
        # the name of what lies together is new each time: none of it is in an older bag any more
        pin = ctx.ids.new(at)
        first = _say(ctx, at, [*others, *moved], pin, lambda row: row.given_to)
        where = f"with {_names(others)}" if others else "in a bag of its own"
        return Receipt("bag plan", first, f"{_names(moved)} {where}")

    return run_idempotent(ctx, key, "pack.lay", order, do)


@dataclass(frozen=True)
class GiveBag:
    """An order: the bag with these parts goes to that party, whatever the split says."""

    trip_id: str
    parts: tuple[str, ...]
    party_id: str


def give_bag(ctx: AppContext, key: str, order: GiveBag) -> Receipt:
    """Keep it. Raises Refused with the field, Conflict, Unknown."""

    def do(at: datetime) -> Receipt:
        view = view_in_transaction(ctx, order.trip_id)
        name = next((p.name for p in view.parties if p.id == order.party_id), "")
        if not name:
            raise Refused({"party": "That party is not on this trip"})
        rows = parts_of(ctx, view, order.parts)
        require_kin(rows)
        first = _say(ctx, at, rows, ctx.ids.new(at), lambda row: order.party_id)
        return Receipt("bag plan", first, f"{_names(rows)}: for {name}")

    return run_idempotent(ctx, key, "pack.give", order, do)


def _say(
    ctx: AppContext,
    at: datetime,
    rows: list[PartRow],
    pin: str,
    party_of: Callable[[PartRow], str | None],
) -> str:
    """Keep what was decided of these; returns the first one's id, which names the act."""
    said = [
        packing.say(
            ctx.ids,
            at,
            weighing=row.row.weighing.id,
            position=row.portion.index,
            pin=pin,
            party=party_of(row),
        )
        for row in rows
    ]
    return said[0].id


def _names(rows: list[PartRow]) -> str:
    first = rows[0].name
    return first if len(rows) == 1 else f"{first} and {len(rows) - 1} more"


@dataclass(frozen=True)
class CountSupply:
    """An order: the box holds so many bags of this size now, or metres of a roll (length 0)."""

    width_m: float
    length_m: float = 0.0
    held: float = 0.0
    system: System = field(default="metric", metadata=BESIDE)


def count_supply(ctx: AppContext, key: str, order: CountSupply) -> Receipt:
    """Keep the count. Raises Refused with the field."""

    def do(at: datetime) -> Receipt:
        problems = {}
        if not MIN_SIDE_M <= order.width_m <= MAX_SIDE_M:
            problems["width"] = "A bag is between 5 and 100 cm wide"
        if order.length_m and not MIN_SIDE_M <= order.length_m <= MAX_SIDE_M:
            problems["length"] = "A bag is between 5 and 100 cm long; empty for a roll"
        if not 0 <= order.held <= MAX_HELD:
            problems["held"] = f"Count what is there, 0 to {MAX_HELD:.0f}"
        elif order.length_m and order.held != int(order.held):
            problems["held"] = "Bags are counted in whole numbers"
        if problems:
            raise Refused(problems)
        row = packing.count_supply(ctx.ids, at, order.width_m, order.length_m, order.held)
        wide = format_length(order.width_m, order.system)
        if not order.length_m:
            return Receipt("supply", row.id, f"Roll {wide} wide: {order.held:g} m left")
        long = format_length(order.length_m, order.system)
        return Receipt("supply", row.id, f"Bags {wide} × {long}: {order.held:g} left")

    return run_idempotent(ctx, key, "pack.supply", order, do)


@dataclass(frozen=True)
class CountLabels:
    """An order: so many labels are on the roll now."""

    held: Annotated[int, Ge(0), Le(int(MAX_HELD))]


def count_labels(ctx: AppContext, key: str, order: CountLabels) -> Receipt:
    """Keep the count. Raises Refused."""

    def do(at: datetime) -> Receipt:
        if not 0 <= order.held <= MAX_HELD:
            raise Refused({"labels": f"Count what is there, 0 to {MAX_HELD:.0f}"})
        row = packing.count_labels(ctx.ids, at, order.held)
        return Receipt("label count", row.id, f"{count(order.held, 'label')} on the roll")

    return run_idempotent(ctx, key, "pack.labels", order, do)


def labels_now(ctx: AppContext) -> packing.Labels:
    """How the roll of labels stands, for a page."""
    with ctx.store.reading():
        return packing.labels_now()
