"""The bag plan in columns: by party, by the freezer that bags go to, or by the day of the catch."""

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date

from lepidos.core.pack.labels import short_date
from lepidos.stations.base.context import AppContext
from lepidos.stations.pack.planned import Column, PackTable, PlannedBag
from lepidos.store.freezer import places as place_store
from lepidos.store.pack import bags
from lepidos.store.records import Bag

PARTY, FREEZER, DAY = "party", "freezer", "day"
BY = {PARTY: "by party", FREEZER: "by freezer", DAY: "by day caught"}
NO_PLACE = "No freezer named yet"
OUT = "Taken out"


def columns_by(ctx: AppContext, found: PackTable, by: str) -> tuple[Column, ...]:
    """The same bags, in other columns. Anything but FREEZER and DAY is by party."""
    if by == DAY:
        days = {b.caught_on for c in found.columns for b in c.sealed}
        days |= {_caught(b) for b in _all_planned(found)}
        return _grouped(
            found,
            [short_date(day) for day in sorted(days)],
            lambda bag: short_date(_caught(bag)),
            lambda bag: short_date(bag.caught_on),
        )
    if by == FREEZER:
        return _by_freezer(ctx, found)
    return found.columns


def _by_freezer(ctx: AppContext, found: PackTable) -> tuple[Column, ...]:
    """Where bags lie; one that is not there yet goes where most of its party's bags went.

    Else to where the last bag of all went.
    """
    with ctx.store.reading():
        rows = bags.of_trip(found.view.trip.id, ("sealed", "in", "out"))
        names = {place.id: place.name for place, _ in place_store.places()}
        last = place_store.last_place()
    state = {bag.id: now for bag, now in rows}
    lie: dict[str, Counter[str]] = {}
    for bag, now in rows:
        if now.state == "in" and now.place_id:
            lie.setdefault(bag.party_id or "", Counter())[now.place_id] += 1

    def goes_to(party: str) -> str:
        theirs = lie.get(party)
        place = theirs.most_common(1)[0][0] if theirs else last
        return names.get(place, NO_PLACE)

    def lies(bag: Bag) -> str:
        now = state[bag.id]
        if now.state == "out":
            return OUT
        return names.get(now.place_id or "", "") or goes_to(bag.party_id or "")

    return _grouped(
        found,
        [*names.values(), NO_PLACE, OUT],
        lambda bag: goes_to(found.party_of(bag) or bag.party_id),
        lies,
    )


def _grouped(
    found: PackTable,
    names: Sequence[str],
    of_planned: Callable[[PlannedBag], str],
    of_sealed: Callable[[Bag], str],
) -> tuple[Column, ...]:
    every = [bag for column in found.columns for bag in column.sealed]
    coming = [row for column in found.columns for row in column.to_come]
    columns = [
        replace(
            found.columns[0],
            party_id="",
            name=name,
            planned=tuple(bag for bag in found.planned if of_planned(bag) == name),
            sealed=tuple(bag for bag in every if of_sealed(bag) == name),
            to_come=tuple(row for row in coming if of_planned(row.example) == name),
        )
        for name in names
    ]
    return tuple(c for c in columns if c.planned or c.sealed or c.to_come) or found.columns


def _all_planned(found: PackTable) -> list[PlannedBag]:
    return [*found.planned, *(row.example for c in found.columns for row in c.to_come)]


def _caught(bag: PlannedBag) -> date:
    return bag.rows[0].caught_on
