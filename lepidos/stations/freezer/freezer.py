"""Freezer: bags into places, first-expiring first, found by code, taken out; history stays."""

from dataclasses import dataclass
from datetime import date, datetime
from zoneinfo import ZoneInfo

from lepidos.core.errors import BadInput, Conflict, Refused, Unknown
from lepidos.core.fish.bodyplan import Piece
from lepidos.core.fish.species import Species
from lepidos.core.pack.labels import count, one_line, read_code, show_code
from lepidos.exchange import qr
from lepidos.stations.base.context import Done, House, once
from lepidos.store import bags
from lepidos.store.records import Bag, BagNow, Fish, Move, Place, Portion, Weighing

PAGE = 40
LONGEST_NAME = 60
REASONS = ("to eat", "given away", "spoiled")


@dataclass(frozen=True)
class BagRow:
    """A bag in a list."""

    bag: Bag
    now: BagNow
    species: Species
    piece: Piece
    party: str
    place: str

    @property
    def code(self) -> str:
        """The code as it stands on the label."""
        return show_code(self.bag.code)


@dataclass(frozen=True)
class FreezerView:
    """Places, a page of bags first-expiring first, and bags that wait outside."""

    places: tuple[tuple[Place, int], ...]
    chosen: Place | None
    rows: tuple[BagRow, ...]
    total: int
    page: int
    outside: tuple[BagRow, ...]
    today: date

    @property
    def pages(self) -> int:
        """How many pages of bags there are, at least one."""
        return max(1, -(-self.total // PAGE))


@dataclass(frozen=True)
class BagView:
    """A bag with all that is in it and where it has been."""

    row: BagRow
    contents: tuple[tuple[Portion, Weighing, Fish], ...]
    moves: tuple[tuple[Move, bool, str], ...]
    places: tuple[tuple[Place, int], ...]


def view_freezer(house: House, trip_id: str = "", place_id: str = "", page: int = 1) -> FreezerView:
    """What is in the freezer; `trip_id` chooses whose sealed bags wait outside. Raises Unknown."""
    with house.store.reading():
        places = tuple(bags.places())
        chosen = bags.place(place_id) if place_id else None
        found = bags.first_expiring(place_id, PAGE, PAGE * (page - 1))
        outside = bags.of_trip(trip_id, ("sealed",)) if trip_id else []
        rows = _rows(house, found, places)
        waiting = _rows(house, outside, places)
        total = bags.count_in(place_id)
    return FreezerView(
        places,
        chosen,
        rows,
        total,
        page,
        waiting,
        house.clock().astimezone(ZoneInfo(house.timezone)).date(),
    )


def find_bag(house: House, text: str) -> BagView:
    """The bag of a code that was typed or scanned. Raises Refused, or Unknown."""
    try:
        code = read_code(text)
    except BadInput as error:
        raise Refused({"code": str(error)}) from error
    with house.store.reading():
        bag = bags.by_code(code)
        places = tuple(bags.places())
        names = {p.id: p.name for p, _ in places}
        (row,) = _rows(house, [(bag, bags.now(bag.id))], places)
        contents = tuple(bags.portions_of_bag(bag.id))
        moves = tuple((m, ok, names.get(m.place_id or "", "")) for m, ok in bags.moves_of(bag.id))
    return BagView(row, contents, moves, places)


def scan_photo(house: House, photo: bytes) -> BagView:
    """The bag whose QR code is on a photo. Raises Refused, or Unknown."""
    try:
        text = qr.read_photo(photo)
    except BadInput as error:
        raise Refused({"photo": str(error)}) from error
    return find_bag(house, text)


@dataclass(frozen=True)
class AddPlace:
    """An order for a new freezer place."""

    name: str


def add_place(house: House, key: str, order: AddPlace) -> Done:
    """A new place. Raises Refused."""

    def do(at: datetime) -> Done:
        name = one_line(order.name, 10_000)
        if not name:
            raise Refused({"name": "Give the place a name, such as “chest, top basket”"})
        if len(name) > LONGEST_NAME:
            raise Refused({"name": f"Keep it under {LONGEST_NAME} letters"})
        if bags.place_named(name):
            raise Refused({"name": "There is a place of that name already"})
        place = bags.add_place(house.ids, at, name)
        return Done("place", place.id, f"Place “{name}” is ready")

    return once(house, key, "freezer.place", order, do)


@dataclass(frozen=True)
class PutAway:
    """An order to put bags, by their codes, into a place."""

    codes: tuple[str, ...]
    place_id: str


def put_away(house: House, key: str, order: PutAway) -> Done:
    """Put bags into a place: all of them or none. Raises Refused, Conflict."""

    def do(at: datetime) -> Done:
        if not order.codes:
            raise Refused({"codes": "Choose at least one bag"})
        try:
            place = bags.place(order.place_id)
        except Unknown as error:
            raise Refused({"place": "Choose a place"}) from error
        last = ""
        for text in dict.fromkeys(order.codes):
            bag, now = _bag(text)
            if now.state == "withdrawn":
                raise Conflict(f"Bag {show_code(bag.code)} was taken back")
            if now.state == "in" and now.place_id == place.id:
                raise Conflict(f"Bag {show_code(bag.code)} is in {place.name} already")
            last = bags.move(house.ids, at, bag.id, "in", place.id).id
            bags.refresh(bag.id)
        what = count(len(dict.fromkeys(order.codes)), "bag")
        return Done("move" if len(order.codes) == 1 else "moves", last, f"{what} in {place.name}")

    return once(house, key, "freezer.in", order, do)


@dataclass(frozen=True)
class TakeOut:
    """An order to take a bag out, and why."""

    code: str
    why: str = REASONS[0]


def take_out(house: House, key: str, order: TakeOut) -> Done:
    """Take a bag out. Its history stays. Raises Refused, Conflict."""

    def do(at: datetime) -> Done:
        if order.why not in REASONS:
            raise Refused({"why": f"Say one of: {', '.join(REASONS)}"})
        bag, now = _bag(order.code)
        if now.state != "in":
            raise Conflict(f"Bag {show_code(bag.code)} is not in the freezer")
        move = bags.move(house.ids, at, bag.id, "out", now.place_id, order.why)
        bags.refresh(bag.id)
        return Done("move", move.id, f"Bag {show_code(bag.code)} taken out, {order.why}")

    return once(house, key, "freezer.out", order, do)


def _bag(text: str) -> tuple[Bag, BagNow]:
    try:
        bag = bags.by_code(read_code(text))
    except BadInput as error:
        raise Refused({"code": str(error)}) from error
    except Unknown as error:
        raise Refused({"code": f"No bag has the code {text.strip().upper()[:12]}"}) from error
    return bag, bags.now(bag.id)


def _rows(
    house: House, found: list[tuple[Bag, BagNow]], places: tuple[tuple[Place, int], ...]
) -> tuple[BagRow, ...]:
    names = {p.id: p.name for p, _ in places}
    parties = bags.party_names({bag.party_id for bag, _ in found if bag.party_id})
    return tuple(
        BagRow(
            bag,
            now,
            house.guide.known_or_named(bag.species),
            house.guide.piece(bag.piece),
            parties.get(bag.party_id or "", ""),
            names.get(now.place_id or "", ""),
        )
        for bag, now in found
    )
