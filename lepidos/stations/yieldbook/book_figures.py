"""What the book calculates from the fish that were asked for: groups, parts, lines, hands."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from lepidos.core.fish.species import Fraction
from lepidos.core.yields.balance import LEVEL, expected_fraction
from lepidos.core.yields.common_ground import OfHand, on_common_ground
from lepidos.core.yields.forecast import FILLET, Learned
from lepidos.core.yields.partial_pooling import Observation, pool
from lepidos.core.yields.stages import StageYield, stage_yield
from lepidos.core.yields.with_size import MIN_FISH, Leans, leans
from lepidos.stations.base.context import AppContext
from lepidos.stations.yieldbook.given import Given


@dataclass(frozen=True)
class BookSelection:
    """What is to be shown. `year` 0 is the newest, -1 all; "" is everything.

    `by` is a key of `BY`, or "method." and a method. `over` and `under` are stages; "" is
    what most of the fish have.
    """

    year: int = 0
    species: str = ""
    cutter: str = ""
    party: str = ""
    by: str = "species"
    over: str = ""
    under: str = "round"
    order: str = "newest"
    page: int = 1


@dataclass(frozen=True)
class BookGroup:
    """Fish put together: what they share, their yield, their minutes per fish (the middle one)."""

    name: str
    fish: int
    round_kg: float
    yields: StageYield | None
    minutes: float | None


@dataclass(frozen=True)
class Dot:
    """A fish on a chart: round weight [kg], minutes per kilogram, and its yield."""

    code: str
    kg: float
    minutes_per_kg: float | None
    share: float


def _state(g: Given) -> str:
    told = [word for word in ("bled", "gutted", "headed") if word in g.row.facts.split()]
    return " and ".join(told) or "as it came"


# What fish may be put together by: its name, and how it is told of a fish.
BY: dict[str, tuple[str, Callable[[Given], str]]] = {
    "species": ("species", lambda g: str(g.species.name)),
    "size": ("size", lambda g: str(g.size)),
    "cutter": ("cutter", lambda g: g.row.cutter or "no board"),
    "party": ("party", lambda g: g.row.party or "no party"),
    "purpose": ("purpose", lambda g: g.row.purpose or "not said"),
    "tool": ("tools to hand", lambda g: g.row.tools or "as the plan says"),
    "state": ("state", lambda g: _state(g)),
    "month": ("month", lambda g: f"{g.row.on_date:%B}"),
    "trip": ("trip", lambda g: f"{g.row.on_date:%Y-%m-%d} {g.row.trip}"),
}
METHOD = "method."  # and a method's key: its ways


def share_of(fish: Given, asked: BookSelection) -> float | None:
    """A fish's own yield of the stages that were asked for; None: it does not have both."""
    over, under = fish.masses.get(asked.over), fish.masses.get(asked.under)
    return over / under if over is not None and under else None


def _teller(by: str) -> Callable[[Given], str]:
    """What tells of a fish in which group it is."""
    if by.startswith(METHOD):
        key = by.removeprefix(METHOD)
        return lambda g: g.row.methods.get(key, "as usual")
    return BY.get(by, BY["species"])[1]


def usual_numerator(fish: Sequence[Given]) -> str:
    """The numerator that most fish have: their fillets, with the skin or without."""
    on = sum("skin_on" in g.masses for g in fish)
    return "skin_on" if on >= sum("skinless" in g.masses for g in fish) else "skinless"


def yield_of(fish: Sequence[Given], asked: BookSelection) -> StageYield | None:
    pairs = [
        (g.masses[asked.over], g.masses[asked.under])
        for g in fish
        if asked.over in g.masses and asked.under in g.masses
    ]
    return stage_yield(pairs, asked.over, asked.under)


def groups_of(fish: Sequence[Given], asked: BookSelection) -> tuple[BookGroup, ...]:
    name = _teller(asked.by)
    by_name: dict[str, list[Given]] = {}
    for g in fish:
        by_name.setdefault(name(g), []).append(g)
    groups = [
        BookGroup(
            name,
            len(some),
            math.fsum(g.round_kg for g in some),
            yield_of(some, asked),
            _middle([g.minutes for g in some if g.minutes is not None]),
        )
        for name, some in by_name.items()
    ]
    # by the low end of the interval: one lucky fish never tops the list
    return tuple(sorted(groups, key=lambda g: (-_low(g.yields), -g.fish, g.name)))


