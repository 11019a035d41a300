"""Every fish: stage yields by any of what is known of them, sorted, filtered, and out as a file."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from lepidos.core.fish.species import Species
from lepidos.core.pack.costs import each
from lepidos.core.yields.common_ground import OfHand
from lepidos.core.yields.stages import STAGES, StageYield, stage_table
from lepidos.core.yields.with_size import Leans, goes_with
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.money import currency, shown
from lepidos.stations.table.forecasts import finished_mark, learned
from lepidos.stations.yieldbook.book_figures import (
    BookGroup,
    BookSelection,
    Dot,
    band_of,
    bigger_give,
    dots_of,
    groups_of,
    hands_of,
    parts_of,
    share_of,
    usual_numerator,
    yield_of,
)
from lepidos.stations.yieldbook.given import (
    Given,
    costs_of_trips,
    finished_fish,
    finished_years,
    latest_year,
    portions_of,
)

ALL_YEARS = -1
PAGE = 60
MAX_DOTS = 400  # drawn; the table has all
ORDERS: dict[str, tuple[str, Callable[[Given, BookSelection], Any]]] = {
    "newest": ("newest first", lambda g, a: _back(g.row.fish_id)),
    "yield": ("yield", lambda g, a: -(share_of(g, a) or 0.0)),
    "least": ("yield, least first", lambda g, a: share_of(g, a) or 9.9),
    "weight": ("round weight", lambda g, a: -g.round_kg),
    "species": ("species", lambda g, a: (str(g.species.name), g.row.fish_id)),
    "minutes": ("minutes", lambda g, a: -(g.minutes or 0.0)),
}


@dataclass(frozen=True)
class Choices:
    """What may be chosen."""

    years: tuple[int, ...]
    species: tuple[tuple[str, str], ...]
    cutters: tuple[str, ...]
    parties: tuple[str, ...]


@dataclass(frozen=True)
class EveryFish:
    """Fish as they were asked for. `band`: of one species, by round weight what 80 of 100 such
    fish give, learned; `hands` its cutters on common ground.
    """

    asked: BookSelection
    choices: Choices
    fish: tuple[Given, ...]
    shown: tuple[Given, ...]
    pages: int
    groups: tuple[BookGroup, ...]
    stages: tuple[StageYield, ...]
    total: StageYield | None
    parts: tuple[tuple[str, float, float], ...]
    dots: tuple[Dot, ...]
    band: tuple[tuple[float, float, float, float], ...]
    bigger: Leans | None
    slower: Leans | None
    hands: tuple[OfHand, ...]

    @property
    def finding(self) -> str:
        """What the figures say first."""
        if self.total is None:
            return "No fish has both weights yet"
        t = self.total
        said = f"{_percent(t.fraction)} {STAGES[t.numerator]}, of {STAGES[t.denominator]}"
        if t.low is not None and t.high is not None:
            said += f" ({_percent(t.low)} to {_percent(t.high)})"
        return said


def _percent(share: float) -> str:
    return f"{share * 100:.1f} %"


def view_fish(ctx: AppContext, asked: BookSelection) -> EveryFish:
    """The book of every finished fish."""
    with ctx.store.reading():
        years = finished_years()
        year = asked.year if asked.year in years or asked.year == ALL_YEARS else latest_year(years)
        chosen = sorted(years) if year == ALL_YEARS else [year] if year in years else []
        rows = [g for y in chosen for g in finished_fish(ctx, y, years[y])]
        asked = replace(asked, year=year)
        marks = tuple((y, years[y]) for y in chosen)
        key = ("every fish", marks, finished_mark(ctx), ctx.guide.edition, replace(asked, page=1))
        whole = ctx.memo.get(key, lambda: _view(ctx, asked, rows, tuple(sorted(years))), most=12)
    page = max(1, min(asked.page, whole.pages))
    on_page = whole.fish[(page - 1) * PAGE : page * PAGE]
    return replace(whole, asked=replace(whole.asked, page=page), shown=on_page)


def _view(
    ctx: AppContext, asked: BookSelection, rows: list[Given], years: tuple[int, ...]
) -> EveryFish:
    choices = Choices(
        years[::-1],
        tuple(sorted({(str(g.species.name), g.row.species) for g in rows})),
        tuple(sorted({g.row.cutter for g in rows if g.row.cutter})),
        tuple(sorted({g.row.party for g in rows if g.row.party})),
    )
    fish = [
        g
        for g in rows
        if (not asked.species or g.row.species == asked.species)
        and (not asked.cutter or g.row.cutter == asked.cutter)
        and (not asked.party or g.row.party == asked.party)
    ]
    asked = replace(asked, over=asked.over if asked.over in STAGES else usual_numerator(fish))
    one = ctx.guide.known_or_named(asked.species) if asked.species else None
    taught = learned(ctx, one) if one else None
    dots = dots_of(fish, asked)
    with_time = [d for d in dots if d.minutes_per_kg]
    return EveryFish(
        asked,
        choices,
        tuple(sorted(fish, key=lambda g: ORDERS.get(asked.order, ORDERS["newest"])[1](g, asked))),
        (),
        max(1, math.ceil(len(fish) / PAGE)),
        groups_of(fish, asked),
        tuple(stage_table([g.masses for g in fish])),
        yield_of(fish, asked),
        parts_of(ctx, fish),
        tuple(dots[-MAX_DOTS:]),
        band_of(taught, asked, dots) if taught else (),
        bigger_give(asked, dots, taught),
        goes_with([d.minutes_per_kg or 0.0 for d in with_time], [d.share for d in with_time]),
        hands_of(fish, asked, taught),
    )


def _back(fish_id: str) -> tuple[int, ...]:
    """Sorts keys the newest first."""
    return tuple(-ord(c) for c in fish_id)


def species_named(ctx: AppContext, asked: BookSelection) -> Species | None:
    """The species that was asked for, if one was."""
    return ctx.guide.known_or_named(asked.species) if asked.species else None


@dataclass(frozen=True)
class FishCost:
    """What the trips of some fish cost: in all, per serving, per kilogram in bags, as amounts."""

    total: str
    portion: str
    kilogram: str
    trips: int


def cost_of(ctx: AppContext, found: EveryFish) -> FishCost | None:
    """Of all fish of the trips with costs noted, whatever was asked for; None: none has any.

    Portions and kilograms are those of these trips' bags: a cost is a trip's, not a fish's.
    """
    with ctx.store.reading():
        noted = costs_of_trips({g.row.trip_id for g in found.fish})
        if not noted:
            return None
        portions, kg = portions_of(noted)
        code = currency()
    coins = sum(noted.values())
    per = [each(coins, number) for number in (portions, kg)]
    portion, kilogram = ("" if one is None else shown(one, code) for one in per)
    return FishCost(shown(coins, code), portion, kilogram, len(noted))
