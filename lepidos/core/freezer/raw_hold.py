"""Whether a freezer's log shows that a bag was cold enough for long enough to be eaten raw.

By the texts (memory): FDA *Food Code* 3-402.11 (A): −20 °C for 7 days; −35 °C until solid and 15 h
at −35 °C; −35 °C until solid and 24 h at −20 °C. Regulation (EC) 853/2004, annex III, section
VIII, chapter III D, as amended by (EU) 1276/2011: −20 °C for 24 h or −35 °C for 15 h in every part.
The clock starts when every part is there, stops when a part warms, and starts again after a gap.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

from lepidos.core.freezer.bag_cold import SOLID_C, ColdRecord

State = Literal["done", "running", "freezing", "warm", "no log", "never"]
MINUTES_PER_HOUR = 60


@dataclass(frozen=True)
class Route:
    """A way to hold fish: `hold_c` [°C] for `hours`; `freeze_c`: air until it is solid, or None."""

    key: str
    hold_c: float
    hours: int
    freeze_c: float | None = None


@dataclass(frozen=True)
class StayInPlace:
    """A bag in a place: minutes since 1970, from and until (the end of what is known).

    `follows`: it came straight from the place before.
    """

    record: ColdRecord | None
    start: int
    end: int
    follows: bool = False


@dataclass
class Verdict:
    """What a log shows by one route. Minutes are since 1970.

    "no log": of none of its places, or not of the one where it is now.
    "never": the air was never as cold as the route asks; "warm": it was, and no longer is.
    `since`: when the clock that is running, or that ran out, started. `done`: when it ran out.
    `held`: minutes on it now. `stopped`: when it was stopped, by a warm part or a gap.
    """

    route: Route
    state: State
    since: int | None = None
    done: int | None = None
    held: int = 0
    stopped: list[tuple[int, str]] = field(default_factory=list)

    @property
    def due(self) -> int | None:
        """When it will have run out, should nothing warm."""
        if self.since is None or self.done is not None:
            return self.done
        return self.since + self.route.hours * MINUTES_PER_HOUR


def judge(route: Route, stays: Sequence[StayInPlace]) -> Verdict:
    """By one route, from where a bag has been, in order."""
    if not any(stay.record and stay.record.spans for stay in stays):
        return Verdict(route, "no log")
    run = _Run(route)
    for stay in stays:
        if not stay.follows:
            run.lose(stay.start, "taken out")
        if stay.record is None:
            run.lose(stay.start, "gap")
            continue
        at = stay.start
        for a, b in stay.record.spans:
            start, end = max(a, stay.start), min(b, stay.end)
            if start >= end:
                continue
            if start > at:
                run.lose(at, "gap")
            run.ever |= stay.record.ever(start, end, route.hold_c)
            if run.go(stay.record, start, end):
                return run.verdict("done")
            at = end
        if at < stay.end:
            run.lose(at, "gap")
    if stays[-1].record is None:
        return run.verdict("no log")
    return run.verdict(run.state if run.ever else "never")


def best(routes: Sequence[Route], stays: Sequence[StayInPlace]) -> Verdict:
    """The route that is done first, else the one that will be, else what is in the way."""
    found = [judge(route, stays) for route in routes]
    done = [v for v in found if v.done is not None]
    if done:
        return min(done, key=lambda v: v.done or 0)
    running = [v for v in found if v.due is not None]
    return min(running, key=lambda v: v.due or 0) if running else found[0]


class _Run:
    """A bag on its way through its places."""

    def __init__(self, route: Route) -> None:
        self.route = route
        self.frozen = False
        self.fresh = True  # nothing of its freezing has been elsewhere
        self.since: int | None = None
        self.now = 0
        self.done: int | None = None
        self.state: State = "freezing"
        self.ever = False  # the air was cold enough
        self.stopped: list[tuple[int, str]] = []

    def lose(self, at: int, why: str) -> None:
        """Nobody knows what it was for a while: it counts as put in again."""
        if self.since is not None:
            self.stopped.append((at, why))
        self.frozen, self.since, self.state = False, None, "freezing"
        self.now = at

    def go(self, record: ColdRecord, start: int, end: int) -> bool:
        """Through one known stretch; true when the clock ran out."""
        at = self.now = start
        while at < end:
            if not self.frozen and (at := self._freeze(record, at, end)) >= end:
                break
            run = record.cold_run(at, end, self.route.hold_c)
            if run is None or (self.since is not None and run[0] > at):
                at = self._warm(record, at, run[0] if run else end)
                continue
            if self.since is None:
                softened = record.softened(at, run[0])
                if softened is not None:
                    self.frozen, at = False, softened
                    continue
                self.since = run[0]
            at = self.now = run[1]
            self.state = "running"
            if at - self.since >= self.route.hours * MINUTES_PER_HOUR:
                self.done = self.since + self.route.hours * MINUTES_PER_HOUR
                return True
        self.now = end
        return False

    def _freeze(self, record: ColdRecord, at: int, end: int) -> int:
        """When it is frozen; `end` when it is not before."""
        self.state = "freezing"
        if self.route.freeze_c is None:
            found = record.frozen_from(at, end, self.route.hold_c)
        elif self.fresh:
            found = record.frozen_from(at, end, SOLID_C, self.route.freeze_c)
            self.fresh = False
        else:
            found = None
        if found is None:
            return end
        self.frozen = True
        return found

    def _warm(self, record: ColdRecord, at: int, until: int) -> int:
        """A part is too warm from `at` until then."""
        if self.since is not None:
            self.stopped.append((at, "warm"))
        self.since, self.state = None, "warm"
        softened = record.softened(at, until)
        if softened is not None:
            self.frozen = False
            return softened
        return until

    def verdict(self, state: State) -> Verdict:
        """What came out."""
        held = self.now - self.since if self.since is not None and self.done is None else 0
        return Verdict(self.route, state, self.since, self.done, held, self.stopped)
