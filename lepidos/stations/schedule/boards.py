"""Bench: who cuts, when they break, which party leaves when, and fish put in place by hand."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from lepidos.core.errors import Conflict, Refused, Unknown
from lepidos.core.pack.labels import count, one_line, sentence
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.fish import require_workable, when_done
from lepidos.stations.base.trials import enter as enter_trial
from lepidos.stations.schedule.order import MAX_BOARDS, ONE_BOARD, bench_order
from lepidos.stations.trips.trips import MAX_NAME_LENGTH
from lepidos.store.base.earlier import Act
from lepidos.store.deck import fish_now, fishes
from lepidos.store.records import Board
from lepidos.store.schedule import boards, work
from lepidos.store.trips import trips

MAX_BREAK = timedelta(hours=6)
NOBODYS = "The board"  # of a crew that named none


def _whose(name: str) -> str:
    """A board by its cutter, in the middle of a sentence."""
    return "the board" if name == NOBODYS else f"{name}'s board"


@dataclass(frozen=True)
class AddBoard:
    """An order to add a cutter's board."""

    trip_id: str
    name: str


def add_board(ctx: AppContext, key: str, order: AddBoard) -> Receipt:
    """A cutter takes a board. Raises Refused, Unknown."""

    def do(at: datetime) -> Receipt:
        trip = trips.get(order.trip_id)
        name = one_line(order.name, 10_000)
        open_now = [b for b in boards.of_trip(trip.id) if not b.closed]
        if not name:
            raise Refused({"cutter": "Say who cuts"})
        if len(name) > MAX_NAME_LENGTH:
            raise Refused({"cutter": f"Keep it under {MAX_NAME_LENGTH} letters"})
        if name.lower() in {b.name.lower() for b in open_now}:
            raise Refused({"cutter": f"{name} has a board already"})
        if len(open_now) >= MAX_BOARDS:
            raise Refused({"cutter": f"At most {count(MAX_BOARDS, 'board')}; close one first"})
        board = boards.add(ctx.ids, at, trip.id, name)
        Act(ctx.ids, at).made("board", [board.id])
        return Receipt("new board", board.id, f"{name} takes a board")

    return run_idempotent(ctx, key, "bench.board", order, do)


@dataclass(frozen=True)
class SetBoard:
    """An order to set when a board opens and breaks and whose hands cut there, or to close it.

    `left_handed` and `first_time` stay as they are where they are None.
    """

    board_id: str
    opens_at: datetime | None = None
    break_from: datetime | None = None
    break_to: datetime | None = None
    closed: bool = False
    left_handed: bool | None = None
    first_time: bool | None = None


def set_board(ctx: AppContext, key: str, order: SetBoard) -> Receipt:
    """Change a board. Raises Refused, Unknown."""

    def do(at: datetime) -> Receipt:
        board = boards.get(order.board_id)
        begin, end = order.break_from, order.break_to
        if (begin is None) != (end is None):
            raise Refused({"break_to": "Give the beginning and the end of the break, or neither"})
        if begin is not None and end is not None:
            if end <= begin:
                raise Refused({"break_to": "The break ends before it begins"})
            if end - begin > MAX_BREAK:
                raise Refused({"break_to": "That is a long break; close the board instead"})
        left, new = order.left_handed, order.first_time
        act = Act(ctx.ids, at)
        act.keep("board", [board.id])
        boards.change(
            board,
            hand=board.hand if left is None else "left" if left else "",
            first_time=board.first_time if new is None else new,
            opens_at=order.opens_at or board.opens_at,
            break_from=begin,
            break_to=end,
            closed=order.closed,
        )
        if order.closed:
            boards.let_go(act, [board.id])
        what = "is closed" if order.closed else "is set"
        return Receipt("change", act.id, f"{sentence(_whose(board.name))} {what}")

    return run_idempotent(ctx, key, "bench.set", order, do)


@dataclass(frozen=True)
class SetParty:
    """An order to note when a party leaves, and whether its fish are cut in one go."""

    party_id: str
    leaves_at: datetime | None = None
    together: bool = False


def set_party(ctx: AppContext, key: str, order: SetParty) -> Receipt:
    """Change a party. Raises Refused, Unknown."""

    def do(at: datetime) -> Receipt:
        party = trips.party(order.party_id)
        if order.leaves_at is not None and abs(order.leaves_at - at) > timedelta(days=3):
            raise Refused({"leaves_at": "That is days from now; check the date"})
        act = Act(ctx.ids, at)
        act.keep("party", [party.id])
        trips.change_party(party, leaves_at=order.leaves_at, together=order.together)
        return Receipt("change", act.id, f"{party.name}: noted")

    return run_idempotent(ctx, key, "bench.party", order, do)


@dataclass(frozen=True)
class PlaceFish:
    """An order to put a fish by hand: before or after another in its board's row.

    Without a neighbour it comes first at `board_id`, or at the board where it stands.
    """

    fish_id: str
    neighbour_id: str = ""
    after: bool = False
    board_id: str = ""


