"""Starting a trip, and what every page shows of it."""

from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from functools import cache
from typing import Literal
from zoneinfo import ZoneInfo, available_timezones

from lepidos.core.cold.ice_balance import IceAccount
from lepidos.core.errors import Refused
from lepidos.core.limits import MAX_BOX_W_PER_K, MIN_BOX_W_PER_K
from lepidos.core.pack.labels import count, one_line
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent, state_of_order
from lepidos.stations.cold.ice import ice_account
from lepidos.store.base.earlier import Act
from lepidos.store.records import Party, Person, Trip
from lepidos.store.trips import trips

MAX_NAME_LENGTH = 60
MAX_NAMES = 24
PAGE = 50
TripKind = Literal["boat", "kayak", "pier", "beach", "shore", "bought"]
NAMELESS: dict[TripKind, str] = {
    "boat": "The boat",
    "kayak": "The kayak",
    "pier": "The pier",
    "beach": "The beach",
    "shore": "The shore",
    "bought": "Bought fish",
}  # by where its fish come from: what a trip without a name is called
AFLOAT = frozenset({"boat", "kayak"})
MAX_ICE_KG = 5000.0
MAX_TRIP_LENGTH = timedelta(days=14)


@dataclass(frozen=True)
class StartTrip:
    """A trip to start. Names of people and parties are given one each.

    Only the date must be said: without a name it is called after its kind, one of `NAMELESS`.
    `timezone` is the device's; without one the trip is in the app's.
    """

    name: str = ""
    kind: TripKind = "boat"
    harbour: str = ""
    on_date: date = field(kw_only=True)
    people: tuple[str, ...] = ()
    parties: tuple[str, ...] = ()
    sea_c: float | None = None
    air_c: float | None = None
    ice_kg: float | None = None
    timezone: str = ""


def start_trip(ctx: AppContext, key: str, order: StartTrip) -> Receipt:
    """A new trip. Raises Refused with the fields that do not hold."""

    def do(at: datetime) -> Receipt:
        trip = add_trip(ctx, at, order)
        act = Act(ctx.ids, at)
        act.made("trip", [trip.id])
        act.made("person", [person.id for person in trips.people_of(trip.id)])
        act.made("party", [party.id for party in trips.parties_of(trip.id)])
        return Receipt("new trip", trip.id, f"{trip.name} is ready")

    return run_idempotent(ctx, key, "trips.start", order, do)


def zone_of(ctx: AppContext, device: str) -> str:
    """The zone of a new trip: the device's where it is known, else the app's."""
    return device if device in _zones() else ctx.timezone


@cache
def _zones() -> frozenset[str]:
    return frozenset(available_timezones())


def add_trip(ctx: AppContext, at: datetime, order: StartTrip) -> Trip:
    """Write a new trip, inside the caller's transaction. Raises Refused."""
    problems: dict[str, str] = {}
    name = _name("name", order.name, problems) or NAMELESS.get(order.kind, "")
    harbour = _name("harbour", order.harbour, problems)
    if order.kind not in NAMELESS:
        problems["kind"] = "Choose where the fish come from"
    zone = zone_of(ctx, order.timezone)
    today = at.astimezone(ZoneInfo(zone)).date()
    if not -3660 <= (order.on_date - today).days <= 366:
        problems["on_date"] = "That date is more than a year ahead or ten years back"
    people = _names("people", order.people, problems)
    parties = _names("parties", order.parties, problems)
    problems |= _cold_problems(order.sea_c, order.air_c, order.ice_kg)
    if problems:
        raise Refused(problems)
    return trips.add(
        ctx.ids,
        name=name,
        kind="boat" if order.kind in AFLOAT else "shore",
        origin=order.kind,
        harbour=harbour,
        on_date=order.on_date,
        timezone=zone,
        people=people,
        parties=parties,
        sea_c=order.sea_c,
        air_c=order.air_c,
        ice_kg=order.ice_kg,
        at=at,
    )


@dataclass(frozen=True)
class TripView:
    """A trip with its people and parties."""

    trip: Trip
    people: tuple[Person, ...]
    parties: tuple[Party, ...]

    @property
    def zone(self) -> ZoneInfo:
        """The zone that the trip's times are shown in."""
        return ZoneInfo(self.trip.timezone)


@dataclass(frozen=True)
class EditTrip:
    """An order to correct what the chain of cold and the run home rest on."""

    trip_id: str
    sea_c: float | None = None
    air_c: float | None = None
    ice_kg: float | None = None
    box_w_per_k: float | None = None
    home_at: datetime | None = None


