"""What a party or a guest wishes of bags: a note on the labels, and fish that they do not take."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Refused
from lepidos.core.fish.species import Species
from lepidos.core.pack.labels import one_line
from lepidos.guide.packing import usual_packing
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.store.pack import packing
from lepidos.store.records import PartyWish
from lepidos.store.trips import trips

MAX_NOTE_LENGTH = 40
MAX_GUEST_LENGTH = 20
MAX_GUESTS = 12


@dataclass(frozen=True)
class WishOnLabels:
    """An order: this stands on a party's labels, and it takes none of these.

    `without` are cautions of `packing.toml` and keys of fish. Of a `guest` of it alone, by name;
    with neither note nor fish, the guest is none any more.
    """

    trip_id: str
    party_id: str
    note: str = ""
    without: tuple[str, ...] = ()
    guest: str = ""


def wish_of_party(ctx: AppContext, key: str, order: WishOnLabels) -> Receipt:
    """Keep it. Raises Refused with the field, Unknown."""

    def do(at: datetime) -> Receipt:
        trip, party = trips.get(order.trip_id), trips.party(order.party_id)
        if party.trip_id != trip.id:
            raise Refused({"party": "That party is not on this trip"})
        note = one_line(order.note, 10_000)
        if len(note) > MAX_NOTE_LENGTH:
            raise Refused({"note": f"Keep it under {MAX_NOTE_LENGTH} letters: it stands on labels"})
        guest = one_line(order.guest, 10_000)
        if len(guest) > MAX_GUEST_LENGTH:
            raise Refused(
                {"guest": f"Keep a name under {MAX_GUEST_LENGTH} letters: it is on labels"}
            )
        others = {row.guest for row in packing.guests_of(trip.id).get(party.id, ())} - {guest}
        if guest and len(others) >= MAX_GUESTS:
            raise Refused({"guest": f"{MAX_GUESTS} guests of a party are as many as it takes"})
        known = {*usual_packing().advisory, *ctx.guide.species}
        if unknown := sorted(set(order.without) - known):
            raise Refused({"without": f"The guide does not know “{unknown[0][:40]}”"})
        without = " ".join(sorted(set(order.without)))
        row = packing.set_wish(
            ctx.ids,
            at,
            trip=trip.id,
            party=party.id,
            guest=guest,
            note=note,
            without=without,
        )
        who = f"{guest} of {party.name}" if guest else party.name
        return Receipt("party wish", row.id, f"{who}: noted")

    return run_idempotent(ctx, key, "pack.wish", order, do)


def wish_now(ctx: AppContext, trip_id: str, party_id: str) -> PartyWish | None:
    """What a party wishes now, none of its guests alone."""
    with ctx.store.reading():
        return packing.wishes_of(trip_id).get(party_id)


def party_of_wish(ctx: AppContext, row_id: str) -> str:
    """Whose a wish is. Raises Unknown."""
    with ctx.store.reading():
        return packing.party_of_wish(row_id)


def not_taken(wishes: Mapping[str, PartyWish], party_id: str, species: Species) -> str:
    """Why a party does not take a fish: the key of a caution or its own; "" when it does."""
    wish = wishes.get(party_id)
    return _refused(wish, species) if wish else ""


def _refused(wish: PartyWish, species: Species) -> str:
    """Why one does not take a fish: the key of a caution or its own; else ""."""
    said = wish.without.split()
    return next((key for key in said if key == species.key or species.warns_of(key)), "")


def not_for(guests: Iterable[PartyWish], species: Species) -> tuple[str, ...]:
    """Names of a party's guests who do not take a fish that the party does."""
    return tuple(row.guest for row in guests if _refused(row, species))
