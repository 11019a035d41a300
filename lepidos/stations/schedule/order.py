"""The order of work of a trip, calculated: which fish next, at whose board, why, and until when."""

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from lepidos.core.schedule.cutting_time import Pace
from lepidos.core.schedule.deadline import Deadline, deadline
from lepidos.core.schedule.model import Cutter, Job, Order, Turn
from lepidos.core.schedule.scheduler import Bench
from lepidos.core.units import DAY_S
from lepidos.stations.base.context import AppContext, state_of_order
from lepidos.stations.base.fish import facts_at_table, facts_by_fish
from lepidos.stations.base.pressing import waiting
from lepidos.stations.cold.cold import ColdNow, cold_of_trip
from lepidos.stations.schedule.pace import MIN_S, kind_of, learned_pace, plan_seconds
from lepidos.store.deck import fishes
from lepidos.store.records import Board, Fact, Fish, FishNow, Party, Trip
from lepidos.store.schedule import boards, work
from lepidos.store.trips import trips

MAX_BOARDS = 4
ROUND_S = 300.0  # deadlines are compared in steps of this, so that a plan does not flicker

ONE_BOARD = "one"  # stands for the board of a crew that named none


@dataclass(frozen=True)
class OrderPlace:
    """A fish's place in the order: whose board, when, by when it should be done, and why.

    `minutes` is the expected time at this board; `held` says that a person put it there.
    """

    fish_id: str
    board_id: str
    cutter: str
    starts_at: datetime
    ends_at: datetime
    due_at: datetime | None
    why: Deadline
    minutes: float
    kind: str
    held: bool
    in_hand: bool

    @property
    def late_s(self) -> float:
        """How much later than it should be."""
        if self.due_at is None:
            return 0.0
        return max(0.0, (self.ends_at - self.due_at).total_seconds())


@dataclass(frozen=True)
class BenchOrder:
    """The whole order: places by the time they start, when the table is clear, and what it is."""

    places: tuple[OrderPlace, ...]
    boards: tuple[Board, ...]
    clears_at: datetime | None
    lateness_s: float
    proven: bool
    how: str
    searching: bool
    pace: Pace

    def of_board(self, board_id: str) -> tuple[OrderPlace, ...]:
        """One board's row."""
        return tuple(p for p in self.places if p.board_id == board_id)

    def of_fish(self, fish_id: str) -> OrderPlace | None:
        """A fish's place."""
        return next((p for p in self.places if p.fish_id == fish_id), None)


def bench_order(ctx: AppContext, trip: Trip) -> BenchOrder:
    """The order of work now. Called inside an open transaction."""
    return ctx.memo.get(
        ("order", trip.id, ctx.search.found, *state_of_order(ctx)),
        lambda: _Table(ctx, trip).order(),
    )


