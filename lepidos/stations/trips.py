"""Starting a trip, and what every page shows of it."""

from dataclasses import dataclass
from datetime import date, datetime
from zoneinfo import ZoneInfo

from lepidos.core.errors import Refused
from lepidos.core.labels import count, one_line
from lepidos.stations.fish import RoundWeight, round_weight
from lepidos.stations.house import Done, House, once
from lepidos.store import bags, fishes, trips
from lepidos.store.models import Party, Person, Trip

LONGEST_NAME = 60
MOST_NAMES = 24
PAGE = 50
PACKED = 0.999  # a piece is packed when this share of it is in bags: the rest is rounding


@dataclass(frozen=True)
class StartTrip:
    """An order to start a trip. Names of people and parties are given one each."""

    name: str
    kind: str
    harbour: str
    on_date: date
    people: tuple[str, ...]
    parties: tuple[str, ...]
    sea_c: float | None = None
    air_c: float | None = None
    ice_kg: float | None = None


def start_trip(house: House, key: str, order: StartTrip) -> Done:
    """A new trip. Raises Refused with the fields that do not hold."""

    def do(at: datetime) -> Done:
        problems: dict[str, str] = {}
        name = _name("name", order.name, "Give the boat or the shore mark a name", problems)
        harbour = _name("harbour", order.harbour, "Give the harbour", problems)
        if order.kind not in {"boat", "shore"}:
            problems["kind"] = "Choose boat or shore"
        today = at.astimezone(ZoneInfo(house.timezone)).date()
        if not -3660 <= (order.on_date - today).days <= 366:
            problems["on_date"] = "That date is more than a year ahead or ten years back"
        people = _names("people", order.people, problems)
        parties = _names("parties", order.parties, problems)
        for field, value, low, high in (
            ("sea_c", order.sea_c, -2.0, 35.0),
            ("air_c", order.air_c, -30.0, 45.0),
            ("ice_kg", order.ice_kg, 0.0, 5000.0),
        ):
            if value is not None and not low <= value <= high:
                problems[field] = "Check this number and its unit; it cannot be"
        if problems:
            raise Refused(problems)
        trip = trips.add(
            house.ids,
            name=name,
            kind=order.kind,
            harbour=harbour,
            on_date=order.on_date,
            timezone=house.timezone,
            people=people,
            parties=parties,
            sea_c=order.sea_c,
            air_c=order.air_c,
            ice_kg=order.ice_kg,
            at=at,
        )
        return Done("trip", trip.id, f"{name} is ready")

    return once(house, key, "trips.start", order, do)


@dataclass(frozen=True)
class Gauges:
    """The numbers on top of every page, and what waits at each station."""

    fish_left: int
    fish_landed: int
    round_kg: float
    round_all_measured: bool
    packed_kg: float
    bags: int
    waits: dict[str, int]


@dataclass(frozen=True)
class TripView:
    """A trip with its people, parties and gauges."""

    trip: Trip
    people: tuple[Person, ...]
    parties: tuple[Party, ...]
    gauges: Gauges

    @property
    def zone(self) -> ZoneInfo:
        """The zone that the trip's times are shown in."""
        return ZoneInfo(self.trip.timezone)


def latest_trip_id(house: House) -> str | None:
    """The newest trip's id, if any."""
    with house.store.reading():
        trip = trips.latest()
        return trip.id if trip else None


def list_trips(house: House, page: int = 1) -> tuple[list[Trip], int]:
    """One page of trips, newest first, and how many there are."""
    with house.store.reading():
        return trips.newest(PAGE, PAGE * (page - 1)), trips.count()


def view_trip(house: House, trip_id: str) -> TripView:
    """A trip as every page shows it. Raises Unknown."""
    with house.store.reading():
        return view_in_transaction(house, trip_id)


def view_in_transaction(house: House, trip_id: str) -> TripView:
    """`view_trip` for a station that has the file open already."""
    trip = trips.get(trip_id)
    states = fishes.states_of_trip(trip_id)
    weights: list[RoundWeight] = [round_weight(now, house.guide.one(now.species)) for now in states]
    eaten = [key for key, piece in house.guide.pieces.items() if piece.counts_as != "rest"]
    sealed = bags.count_of_trip(trip_id, "sealed")
    gauges = Gauges(
        fish_left=sum(now.stage != "done" for now in states),
        fish_landed=len(states),
        round_kg=sum(w.kg for w in weights),
        round_all_measured=all(w.measured for w in weights),
        packed_kg=bags.packed_kg(trip_id),
        bags=sealed + bags.count_of_trip(trip_id, "in") + bags.count_of_trip(trip_id, "out"),
        waits={
            "deck": sum(now.stage == "slab" for now in states),
            "table": sum(now.stage == "table" for now in states),
            "pack": bags.count_waiting(trip_id, eaten, PACKED),
            "freezer": sealed,
        },
    )
    return TripView(trip, tuple(trips.people_of(trip_id)), tuple(trips.parties_of(trip_id)), gauges)


def _name(field: str, text: str, empty: str, problems: dict[str, str]) -> str:
    clean = one_line(text, 10_000)
    if not clean:
        problems[field] = empty
    elif len(clean) > LONGEST_NAME:
        problems[field] = f"Keep it under {LONGEST_NAME} letters"
    return clean


def _names(field: str, given: tuple[str, ...], problems: dict[str, str]) -> tuple[str, ...]:
    clean = tuple(n for n in (one_line(text, 10_000) for text in given) if n)
    if len(clean) > MOST_NAMES:
        problems[field] = f"At most {count(MOST_NAMES, 'name')}"
    elif any(len(n) > LONGEST_NAME for n in clean):
        problems[field] = f"Keep each name under {LONGEST_NAME} letters"
    elif len({n.lower() for n in clean}) != len(clean):
        problems[field] = "Two of these are the same"
    return clean