def place_fish(ctx: AppContext, key: str, order: PlaceFish) -> Receipt:
    """Put a fish in its place; it and what stands before it stay so. Raises Refused, Unknown."""

    def do(at: datetime) -> Receipt:
        fish = fishes.get(order.fish_id)
        present = bench_order(ctx, trips.get(fish.trip_id))
        own = present.of_fish(fish.id)
        mark = present.of_fish(order.neighbour_id) if order.neighbour_id else own
        if own is None or mark is None:
            raise Refused({"fish": f"{fish.code} does not wait for the knife any more"})
        if own.in_hand:
            raise Refused({"fish": f"{fish.code} is on the board; it cannot be put elsewhere"})
        asked = order.board_id or ("" if mark.board_id == ONE_BOARD else mark.board_id)
        board = _board_of(ctx, at, fish.trip_id, asked)
        row = [p for p in present.of_board(asked or mark.board_id) if p.fish_id != fish.id]
        in_hand = sum(p.in_hand for p in row)
        ids = [p.fish_id for p in row]
        where = in_hand
        if order.neighbour_id in ids:
            where = max(in_hand, ids.index(order.neighbour_id) + order.after)
        # what a person put further back stays as it was put
        behind = [p.fish_id for p in row[where:] if p.held and not p.in_hand]
        act = Act(ctx.ids, at)
        boards.hold(act, board.id, [*ids[in_hand:where], fish.id, *behind])
        return Receipt("change", act.id, f"{fish.code} put in its place at {_whose(board.name)}")

    return run_idempotent(ctx, key, "bench.place", order, do)


@dataclass(frozen=True)
class LetGo:
    """An order to let the order of work choose every place again."""

    trip_id: str


def let_go(ctx: AppContext, key: str, order: LetGo) -> Receipt:
    """Hold nothing any more. Raises Unknown."""

    def do(at: datetime) -> Receipt:
        trips.get(order.trip_id)
        act = Act(ctx.ids, at)
        freed = boards.let_go(act, [b.id for b in boards.of_trip(order.trip_id)])
        return Receipt("change", act.id, f"{count(freed, 'fish', 'fish')} let go")

    return run_idempotent(ctx, key, "bench.letgo", order, do)


@dataclass(frozen=True)
class StartFish:
    """An order to take a fish to a board: the one named, the device's own, or the first.

    `next_one`: it is taken as the next one of a list, so that it must lie on no board yet: two
    hands may touch the same fish before either page shows what the other did.
    """

    fish_id: str
    board_id: str = ""
    own_board: str = ""
    next_one: bool = False


def start_fish(ctx: AppContext, key: str, order: StartFish) -> Receipt:
    """The fish comes on the board: from now its time counts. Raises Refused, Unknown."""

    def do(now_at: datetime) -> Receipt:
        return put_on_board(ctx, now_at, order)

    return run_idempotent(ctx, key, "bench.start", order, do)


def put_on_board(ctx: AppContext, now_at: datetime, order: StartFish) -> Receipt:
    """`start_fish` inside the caller's transaction. Raises Refused, Unknown."""
    fish, now = fishes.get(order.fish_id), fishes.now(order.fish_id)
    at = when_done(now_at, fish)
    if now.stage == "withdrawn":
        raise Refused({"": f"The landing of {fish.code} was undone"})
    if now.stage == "done":
        raise Refused({"": f"{fish.code} is finished; open it again first"})
    require_workable(ctx, fish, now)
    here = {b.id for b in boards.of_trip(fish.trip_id) if not b.closed}
    asked = order.board_id or (order.own_board if order.own_board in here else "")
    board = _board_of(ctx, at, fish.trip_id, asked)
    last = work.last_board(fishes.facts_of(fish.id))
    if last is not None and last.name == board.id:
        raise Refused({"": f"{fish.code} lies on {_whose(board.name)} already"})
    if order.next_one and last is not None and last.name in here:
        other = next((b.name for b in boards.of_trip(fish.trip_id) if b.id == last.name), "")
        raise Conflict(f"{fish.code} lies on {_whose(other)} by now; take the next one")
    fact = fishes.add_fact(ctx.ids, at, fish.id, work.BOARD, board.id)
    enter_trial(ctx, at, fish)
    fish_now.refresh(fish.id, ctx.is_fillet)
    return Receipt("fact", fact.id, f"{fish.code} on {_whose(board.name)}")


def _board_of(ctx: AppContext, at: datetime, trip_id: str, board_id: str) -> Board:
    """A board of the trip; a crew that named none gets one when it first needs it."""
    own = [b for b in boards.of_trip(trip_id) if not b.closed]
    if not board_id:
        return own[0] if own else boards.add(ctx.ids, at, trip_id, NOBODYS)
    board = boards.get(board_id)
    if board.trip_id != trip_id or board.closed:
        raise Unknown("board", board_id)
    return board
