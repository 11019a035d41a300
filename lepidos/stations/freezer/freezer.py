"""Freezer: bags into places, first-expiring first, found by code, taken out; history stays."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime
from zoneinfo import ZoneInfo

from lepidos.core.errors import BadInput, Conflict, Refused, Unknown
from lepidos.core.fish.bodyplan import Piece
from lepidos.core.fish.species import Species
from lepidos.core.pack.labels import count, one_line, read_code, show_code
from lepidos.exchange import qr
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.freezer import places
from lepidos.store import bags
from lepidos.store import places as place_store
from lepidos.store.records import (
    Bag,
    BagNow,
    Fish,
    Move,
    Place,
    PlaceSaid,
    Portion,
    Weighing,
)

PAGE = 40
DRAWN = 18  # bags of a place, when all places are drawn
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
    boxes: tuple["PlaceBox", ...]

    @property
    def pages(self) -> int:
        """How many pages of bags there are, at least one."""
        return max(1, -(-self.total // PAGE))


@dataclass(frozen=True)
class PlaceBox:
    """A place as it is drawn: what is due first in it, how many more, and what it is like.

    `tonight`: what would become of the bags that wait outside.
    """

    place: Place
    number: int
    rows: tuple[BagRow, ...]
    said: PlaceSaid | None
    tonight: places.Tonight


@dataclass(frozen=True)
class BagView:
    """A bag with all that is in it and where it has been."""

    row: BagRow
    contents: tuple[tuple[Portion, Weighing, Fish], ...]
    moves: tuple[tuple[Move, bool, str], ...]
    places: tuple[tuple[Place, int], ...]


def view_freezer(
    ctx: AppContext, trip_id: str = "", place_id: str = "", page: int = 1
) -> FreezerView:
    """What is in the freezer; `trip_id` chooses whose sealed bags wait outside. Raises Unknown."""
    with ctx.store.reading():
        all_places = tuple(place_store.places())
        chosen = place_store.place(place_id) if place_id else None
        found = bags.first_expiring(place_id, PAGE, PAGE * (page - 1))
        outside = bags.of_trip(trip_id, ("sealed",)) if trip_id else []
        rows = _rows(ctx, found, all_places)
        waiting = _rows(ctx, outside, all_places)
        total = bags.count_in(place_id)
        boxes = tuple(_boxes(ctx, all_places, chosen, waiting))
    return FreezerView(
        all_places,
        chosen,
        rows,
        total,
        page,
        waiting,
        ctx.clock().astimezone(ZoneInfo(ctx.timezone)).date(),
        boxes,
    )


def _boxes(
    ctx: AppContext,
    all_places: tuple[tuple[Place, int], ...],
    chosen: Place | None,
    waiting: tuple[BagRow, ...],
) -> Iterator[PlaceBox]:
    said, went_in = place_store.said_of_places(), place_store.kg_put_in(ctx.clock() - places.DAY)
    outside = [(row.bag, row.species) for row in waiting]
    for place, number in all_places:
        if chosen and place.id != chosen.id:
            continue
        first = bags.first_expiring(place.id, PAGE if chosen else DRAWN)
        yield PlaceBox(
            place,
            number,
            _rows(ctx, first, all_places),
            said.get(place.id),
            places.tonight(place, said, outside, went_in.get(place.id, 0.0)),
        )


def find_bag(ctx: AppContext, text: str) -> BagView:
    """The bag of a code that was typed or scanned. Raises Refused, or Unknown."""
    try:
        code = read_code(text)
    except BadInput as error:
        raise Refused({"code": str(error)}) from error
    with ctx.store.reading():
        bag = bags.by_code(code)
        places = tuple(place_store.places())
        names = {p.id: p.name for p, _ in places}
        (row,) = _rows(ctx, [(bag, bags.now(bag.id))], places)
        contents = tuple(bags.portions_of_bag(bag.id))
        moves = tuple((m, ok, names.get(m.place_id or "", "")) for m, ok in bags.moves_of(bag.id))
    return BagView(row, contents, moves, places)


def scan_photo(ctx: AppContext, photo: bytes) -> BagView:
    """The bag whose QR code is on a photo. Raises Refused, or Unknown."""
    try:
        text = qr.read_photo(photo)
    except BadInput as error:
        raise Refused({"photo": str(error)}) from error
    return find_bag(ctx, text)


@dataclass(frozen=True)
class AddPlace:
    """An order for a new freezer place."""

    name: str


def add_place(ctx: AppContext, key: str, order: AddPlace) -> Receipt:
    """A new place. Raises Refused."""

    def do(at: datetime) -> Receipt:
        name = one_line(order.name, 10_000)
        if not name:
            raise Refused({"name": "Give the place a name, such as “chest, top basket”"})
        if len(name) > LONGEST_NAME:
            raise Refused({"name": f"Keep it under {LONGEST_NAME} letters"})
        if place_store.place_named(name):
            raise Refused({"name": "There is a place of that name already"})
        place = place_store.add_place(ctx.ids, at, name)
        return Receipt("place", place.id, f"Place “{name}” is ready")

    return run_idempotent(ctx, key, "freezer.place", order, do)


@dataclass(frozen=True)
class PutAway:
    """An order to put bags, by their codes, into a place."""

    codes: tuple[str, ...]
    place_id: str


def put_away(ctx: AppContext, key: str, order: PutAway) -> Receipt:
    """Put bags into a place: all of them or none. Raises Refused, Conflict."""

    def do(at: datetime) -> Receipt:
        if not order.codes:
            raise Refused({"codes": "Choose at least one bag"})
        try:
            place = place_store.place(order.place_id)
        except Unknown as error:
            raise Refused({"place": "Choose a place"}) from error
        last = ""
        for text in dict.fromkeys(order.codes):
            bag, now = _bag(text)
            if now.state == "withdrawn":
                raise Conflict(f"Bag {show_code(bag.code)} was undone")
            if now.state == "in" and now.place_id == place.id:
                raise Conflict(f"Bag {show_code(bag.code)} is in {place.name} already")
            last = bags.move(ctx.ids, at, bag.id, "in", place.id).id
            bags.refresh(bag.id)
        what = count(len(dict.fromkeys(order.codes)), "bag")
        return Receipt(
            "move" if len(order.codes) == 1 else "moves", last, f"{what} in {place.name}"
        )

    return run_idempotent(ctx, key, "freezer.in", order, do)


@dataclass(frozen=True)
class TakeOut:
    """An order to take a bag out, and why."""

    code: str
    why: str = REASONS[0]


def take_out(ctx: AppContext, key: str, order: TakeOut) -> Receipt:
    """Take a bag out. Its history stays. Raises Refused, Conflict."""

    def do(at: datetime) -> Receipt:
        if order.why not in REASONS:
            raise Refused({"why": f"Say one of: {', '.join(REASONS)}"})
        bag, now = _bag(order.code)
        if now.state != "in":
            raise Conflict(f"Bag {show_code(bag.code)} is not in the freezer")
        move = bags.move(ctx.ids, at, bag.id, "out", now.place_id, order.why)
        bags.refresh(bag.id)
        return Receipt("move", move.id, f"Bag {show_code(bag.code)} taken out, {order.why}")

    return run_idempotent(ctx, key, "freezer.out", order, do)


def _bag(text: str) -> tuple[Bag, BagNow]:
    try:
        bag = bags.by_code(read_code(text))
    except BadInput as error:
        raise Refused({"code": str(error)}) from error
    except Unknown as error:
        raise Refused({"code": f"No bag has the code {text.strip().upper()[:12]}"}) from error
    return bag, bags.now(bag.id)


def _rows(
    ctx: AppContext, found: list[tuple[Bag, BagNow]], places: tuple[tuple[Place, int], ...]
) -> tuple[BagRow, ...]:
    names = {p.id: p.name for p, _ in places}
    parties = bags.party_names({bag.party_id for bag, _ in found if bag.party_id})
    return tuple(
        BagRow(
            bag,
            now,
            ctx.guide.known_or_named(bag.species),
            ctx.guide.piece(bag.piece),
            parties.get(bag.party_id or "", ""),
            names.get(now.place_id or "", ""),
        )
        for bag, now in found
    )
