"""A fish that lies there, on an empty folder: its trip, its landing and its board in one go."""

from dataclasses import dataclass, field
from datetime import datetime
from zoneinfo import ZoneInfo

from lepidos.core.errors import Refused, Unknown
from lepidos.core.pack.labels import sentence
from lepidos.core.units import System
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import BESIDE, COUNTED
from lepidos.stations.base.waters import find_here
from lepidos.stations.deck.landing import add_fish
from lepidos.stations.deck.landing_check import LandFish
from lepidos.stations.schedule.boards import StartFish, put_on_board
from lepidos.stations.trips.trips import StartTrip, add_trip, zone_of

# what is known of it, by how it lies there; nothing is claimed that nobody said
STATES: dict[str, tuple[str, ...]] = {
    "whole": (), "gutted": ("gutted",), "headed": ("headed",)
}  # fmt: skip
NAME = "One fish"


@dataclass(frozen=True)
class TakeInHand:
    """An order to cut one fish now. `species` by any of its names; length or weight may be None."""

    species: str
    length_m: float | None = field(default=None, metadata=COUNTED)
    weight_kg: float | None = None
    state: str = "whole"
    timezone: str = ""
    system: System = field(default="metric", metadata=BESIDE)


def take_in_hand(ctx: AppContext, key: str, order: TakeInHand) -> Receipt:
    """Start a trip, land the fish, and put it on the board, or do none of it.

    Raises Refused with the field.
    """

    def do(at: datetime) -> Receipt:
        if order.state not in STATES:
            raise Refused({"state": "Say how it lies there"})
        try:
            species = find_here(ctx, order.species)
        except Unknown as error:
            raise Refused({"species": sentence(str(error))}) from error
        today = at.astimezone(ZoneInfo(zone_of(ctx, order.timezone))).date()
        start = StartTrip(NAME, "shore", on_date=today, timezone=order.timezone)
        trip = add_trip(ctx, at, start)
        landing = LandFish(
            trip_id=trip.id,
            species=species.key,
            length_m=order.length_m,
            length_type=species.length_type,
            weight_kg=order.weight_kg,
            weighed_as="lies",
            states=STATES[order.state],
            system=order.system,
        )
        fish, question = add_fish(ctx, trip, landing, at)
        put_on_board(ctx, at, StartFish(fish.id))
        return Receipt("fish", fish.id, f"{fish.code} is on the board", question)

    return run_idempotent(ctx, key, "deck.in_hand", order, do)
