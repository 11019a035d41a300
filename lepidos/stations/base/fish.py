"""What several stations ask of a fish: how heavy it is, and how we know."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from typing import cast

from lepidos.core.catch.handling import STATES
from lepidos.core.catch.length_weight import round_from_gutted, weight_from_length
from lepidos.core.cold.conduction import cooling_body
from lepidos.core.cutting.plan import FishToCut, Skin
from lepidos.core.errors import CannotWorkOut, LepidosError
from lepidos.core.estimate import Estimate
from lepidos.core.fish.anatomy import Body
from lepidos.core.fish.species import LengthType, Species
from lepidos.stations.base.context import AppContext
from lepidos.store import entries, fishes
from lepidos.store.records import Fact, Fish, FishNow

EARLIEST, LATEST = datetime(2000, 1, 1, tzinfo=UTC), datetime(2100, 1, 1, tzinfo=UTC)
WAITED_S = 5.0  # what took less to arrive was done now
LONGEST_WAIT = timedelta(days=7)  # of an entry in a browser without its server


@dataclass(frozen=True)
class RoundWeight:
    """Round weight [kg]. `estimate` is None when the whole fish was on the scale."""

    kg: float
    estimate: Estimate | None

    @property
    def measured(self) -> bool:
        """Whether the whole fish was weighed."""
        return self.estimate is None

    @property
    def interval(self) -> tuple[float, float] | None:
        """The interval of an estimate [kg]."""
        return (self.estimate.low, self.estimate.high) if self.estimate else None

    @property
    def as_estimate(self) -> Estimate | float:
        """For models that take either."""
        return self.estimate or self.kg


def round_weight(now: FishNow, species: Species, level: float = 0.9) -> RoundWeight:
    """Weighed whole, else worked back from gutted, else from the length."""
    if now.whole_kg is not None:
        return RoundWeight(now.whole_kg, None)
    length_type = cast(LengthType, now.length_type)
    estimate = _estimated(now.gutted_kg, now.length_m, length_type, species, level)
    return RoundWeight(estimate.value, estimate)


@lru_cache(maxsize=4096)  # a page of sixty fish asks four times for each
def _estimated(
    gutted_kg: float | None,
    length_m: float,
    length_type: LengthType,
    species: Species,
    level: float,
) -> Estimate:
    if gutted_kg is not None:
        return round_from_gutted(gutted_kg, species, level)
    return weight_from_length(length_m, length_type, species, level)


def total_length_m(now: FishNow, species: Species) -> float:
    """Total length [m], from the fork length where that was taken."""
    factor = species.total_per_fork.mean if now.length_type == "fork" else 1.0
    return now.length_m * factor


def always_skinned(ctx: AppContext, species: Species) -> bool:
    """Whether such a fish is cut skin off: nobody eats the skin, or its way takes it."""
    return not species.skin_eaten or ctx.guide.plan_of(species).skinned


def skin_of(ctx: AppContext, fish: Fish) -> Skin:
    """Whether this fish is cut skin on or off."""
    skinned = always_skinned(ctx, ctx.guide.known_or_named(fish.species))
    return "off" if skinned or fish.skin == "off" else "on"


def to_cut(ctx: AppContext, fish: Fish, now: FishNow, species: Species) -> FishToCut:
    """The fish as the planner wants it: as it came to the table.

    What a ticked step made of it does not count, or the step would leave its own plan.
    """
    made = {ctx.guide.step_makes(species.key, step) for step in now.steps.split()}
    return FishToCut(
        round_weight(now, species).kg,
        total_length_m(now, species),
        skin_of(ctx, fish),
        frozenset(set(now.facts.split()) - made),
    )


@dataclass(frozen=True)
class SetAside:
    """A fish about which nothing can be worked out: it is shown as itself, with the reason."""

    fish: Fish
    now: FishNow
    reason: str

    @property
    def kind(self) -> str:
        """The name that its kind has in the file."""
        return str(self.fish.species).replace("_", " ")


def landed(ctx: AppContext, trip_id: str) -> Sequence[tuple[Fish, FishNow]]:
    """A trip's fish that stand and can be worked out, as they were landed.

    Read once for each state of the file and of the guide. Called inside an open transaction that
    has written nothing yet.
    """
    return _landed(ctx, trip_id)[0]


def set_aside(ctx: AppContext, trip_id: str) -> Sequence[SetAside]:
    """A trip's fish that stand and cannot be worked out. As `landed`."""
    return _landed(ctx, trip_id)[1]


