"""Every finished fish of every trip: what it weighed at each stage, who cut it, and how."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from lepidos.core.catch.size_class import Size, size_of
from lepidos.core.cutting.model import Skin
from lepidos.core.errors import CannotWorkOut, OutOfRange
from lepidos.core.fish.species import Species
from lepidos.core.yields.stages import stage_masses
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import always_skinned, round_weight
from lepidos.store.records import FishNow
from lepidos.store.trips import trips
from lepidos.store.yieldbook import given
from lepidos.store.yieldbook.given import GivenRow

BONES_OUT = frozenset({"pin_bones", "pin_bones_pulled"})
KEPT_YEARS = 60


@dataclass(frozen=True)
class Given:
    """A finished fish [kg]. `masses` by stage, measured or following from what was measured;
    `round_kg` may be an estimate, then `masses` has no "round". `meat_kg` is all that is eaten.
    """

    row: GivenRow
    species: Species
    round_kg: float
    masses: Mapping[str, float]
    meat_kg: float
    skin: Skin
    size: Size

    @property
    def estimated(self) -> bool:
        """Whether its round weight was never weighed."""
        return "round" not in self.masses

    @property
    def minutes(self) -> float | None:
        """At the board."""
        return None if self.row.seconds is None else self.row.seconds / 60


def finished_years() -> dict[int, tuple[int, int]]:
    """Years with finished fish, and what stands for each. Called in an open transaction."""
    return given.marks()


def finished_fish(ctx: AppContext, year: int, mark: tuple[int, int]) -> tuple[Given, ...]:
    """Of a year, calculated once until one of them changes. Called in an open transaction."""
    key = ("given", year, mark, ctx.guide.edition)
    return ctx.memo.get(key, lambda: _of_year(ctx, year), most=KEPT_YEARS)


def _of_year(ctx: AppContext, year: int) -> tuple[Given, ...]:
    skinned: dict[str, bool] = {}
    found = []
    for row in given.of_year(year):
        species = ctx.guide.known_or_named(row.species)
        if row.species not in skinned:
            skinned[row.species] = always_skinned(ctx, species)
        one = _given(ctx, row, species, skinned[row.species])
        if one is not None:
            found.append(one)
    return tuple(found)


def _given(ctx: AppContext, row: GivenRow, species: Species, skinned: bool) -> Given | None:
    now = FishNow(
        row.fish_id, row.trip_id, row.species, "done", "", row.length_m, row.length_type,
        row.whole_kg, row.gutted_kg, 0.0, row.fillet_kg, "",
    )  # fmt: skip
    try:
        round_kg = round_weight(now, species).kg
        size = size_of(round_kg, species)
    except (OutOfRange, CannotWorkOut):
        return None
    skin: Skin = "off" if skinned or row.skin == "off" else "on"
    boneless = bool(BONES_OUT & set(row.steps.split()))
    # a fish whose pieces were for different purposes has fillets of two kinds, one weighed before
    # it was trimmed has none that is finished, one judged by eye none at all: no stage of its own
    fillet_kg = row.fillet_kg if row.alike and not row.doubt else 0.0
    masses = stage_masses(
        row.whole_kg,
        row.gutted_kg,
        row.parts,
        fillet_kg,
        "off" if skin == "off" else "on",
        boneless,
    )
    meat = sum(kg for p, kg in row.parts.items() if ctx.guide.piece(p).counts_as != "rest")
    return Given(row, species, round_kg, masses, meat, skin, size)


def costs_of_trips(trip_ids: set[str]) -> dict[str, int]:
    """Of these trips, those with costs noted: what they came to, in the smallest coin."""
    return {trip: coins for trip, coins in given.costs().items() if trip in trip_ids}


def portions_of(trip_ids: Iterable[str]) -> tuple[float, float]:
    """Servings and kilograms in the bags of these trips."""
    return given.portions(list(trip_ids))


def latest_year(years: Mapping[int, object]) -> int:
    """The newest of years; of the newest trip where there is none."""
    if years:
        return max(years)
    newest = trips.latest()
    return newest.on_date.year if newest else 0
