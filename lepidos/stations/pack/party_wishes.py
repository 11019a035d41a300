"""What a party wishes of its bags: a note on the labels, and fish that it does not take."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Refused
from lepidos.core.fish.species import Species
from lepidos.core.pack.labels import one_line
from lepidos.guide.packing import usual_packing
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.store import packing, trips
from lepidos.store.records import PartyWish

LONGEST_NOTE = 40


@dataclass(frozen=True)
class WishOfParty:
    """An order: this stands on a party's labels, and it takes none of these.

    `without` are cautions of `packing.toml` and keys of fish.
    """

    trip_id: str
    party_id: str
    note: str = ""
    without: tuple[str, ...] = ()


def wish_of_party(ctx: AppContext, key: str, order: WishOfParty) -> Receipt:
    """Keep it. Raises Refused with the field, Unknown."""

    def do(at: datetime) -> Receipt:
        trip, party = trips.get(order.trip_id), trips.party(order.party_id)
        if party.trip_id != trip.id:
            raise Refused({"party": "That party is not on this trip"})
        note = one_line(order.note, 10_000)
        if len(note) > LONGEST_NOTE:
            raise Refused({"note": f"Keep it under {LONGEST_NOTE} letters: it stands on labels"})
        known = {*usual_packing().advisory, *ctx.guide.species}
        if unknown := sorted(set(order.without) - known):
            raise Refused({"without": f"The guide does not know “{unknown[0][:40]}”"})
        without = " ".join(sorted(set(order.without)))
        row = packing.set_wish(
            ctx.ids, at, trip=trip.id, party=party.id, note=note, without=without
        )
        return Receipt("party wish", row.id, f"{party.name}: noted")

    return run_idempotent(ctx, key, "pack.wish", order, do)


def not_taken(wishes: Mapping[str, PartyWish], party_id: str, species: Species) -> str:
    """Why a party does not take a fish: the key of a caution or its own; "" when it does."""
    wish = wishes.get(party_id)
    if wish is None:
        return ""
    said = wish.without.split()
    return next((key for key in said if key == species.key or key in species.cautions), "")
