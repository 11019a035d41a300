"""The ice of a trip: what was taken aboard, what melted, and what is still to be cooled."""

from collections.abc import Mapping

from lepidos.core.cold.ice_balance import FISH_KJ, IceAccount, account
from lepidos.stations.base.context import AppContext, state_of_order
from lepidos.stations.base.fish import landed, round_weight
from lepidos.stations.base.pressing import WAITS
from lepidos.stations.cold.cold import BOX_W_PER_K, ColdNow, cold_of_trip, ice_since
from lepidos.stations.cold.ways import MAX_S
from lepidos.store.records import Trip
from lepidos.store.trips import trips


def ice_account(ctx: AppContext, trip: Trip) -> IceAccount | None:
    """The ice aboard, what took it and what is still to be cooled; None when none was noted.

    Called inside an open transaction.
    """
    return ctx.memo.get(("ice", trip.id, *state_of_order(ctx)), lambda: _ice_account(ctx, trip))


def _ice_account(ctx: AppContext, trip: Trip) -> IceAccount | None:
    seen = trips.ice_seen(trip.id)
    aboard = seen.kg if seen else trip.ice_kg
    if aboard is None:
        return None
    cold = cold_of_trip(ctx, trip)
    now = ctx.clock()
    air_c = trip.air_c if trip.air_c is not None else ctx.guide.media["open_air"].celsius
    passed_s = min(MAX_S, max(0.0, (now - ice_since(trip)).total_seconds()))
    home_s = (trip.home_at - now).total_seconds() if trip.home_at else 0.0
    return account(
        aboard,
        sum(c.melted_kj for c in cold.values()),
        _to_take_kj(ctx, trip, cold),
        trip.box_w_per_k if trip.box_w_per_k is not None else BOX_W_PER_K,
        air_c,
        passed_s,
        min(MAX_S, max(0.0, home_s)),
        trip.sea_c,
    )


def _to_take_kj(ctx: AppContext, trip: Trip, cold: Mapping[str, ColdNow]) -> float:
    """Heat still in the fish that wait; those whose cold is not calculated count as just landed."""
    total = 0.0
    for fish, now in landed(ctx, trip.id):
        if now.stage not in WAITS:
            continue
        if fish.id in cold:
            total += cold[fish.id].to_take_kj
        elif cold:
            kg = round_weight(now, ctx.guide.one(fish.species)).kg
            total += kg * FISH_KJ * max(0.0, trip.sea_c or 0.0)
    return total
