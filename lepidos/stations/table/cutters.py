"""The session at the boards: whose fish lies where, for how long, pauses, and who comes next."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime

from lepidos.core.errors import Refused
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent, state_of_order
from lepidos.stations.base.digest import BESIDE
from lepidos.stations.base.fish import facts_by_fish, landed, when_done
from lepidos.stations.schedule.order import BenchOrder, OrderPlace, bench_order
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store.deck import fish_now, fishes
from lepidos.store.records import Board, Fact, Fish, FishNow, Trip
from lepidos.store.schedule import boards, work
from lepidos.store.trips import trips


@dataclass(frozen=True)
class BoardTime:
    """A fish's time at its board: since when, worked [s] without pauses, paused now or not."""

    board_id: str
    since: datetime
    worked_s: float
    paused: bool


@dataclass(frozen=True)
class AtBoard:
    """A board and the fish that lies on it, if any; `weighed` pieces so far."""

    board: Board
    fish: Fish | None
    state: FishNow | None
    time: BoardTime | None
    next_fish: Fish | None


@dataclass(frozen=True)
class BoardView:
    """A cutter's own page: what lies on the board, and what comes next."""

    view: TripView
    board: Board
    here: AtBoard
    others: tuple[AtBoard, ...]
    order: BenchOrder
    next_place: OrderPlace | None


def board_time(facts: Sequence[Fact], now: datetime) -> BoardTime | None:
    """Where a fish lies and for how long; None when it was never put on a board."""
    started, ended = work.last_board(facts), work.closed_at(facts)
    if started is None:
        return None
    since = started.at
    acts = [f.name for f in facts if f.kind == work.WORK and f.at >= since]
    return BoardTime(
        started.name,
        since,
        work.worked(list(facts), since, ended or max(now, since)),
        acts[-1:] == [work.PAUSED] and ended is None,
    )


def at_boards(ctx: AppContext, trip: Trip) -> tuple[AtBoard, ...]:
    """Every open board of a trip. Called in an open transaction."""
    now = ctx.clock()
    lying: dict[str, tuple[Fish, FishNow, BoardTime]] = {}
    facts = facts_by_fish(ctx, trip.id)
    rows = landed(ctx, trip.id)
    for fish, state in rows:
        time = board_time(facts.get(fish.id, ()), now) if state.stage == "table" else None
        if time is not None and (
            time.board_id not in lying or lying[time.board_id][2].since < time.since
        ):
            lying[time.board_id] = (fish, state, time)
    order = bench_order(ctx, trip)
    by_id = {fish.id: fish for fish, _ in rows}
    found = []
    own = ("boards of", trip.id, state_of_order(ctx)[0])
    for board in ctx.memo.get(own, lambda: boards.of_trip(trip.id)):
        if board.closed:
            continue
        place = _next_place(order, board.id)
        following = by_id[place.fish_id] if place else None
        if board.id in lying:
            found.append(AtBoard(board, *lying[board.id], following))
        else:
            found.append(AtBoard(board, None, None, None, following))
    return tuple(found)


def fish_before(ctx: AppContext, trip: Trip, fish_id: str, time: BoardTime) -> Fish | None:
    """The fish that lay on the same board before this one. Called in an open transaction."""
    facts = facts_by_fish(ctx, trip.id)
    earlier = []
    for fish, _ in landed(ctx, trip.id):
        lay = board_time(facts.get(fish.id, ()), time.since)
        same = lay is not None and lay.board_id == time.board_id and lay.since < time.since
        if lay is not None and same and fish.id != fish_id:
            earlier.append((lay.since, fish))
    return max(earlier, key=lambda pair: pair[0])[1] if earlier else None


def _next_place(order: BenchOrder, board_id: str) -> OrderPlace | None:
    """What comes next at a board; a board with nothing of its own left helps the others."""
    own = next((p for p in order.of_board(board_id) if not p.in_hand), None)
    return own or next((p for p in order.places if not p.in_hand and not p.held), None)


def view_board(ctx: AppContext, board_id: str) -> BoardView:
    """A cutter's own page. Raises Unknown."""
    with ctx.store.reading():
        board = boards.get(board_id)
        trip = trips.get(board.trip_id)
        view = view_in_transaction(ctx, trip.id)
        every = at_boards(ctx, trip)
        order = bench_order(ctx, trip)
    here = next(
        (b for b in every if b.board.id == board.id), AtBoard(board, None, None, None, None)
    )
    others = tuple(b for b in every if b.board.id != board.id)
    return BoardView(view, board, here, others, order, _next_place(order, board.id))


@dataclass(frozen=True)
class PauseFish:
    """An order to stop the time of a fish on a board, or to go on with it.

    `waited_s`: how long it waited in a browser, here and in other orders.
    """

    fish_id: str
    go_on: bool = False
    waited_s: float = field(default=0.0, repr=False, metadata=BESIDE)


def pause_fish(ctx: AppContext, key: str, order: PauseFish) -> Receipt:
    """The fish waits, or work on it goes on. Raises Refused, Unknown."""

    def do(now_at: datetime) -> Receipt:
        fish, state = fishes.get(order.fish_id), fishes.now(order.fish_id)
        at = when_done(now_at, fish, order.waited_s)
        time = board_time(fishes.facts_of(fish.id), at)
        name = work.RESUMED if order.go_on else work.PAUSED
        if time is not None and at < time.since:
            # it waited while the fish came to another board: it counts for the time before that
            fact = fishes.add_fact(ctx.ids, at, fish.id, work.WORK, name)
            fish_now.refresh(fish.id, ctx.is_fillet)
            return Receipt("fact", fact.id, f"{fish.code} had waited before it came to this board")
        if state.stage != "table" or time is None:
            raise Refused({"": f"{fish.code} does not lie on a board"})
        if time.paused != order.go_on:
            now = "waits already" if time.paused else "is being worked on already"
            raise Refused({"": f"{fish.code} {now}"})
        fact = fishes.add_fact(ctx.ids, at, fish.id, work.WORK, name)
        fish_now.refresh(fish.id, ctx.is_fillet)
        return Receipt("fact", fact.id, f"{fish.code} {'goes on' if order.go_on else 'waits'}")

    return run_idempotent(ctx, key, "session.pause", order, do)