def _landed(
    ctx: AppContext, trip_id: str
) -> tuple[Sequence[tuple[Fish, FishNow]], Sequence[SetAside]]:
    key = ("landed", trip_id, entries.last_key(), ctx.guide.edition)
    return ctx.memo.get(key, lambda: _sorted_out(ctx, trip_id))


def _sorted_out(ctx: AppContext, trip_id: str) -> tuple[list[tuple[Fish, FishNow]], list[SetAside]]:
    good, aside = [], []
    for fish, now in fishes.of_trip(trip_id):
        reason = why_not(ctx, fish, now)
        if reason:
            aside.append(SetAside(fish, now, reason))
        else:
            good.append((fish, now))
    return good, aside


def why_not(ctx: AppContext, fish: Fish, now: FishNow) -> str:
    """Why nothing can be worked out about a fish; "" when all can.

    A file may hold what today's doors would not let in: from an earlier Lepidos, or of a kind whose
    text in the crew's own guide no longer holds.
    """
    species = ctx.guide.species.get(fish.species)
    if species is None:
        why = ctx.own_problems.get(("species", fish.species), "the guide does not have it")
        return f"its kind, {str(fish.species).replace('_', ' ')}, cannot be used ({why})"
    if not EARLIEST <= fish.landed_at <= LATEST:
        return "the time of its landing cannot be"
    size = (now.whole_kg, now.gutted_kg, now.length_m, str(now.length_type))
    return _no_size(species, ctx.guide.body_of(species), *size)


_AS_LANDED = FishNow("", "", "", "slab", "", 0.0, "total", None, None, 0.0, 0.0, "")


@lru_cache(maxsize=4096)  # every fish of a trip is looked at after every change
def _no_size(
    species: Species,
    body: Body,
    whole_kg: float | None,
    gutted_kg: float | None,
    length_m: float,
    length_type: str,
) -> str:
    """Why such a size cannot be worked out, "" when it can."""
    now = _AS_LANDED._replace(
        length_m=length_m, length_type=length_type, whole_kg=whole_kg, gutted_kg=gutted_kg
    )
    try:
        cooling_body(body, total_length_m(now, species), round_weight(now, species).kg)
    except (LepidosError, ArithmeticError) as error:
        return str(error)
    return ""


def find_fish(ctx: AppContext, fish_id: str) -> tuple[Fish, FishNow]:
    """A fish as it is in the file, whether or not anything can be worked out. Raises Unknown."""
    with ctx.store.reading():
        return fishes.get(fish_id), fishes.now(fish_id)


def require_workable(ctx: AppContext, fish: Fish, now: FishNow) -> None:
    """Raises CannotWorkOut for a fish that is set aside."""
    if reason := why_not(ctx, fish, now):
        raise CannotWorkOut(str(fish.id), str(fish.code), reason)


def facts_by_fish(ctx: AppContext, trip_id: str) -> Mapping[str, Sequence[Fact]]:
    """By fish: the facts that stand, in the order in which they were so. As `landed`."""
    return ctx.memo.get(
        ("facts", trip_id, entries.last_key()), lambda: fishes.facts_of_trip(trip_id)
    )


def fact_words(ctx: AppContext, fish: Fish, fact: Fact) -> str:
    """What happened to a fish, as the history and an undo call it."""
    if fact.kind == fishes.STATE:
        return STATES[fact.name].word
    if fact.kind == fishes.STEP:
        return f"step “{ctx.guide.step_title(fish.species, fact.name)}”"
    if fact.kind == fishes.BOARD:
        return "to the board"
    if fact.kind == fishes.ANSWER:
        return "answer “it is so”"
    return {fishes.PAUSED: "wait", fishes.RESUMED: "going on"}.get(fact.name, "finish")


def when_done(now: datetime, fish: Fish, waited_s: float = 0.0) -> datetime:
    """When something was done to a fish, which may then have waited in a browser.

    Never before the fish was landed; and what did not wait is never before what was done to the
    fish last: a clock that went back would make it have no effect. In an open transaction.
    """
    at = max(fish.landed_at, now - min(LONGEST_WAIT, timedelta(seconds=max(0.0, waited_s))))
    if waited_s >= WAITED_S:
        return at
    return max(at, fishes.last_time(fish.id) or at)