def _low(found: StageYield | None) -> float:
    return -1.0 if found is None or found.low is None else found.low


def _middle(values: list[float]) -> float | None:
    ordered = sorted(values)
    return ordered[len(ordered) // 2] if ordered else None


def parts_of(ctx: AppContext, fish: Sequence[Given]) -> tuple[tuple[str, float, float], ...]:
    """Where whole fish that were weighed went: piece, kg, and its part of their round weight."""
    whole = [g for g in fish if not (g.estimated or g.row.doubt)]
    total = math.fsum(g.round_kg for g in whole)
    if not total:
        return ()
    kg: dict[str, float] = {}
    for g in whole:
        for piece, mass in g.row.parts.items():
            kg[piece] = kg.get(piece, 0.0) + mass
    rows = [(str(ctx.guide.piece(p).plural), m, m / total) for p, m in kg.items()]
    rows.sort(key=lambda row: -row[1])
    left = total - math.fsum(kg.values())
    return (*rows, ("not weighed, drip", left, left / total))


def dots_of(fish: Sequence[Given], asked: BookSelection) -> list[Dot]:
    found = []
    for g in fish:
        share = share_of(g, asked)
        if share is not None:
            pace = g.minutes / g.round_kg if g.minutes else None
            found.append(Dot(g.row.code, g.round_kg, pace, share))
    return found


def band_of(
    taught: Learned, asked: BookSelection, dots: Sequence[Dot]
) -> tuple[tuple[float, float, float, float], ...]:
    """Round weight, low, middle, high of what such fish give."""
    if asked.under != "round" or asked.over not in {"skin_on", "skinless"} or not dots:
        return ()
    least, most = min(d.kg for d in dots), max(d.kg for d in dots)
    steps = [least * (most / least) ** (n / 12) for n in range(13)] if most > least else [least]
    found = []
    for kg in steps:
        middle, low, high = expected_fraction(_foreseen(taught, asked, kg), LEVEL)
        found.append((kg, low, middle, high))
    return tuple(found)


def bigger_give(asked: BookSelection, dots: Sequence[Dot], taught: Learned | None) -> Leans | None:
    if taught is None or asked.under != "round" or len(dots) < MIN_FISH:
        return None
    name = FILLET["off" if asked.over == "skinless" else "on"]
    prior = taught.prior_of_part(name)
    middle = math.fsum(math.log(d.kg) for d in dots) / len(dots)
    seen = [
        Observation("", math.log(d.share / (1 - d.share)), math.log(d.kg) - middle)
        for d in dots
        if 0.01 < d.share < 0.99
    ]
    return leans(pool(seen, prior).slope(0.9)) if prior and seen else None


def hands_of(
    fish: Sequence[Given], asked: BookSelection, taught: Learned | None
) -> tuple[OfHand, ...]:
    """Of one species: its cutters, as if all had cut the same fish."""
    total = yield_of(fish, asked)
    if taught is None or total is None or asked.under != "round":
        return ()
    if not 0.01 < total.fraction < 0.99:
        return ()  # slips: no hand gives all of a fish
    expected: dict[float, float] = {}
    rows = []
    for g in fish:
        share = share_of(g, asked)
        if share is None or not 0.01 < share < 0.99 or not g.row.cutter:
            continue
        kg = round(g.round_kg, 1) or 0.1
        if kg not in expected:
            expected[kg] = _foreseen(taught, asked, kg).mean
        rows.append((g.row.cutter, share, expected[kg]))
    return tuple(on_common_ground(rows, total.fraction)) if rows else ()


def _foreseen(taught: Learned, asked: BookSelection, kg: float) -> Fraction:
    yields = taught.species_for("", kg).yields
    return yields.fillet_skin_on if asked.over == "skin_on" else yields.fillet_skinless