class _Table:
    """A trip's fish and boards, made ready for the core's bench."""

    def __init__(self, ctx: AppContext, trip: Trip) -> None:
        self.ctx, self.trip = ctx, trip
        self.now = ctx.clock()
        self.rows = waiting(ctx, trip.id)
        self.facts = facts_by_fish(ctx, trip.id)
        self.cold = cold_of_trip(ctx, trip)
        self.parties = {p.id: p for p in trips.parties_of(trip.id)}
        open_boards = [b for b in boards.of_trip(trip.id) if not b.closed][:MAX_BOARDS]
        self.boards = tuple(open_boards) or (
            Board(ONE_BOARD, trip.id, "the board", self.now, None, None, False),
        )
        self.pace = learned_pace(ctx)

    def order(self) -> BenchOrder:
        """Ask the search for the best it knows, and put it into clock times."""
        whys = {fish.id: self._why(fish, state) for fish, state in self.rows}
        jobs = [self._job(fish, state, whys[fish.id]) for fish, state in self.rows]
        held = boards.holds_of([b.id for b in self.boards])
        in_hand = self._in_hand()
        cutters = [self._cutter(board, held[board.id], in_hand) for board in self.boards]
        bench = Bench(jobs, cutters, self._changeovers())
        ids = [b.id for b in self.boards]
        mixed = not any(p.together for p in self.parties.values())
        mark = self._mark(jobs, cutters)
        found = self.ctx.search.order(self.trip.id, mark, ids, bench, plain=mixed)
        return self._in_clock_times(found, jobs, whys, held, in_hand)

    def _in_clock_times(
        self,
        found: Order,
        jobs: Sequence[Job],
        whys: Mapping[str, Deadline],
        held: Mapping[str, Sequence[str]],
        in_hand: Mapping[str, str],
    ) -> BenchOrder:
        by_name = {self._name(b): b for b in self.boards}
        by_key = {j.key: j for j in jobs}
        places = []
        for turn in found.turns:
            board = by_name[turn.cutter]
            places.append(self._place(turn, board, by_key[turn.key], whys, held, in_hand))
        clears = self.now + timedelta(seconds=found.clear_s) if places else None
        return BenchOrder(
            tuple(places),
            tuple(b for b in self.boards if b.id != ONE_BOARD),
            clears,
            found.lateness,
            found.proven,
            found.how,
            self.ctx.search.is_searching(self.trip.id),
            self.pace,
        )

    def _place(
        self,
        turn: Turn,
        board: Board,
        job: Job,
        whys: Mapping[str, Deadline],
        held: Mapping[str, Sequence[str]],
        in_hand: Mapping[str, str],
    ) -> OrderPlace:
        why = whys[turn.key]
        far = why.why == "rest" and why.seconds > DAY_S
        return OrderPlace(
            fish_id=turn.key,
            board_id=board.id,
            cutter=board.name,
            starts_at=self.now + timedelta(seconds=turn.start_s),
            ends_at=self.now + timedelta(seconds=turn.end_s),
            due_at=None if far else self.now + timedelta(seconds=why.seconds),
            why=why,
            minutes=job.seconds[self.boards.index(board)] / 60,
            kind=job.kind.partition("|")[0],
            held=turn.key in held.get(board.id, ()),
            in_hand=in_hand.get(turn.key) == board.id,
        )

    def _job(self, fish: Fish, state: FishNow, why: Deadline) -> Job:
        species = self.ctx.guide.one(fish.species)
        prior = plan_seconds(self.ctx, fish, state, species)
        kind = kind_of(self.ctx, species)
        party = self.parties.get(fish.party_id or "")
        if party is not None and party.together:
            kind = f"{kind}|{party.id}"
        began = self._began(fish.id)
        passed_s = (self.now - began.at).total_seconds() if began else 0.0
        seconds = tuple(
            min(DAY_S, max(MIN_S, prior * self.pace.factor(b.name, species.key) - passed_s))
            for b in self.boards
        )
        # a step of minutes keeps the order in force when only the clock moved
        by = ROUND_S * round(why.seconds / ROUND_S)
        return Job(fish.id, 0.0, by, why.weight, kind, seconds)

    def _why(self, fish: Fish, state: FishNow) -> Deadline:
        cold: ColdNow | None = self.cold.get(fish.id)
        party: Party | None = self.parties.get(fish.party_id or "")
        leaves = None
        if party is not None and party.leaves_at is not None:
            packing = timedelta(minutes=self.ctx.guide.bench.packing_min)
            leaves = (party.leaves_at - packing - self.now).total_seconds()
        return deadline(
            cold.ahead if cold else None,
            lain_s=max(0.0, (self.now - fish.landed_at).total_seconds()),
            bled="bled" in facts_at_table(self.ctx, fish, set(state.facts.split())),
            forms_histamine="histamine" in self.ctx.guide.one(fish.species).traits,
            late_share=self.ctx.guide.bench.late_share,
            weights=self.ctx.guide.bench.late_weights,
            leaves_in_s=leaves,
        )

    def _cutter(self, board: Board, held: Sequence[str], in_hand: Mapping[str, str]) -> Cutter:
        waiting = {fish.id for fish, _ in self.rows}
        first = [fish for fish, where in in_hand.items() if where == board.id]
        after = [fish for fish in held if fish in waiting and fish not in in_hand]
        pause: tuple[tuple[float, float], ...] = ()
        if board.break_from and board.break_to and board.break_to > self.now:
            begin = max(0.0, (board.break_from - self.now).total_seconds())
            pause = ((begin, (board.break_to - self.now).total_seconds()),)
        free_s = max(0.0, (board.opens_at - self.now).total_seconds())
        return Cutter(self._name(board), free_s, self._last_kind(board), pause, (*first, *after))

    def _in_hand(self) -> dict[str, str]:
        """The board of each fish that was started; without a board it lies on the first."""
        ids = {b.id for b in self.boards}
        found = {}
        for fish, state in self.rows:
            if state.stage == "table":
                began = self._began(fish.id)
                board = began.name if began else ""
                found[fish.id] = board if board in ids else self.boards[0].id
        return found

    def _began(self, fish_id: str) -> Fact | None:
        return work.last_board(self.facts.get(fish_id, []))

    def _last_kind(self, board: Board) -> str:
        """What the board saw last, so that it is known how it must be washed."""
        last = max(
            (
                (fact.at, fish_id)
                for fish_id, facts in self.facts.items()
                for fact in facts
                if fact.kind == work.BOARD and fact.name == board.id
            ),
            default=None,
        )
        if last is None:
            return ""
        return kind_of(self.ctx, self.ctx.guide.known_or_named(fishes.now(last[1]).species))

    def _changeovers(self) -> dict[tuple[str, str], float]:
        """Seconds between kinds; between two parties' fish more, when one asked to be together."""
        guide = self.ctx.guide.bench
        washes = {}
        for name, minutes in guide.changeovers_min.items():
            before, _, after = name.partition(">")
            washes[before, after] = minutes * 60
        kinds = set(guide.changeovers_min) and {k for pair in washes for k in pair}
        tags = ["", *(p.id for p in self.parties.values() if p.together)]
        found = {}
        for one in kinds:
            for other in kinds:
                for tag in tags:
                    for to in tags:
                        extra = guide.party_change_min * 60 if tag != to else 0.0
                        seconds = washes.get((one, other), 0.0) + extra
                        found[_tagged(one, tag), _tagged(other, to)] = seconds
        return found

    def _name(self, board: Board) -> str:
        return f"{board.name}#{board.id}"

    def _mark(self, jobs: Sequence[Job], cutters: Sequence[Cutter]) -> str:
        """What the table is, apart from the clock: a search stays in force while this does."""
        what = (
            sorted((j.key, j.weight, j.kind) for j in jobs),
            [(c.name, c.holding, bool(c.breaks)) for c in cutters],
            sorted((p.id, p.leaves_at, p.together) for p in self.parties.values()),
        )
        return hashlib.sha256(repr(what).encode()).hexdigest()


def _tagged(kind: str, party: str) -> str:
    return f"{kind}|{party}" if party else kind