def edit_trip(ctx: AppContext, key: str, order: EditTrip) -> Receipt:
    """Change a trip's settings. Raises Refused with the fields that do not hold, Unknown."""

    def do(at: datetime) -> Receipt:
        trip = trips.get(order.trip_id)
        problems = _cold_problems(order.sea_c, order.air_c, order.ice_kg)
        box = order.box_w_per_k
        if box is not None and not MIN_BOX_W_PER_K <= box <= MAX_BOX_W_PER_K:
            problems["box_w_per_k"] = (
                f"A box lets in between {MIN_BOX_W_PER_K:g} and {MAX_BOX_W_PER_K:g} W/K"
            )
        if order.home_at is not None and abs(order.home_at - trip.started_at) > MAX_TRIP_LENGTH:
            problems["home_at"] = "That is more than two weeks from the start of the trip"
        if problems:
            raise Refused(problems)
        act = Act(ctx.ids, at)
        act.keep("trip", [trip.id])
        trips.change(
            trip,
            sea_c=order.sea_c,
            air_c=order.air_c,
            ice_kg=order.ice_kg,
            box_w_per_k=box,
            home_at=order.home_at,
        )
        return Receipt("change", act.id, f"{trip.name}: noted")

    return run_idempotent(ctx, key, "trips.edit", order, do)


@dataclass(frozen=True)
class NoteIce:
    """Ice that is seen aboard now."""

    trip_id: str
    seen_kg: float | None


def note_ice(ctx: AppContext, key: str, order: NoteIce) -> Receipt:
    """Note ice that was seen: the account goes on from there. Raises Refused, Unknown."""

    def do(at: datetime) -> Receipt:
        trip = trips.get(order.trip_id)
        if order.seen_kg is None or not 0 <= order.seen_kg <= MAX_ICE_KG:
            raise Refused({"seen_kg": "Give the ice that is left, 0 or more"})
        note = trips.note_ice(ctx.ids, at, trip.id, order.seen_kg)
        return Receipt("ice", note.id, "Ice aboard noted")

    return run_idempotent(ctx, key, "trips.ice", order, do)


def view_ice(ctx: AppContext, trip_id: str) -> tuple[TripView, IceAccount | None]:
    """The account of the ice aboard; None where none was noted. Raises Unknown."""
    with ctx.store.reading():
        view = view_in_transaction(ctx, trip_id)
        return view, ice_account(ctx, view.trip)


def _cold_problems(
    sea_c: float | None, air_c: float | None, ice_kg: float | None
) -> dict[str, str]:
    return {
        field: "Check this number and its unit; it is out of range"
        for field, value, low, high in (
            ("sea_c", sea_c, -2.0, 35.0),
            ("air_c", air_c, -30.0, 45.0),
            ("ice_kg", ice_kg, 0.0, MAX_ICE_KG),
        )
        if value is not None and not low <= value <= high
    }


def latest_trip_id(ctx: AppContext) -> str | None:
    """The newest trip's id, if any."""
    with ctx.store.reading():
        trip = trips.latest()
        return trip.id if trip else None


def get_trip(ctx: AppContext, trip_id: str) -> Trip:
    """A trip without its day. Raises Unknown."""
    with ctx.store.reading():
        return trips.get(trip_id)


def trip_of_party(ctx: AppContext, party_id: str) -> str:
    """The id of the trip that a party is on. Raises Unknown."""
    with ctx.store.reading():
        return trips.party(party_id).trip_id


def list_trips(ctx: AppContext, page: int = 1) -> tuple[list[Trip], int]:
    """One page of trips, newest first, and how many there are."""
    with ctx.store.reading():
        return trips.newest(PAGE, PAGE * (page - 1)), trips.count()


def view_trip(ctx: AppContext, trip_id: str) -> TripView:
    """A trip as every page shows it. Raises Unknown."""
    with ctx.store.reading():
        return view_in_transaction(ctx, trip_id)


def view_in_transaction(ctx: AppContext, trip_id: str) -> TripView:
    """`view_trip` for a station that has the file open already."""
    # nothing that is done at a board changes a trip
    key = ("trip", trip_id, state_of_order(ctx)[0])
    return ctx.memo.get(key, lambda: _view(trip_id))


def _view(trip_id: str) -> TripView:
    trip = trips.get(trip_id)
    return TripView(trip, tuple(trips.people_of(trip_id)), tuple(trips.parties_of(trip_id)))


def _name(field: str, text: str, problems: dict[str, str]) -> str:
    clean = one_line(text, 10_000)
    if len(clean) > MAX_NAME_LENGTH:
        problems[field] = f"Keep it under {MAX_NAME_LENGTH} letters"
    return clean


def _names(field: str, given: tuple[str, ...], problems: dict[str, str]) -> tuple[str, ...]:
    clean = tuple(n for n in (one_line(text, 10_000) for text in given) if n)
    if len(clean) > MAX_NAMES:
        problems[field] = f"At most {count(MAX_NAMES, 'name')}"
    elif any(len(n) > MAX_NAME_LENGTH for n in clean):
        problems[field] = f"Keep each name under {MAX_NAME_LENGTH} letters"
    elif len({n.lower() for n in clean}) != len(clean):
        problems[field] = "Two of these are the same"
    return clean
