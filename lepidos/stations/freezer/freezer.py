"""Freezer: bags into places, first-expiring first, found by code, taken out; history stays."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date
from zoneinfo import ZoneInfo

from lepidos.core.fish.bodyplan import Piece
from lepidos.core.fish.species import Species
from lepidos.core.pack.bag_sizes import HEAD_ROOM_M
from lepidos.core.pack.labels import show_code
from lepidos.stations.base.context import AppContext
from lepidos.stations.freezer import find, places
from lepidos.stations.freezer.cold_records import all_logs
from lepidos.stations.freezer.holds import RawHold, raw_hold, rule_now, seen_never
from lepidos.stations.freezer.place_view import DayLine, line_of
from lepidos.stations.freezer.stocktake import Counted, counted
from lepidos.store.freezer import places as place_store
from lepidos.store.pack import bags, portions
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


@dataclass(frozen=True)
class BagRow:
    """A bag in a list."""

    bag: Bag
    now: BagNow
    species: Species
    piece: Piece
    party: str
    place: str
    longest_m: float

    @property
    def size_m(self) -> tuple[float, float]:
        """Width and length of the bag as it is drawn: from what is in it where nobody said."""
        if self.bag.width_m and self.bag.length_m:
            return self.bag.width_m, self.bag.length_m
        return places.MIN_WIDE_M, max(places.MIN_LONG_M, self.longest_m + HEAD_ROOM_M)

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

    `tonight`: what would become of the bags that wait outside; `line`: the log's last day;
    `depth`: how deep it is in other places, which come before it.
    """

    place: Place
    number: int
    rows: tuple[BagRow, ...]
    said: PlaceSaid | None
    tonight: places.Tonight
    line: DayLine | None
    counted: Counted | None
    depth: int = 0


@dataclass(frozen=True)
class BagView:
    """A bag with all that is in it and where it has been."""

    row: BagRow
    contents: tuple[tuple[Portion, Weighing, Fish], ...]
    moves: tuple[tuple[Move, bool, str], ...]
    places: tuple[tuple[Place, int], ...]
    hold: RawHold


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
        boxes = tuple(_nested(list(_boxes(ctx, all_places, chosen, waiting))))
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


def _nested(boxes: list[PlaceBox]) -> list[PlaceBox]:
    """Each place, and after it those that are in it; every place once, whatever was undone."""
    inner: dict[str, list[PlaceBox]] = {}
    for box in boxes:
        inner.setdefault((box.said.within_id if box.said else None) or "", []).append(box)
    left = {box.place.id: box for box in boxes}
    found: list[PlaceBox] = []

    def draw(box: PlaceBox, depth: int) -> None:
        if left.pop(box.place.id, None) is not None:
            found.append(replace(box, depth=depth))
            for one in inner.get(box.place.id, ()):
                draw(one, depth + 1)

    for box in boxes:
        outer = box.said.within_id if box.said else None
        if outer not in left:
            draw(box, 0)
    for box in list(left.values()):  # an undo may have put two places into one another
        draw(box, 0)
    return found


def _boxes(
    ctx: AppContext,
    all_places: tuple[tuple[Place, int], ...],
    chosen: Place | None,
    waiting: tuple[BagRow, ...],
) -> Iterator[PlaceBox]:
    logs, went_in = all_logs(), place_store.kg_put_in(ctx.clock() - places.DAY)
    said, there = logs.said, place_store.kg_in()
    counts = counted({p.id: p.name for p, _ in all_places})
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
            places.tonight(
                place, said, outside, went_in.get(place.id, 0.0), there.get(place.id, 0.0)
            ),
            line_of(ctx, logs.ids(place.id)),
            counts.get(place.id),
        )


def find_bag(ctx: AppContext, text: str) -> BagView:
    """The bag of a code that was typed or scanned. Raises Refused, or Unknown."""
    code = find.code_of(ctx, text)
    with ctx.store.reading():
        bag = bags.by_code(code)
        places = tuple(place_store.places())
        names = {p.id: p.name for p, _ in places}
        (row,) = _rows(ctx, [(bag, bags.now(bag.id))], places)
        contents = tuple(portions.of_bag(bag.id))
        moves = tuple((m, ok, names.get(m.place_id or "", "")) for m, ok in bags.moves_of(bag.id))
        hold = hold_of(ctx, [bag])[bag.id]
    return BagView(row, contents, moves, places, hold)


def hold_of(ctx: AppContext, found: list[Bag]) -> dict[str, RawHold]:
    """What can be said of bags and raw fish, by their ids; from an open file."""
    ids = [bag.id for bag in found]
    logs, moves, seen = all_logs(), bags.moves_of_bags(ids), seen_never(ctx, ids)
    _, rule = rule_now()
    return {bag.id: raw_hold(ctx, rule, logs, bag, moves[bag.id], seen) for bag in found}


def _rows(
    ctx: AppContext, found: list[tuple[Bag, BagNow]], places: tuple[tuple[Place, int], ...]
) -> tuple[BagRow, ...]:
    names = {p.id: p.name for p, _ in places}
    longest = portions.longest_in([bag.id for bag, _ in found])
    parties = bags.party_names({bag.party_id for bag, _ in found if bag.party_id})
    return tuple(
        BagRow(
            bag,
            now,
            ctx.guide.known_or_named(bag.species),
            ctx.guide.piece(bag.piece),
            parties.get(bag.party_id or "", ""),
            names.get(now.place_id or "", ""),
            longest.get(bag.id, 0.0),
        )
        for bag, now in found
    )
