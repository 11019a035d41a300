"""Rule cards: writing them down, and holding the day's fish against them."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from datetime import date, datetime, timedelta
from typing import cast
from zoneinfo import ZoneInfo

from lepidos.core.catch.rule_cards import (
    Filleting,
    RuleCard,
    SizeVerdict,
    Tallies,
    check_card,
    in_season,
    is_stale,
    size_verdict,
    tallies,
)
from lepidos.core.errors import Refused
from lepidos.core.fish.lengths import length_name
from lepidos.core.fish.species import LengthType, Species
from lepidos.core.pack.labels import count
from lepidos.core.units import System, format_length
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import FLAT
from lepidos.stations.deck.lots import landed_with
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store.base.earlier import Act
from lepidos.store.deck import fishes, rulecards
from lepidos.store.records import Fish, FishNow, RuleCardRow, Trip
from lepidos.store.trips import trips

POSSESSION_OVER = timedelta(days=14)  # earlier trips that count towards possession (practice)


@dataclass(frozen=True)
class CardView:
    """A card with today's counts, and whether it is in season and asks to be checked again."""

    id: str
    card: RuleCard
    species: Species | None
    tallies: Tallies
    in_season: bool
    stale: bool


@dataclass(frozen=True)
class SaveCard:
    """A card to write, new or over the card `card_id`. Seasons as [month, day].

    What is left out the card does not speak of.
    """

    card: RuleCard = field(metadata=FLAT)
    card_id: str = ""


def save_card(ctx: AppContext, key: str, order: SaveCard) -> Receipt:
    """Write a card. Raises Refused with the fields that cannot be, Unknown."""

    def do(at: datetime) -> Receipt:
        card = order.card
        problems = check_card(card, at.astimezone(ZoneInfo(ctx.timezone)).date())
        if card.species not in ctx.guide.species:
            problems["species"] = "Choose which fish the card is for"
        other = rulecards.other_id(card.species, card.area.strip())
        if other is not None and other != order.card_id:
            problems["area"] = "There is a card for this fish and water already; change that one"
        if problems:
            raise Refused(problems)
        values = asdict(card) | {
            "area": card.area.strip(),
            "season_from": _day_text(card.season_from),
            "season_to": _day_text(card.season_to),
        }
        name = ctx.guide.one(card.species).name
        if order.card_id:
            row, act = rulecards.get(order.card_id), Act(ctx.ids, at)
            act.keep("rule_card", [row.id])
            rulecards.change(row, **values)
            return Receipt("change", act.id, f"Rule card for {name} changed")
        row = rulecards.add(ctx.ids, at, **values)
        Act(ctx.ids, at).made("rule_card", [row.id])
        return Receipt("new card", row.id, f"Rule card for {name} written")

    return run_idempotent(ctx, key, "rules.save", order, do)


@dataclass(frozen=True)
class RemoveCard:
    """An order to throw a card away."""

    card_id: str


def remove_card(ctx: AppContext, key: str, order: RemoveCard) -> Receipt:
    """Throw a card away. Raises Unknown."""

    def do(at: datetime) -> Receipt:
        row = rulecards.get(order.card_id)
        act = Act(ctx.ids, at)
        act.keep("rule_card", [row.id])
        rulecards.remove(row.id)
        kind = row.species.replace("_", " ")
        return Receipt("change", act.id, f"Rule card for {kind} thrown away")

    return run_idempotent(ctx, key, "rules.remove", order, do)


def list_cards(ctx: AppContext, trip_id: str | None) -> tuple[TripView | None, list[CardView]]:
    """Every card, with the counts of a trip where one is given. Raises Unknown."""
    with ctx.store.reading():
        view = view_in_transaction(ctx, trip_id) if trip_id else None
        landed = fishes.of_trip(trip_id) if trip_id else []
        trip = view.trip if view else None
        people = [p.name for p in view.people] if view else []
        names = {p.id: p.name for p in view.people} if view else {}
        found = [_card_view(ctx, row, trip, landed, people, names) for row in rulecards.every()]
    return view, found


def get_card(ctx: AppContext, card_id: str) -> RuleCard:
    """One card. Raises Unknown."""
    with ctx.store.reading():
        return card_of(rulecards.get(card_id))


@dataclass(frozen=True)
class RuleVerdict:
    """What a card says of one fish, in one sentence; `presses` when a limit is touched."""

    card_id: str
    text: str
    presses: bool


def verdicts(
    ctx: AppContext,
    fish: Fish,
    now: FishNow,
    system: System,
) -> tuple[RuleVerdict, ...]:
    """A fish against its species' cards, sizes first. Called inside an open transaction."""
    species = ctx.guide.one(fish.species)
    found: list[RuleVerdict] = []
    for row in rulecards.of_species(fish.species):
        card = card_of(row)
        if not in_season(card, fish.landed_at.astimezone(ZoneInfo(ctx.timezone)).date()):
            text = f"{card.area}: out of the card's season."
            found.append(RuleVerdict(row.id, text, True))
        size = _size_of(card, now, species)
        if size is not None and now.length_about and not _ends_within(card, fish, species):
            text = f"{card.area}: this card limits the size. Measure this fish."
            found.append(RuleVerdict(row.id, text, True))
        elif size is not None:
            found.append(
                RuleVerdict(row.id, _size_text(card, size, system), size.stand != "within")
            )
    return tuple(found)


def _size_of(card: RuleCard, now: FishNow, species: Species) -> SizeVerdict | None:
    return size_verdict(card, now.length_m, cast(LengthType, now.length_type), species)


def _ends_within(card: RuleCard, fish: Fish, species: Species) -> bool:
    """Whether a fish was landed with others between two that were measured, both within a card."""
    ends = [now for _, now in landed_with(fish) if not now.length_about]
    sizes = [_size_of(card, now, species) for now in ends]
    return bool(ends) and all(size is None or size.stand == "within" for size in sizes)


def full_cards(ctx: AppContext, trip: Trip, species: str, person: str) -> tuple[str, ...]:
    """Sentences about the limits of a species that a person or the boat has reached.

    Called inside an open transaction.
    """
    cards = rulecards.of_species(species)
    if not cards:
        return ()
    landed = fishes.of_trip(trip.id)
    people = trips.people_of(trip.id)
    names = {p.id: p.name for p in people}
    found = []
    for row in cards:
        view = _card_view(ctx, row, trip, landed, [p.name for p in people], names)
        for tally in view.tallies.full:
            if tally.who in {person, "the boat"}:
                over = f", {tally.kept - tally.limit} over" if tally.left < 0 else ""
                found.append(
                    f"{view.card.area}: {tally.who} now {count(tally.kept, 'fish', 'fish')} "
                    f"of the card's {tally.limit}{over}"
                )
    return tuple(found)


def cutting_notes(species: str) -> tuple[str, ...]:
    """What the cards of a species say to the knife. Called inside an open transaction."""
    found = []
    for row in rulecards.of_species(species):
        if row.fillet_at_sea == "no":
            found.append(f"{row.area}: no filleting at sea, your card says.")
        if row.skin_patch:
            found.append(f"{row.area}: leave a patch of skin on each fillet, your card says.")
        if row.keep_carcass:
            found.append(f"{row.area}: keep the carcass for inspection, your card says.")
    return tuple(found)


def card_of(row: RuleCardRow) -> RuleCard:
    """A stored card as the core's value."""
    return RuleCard(
        species=row.species,
        area=row.area,
        source=row.source,
        checked_on=row.checked_on,
        season_from=_day_of(row.season_from),
        season_to=_day_of(row.season_to),
        length_type=cast(LengthType, row.length_type),
        min_cm=row.min_cm,
        max_cm=row.max_cm,
        per_person=row.per_person,
        per_boat=row.per_boat,
        possession=row.possession,
        fillet_at_sea=cast(Filleting, row.fillet_at_sea),
        skin_patch=row.skin_patch,
        keep_carcass=row.keep_carcass,
        note=row.note,
    )


def _card_view(
    ctx: AppContext,
    row: RuleCardRow,
    trip: Trip | None,
    landed: Sequence[tuple[Fish, FishNow]],
    people: Sequence[str],
    names: dict[str, str],
) -> CardView:
    card = card_of(row)
    today = ctx.clock().astimezone(ZoneInfo(ctx.timezone)).date()
    caught = [names.get(f.caught_by_id or "", "") for f, _ in landed if f.species == card.species]
    before: dict[str, int] = {}
    if trip is not None and card.possession is not None:
        earlier = trips.other_trips_since(trip.id, trip.on_date - POSSESSION_OVER)
        before = rulecards.caught_by_name([t.id for t in earlier], card.species)
    day: date = trip.on_date if trip else today
    return CardView(
        row.id,
        card,
        ctx.guide.species.get(card.species),
        tallies(card, caught, before, people),
        in_season(card, day),
        is_stale(card, today),
    )


def _size_text(card: RuleCard, size: SizeVerdict, system: System) -> str:
    limit = format_length(size.limit_cm / 100, system)
    length = format_length(size.length_cm / 100, system)
    how = f"{length} {length_name(card.length_type)}"
    if size.converted:
        how = f"about {how}, calculated from the other length"
    if size.stand == "near":
        return (
            f"{card.area}: {how}, within measuring error of the card's {size.limit} size, {limit}. "
            "Measure again."
        )
    if size.stand == "within":
        return f"{card.area}: {how}; the card's {size.limit} size is {limit}."
    side = "under" if size.stand == "under" else "over"
    return f"{card.area}: {how}, {side} the card's {size.limit} size, {limit}."


def _day_text(day: tuple[int, int] | None) -> str:
    return f"{day[0]:02d}-{day[1]:02d}" if day else ""


def _day_of(text: str) -> tuple[int, int] | None:
    if not text:
        return None
    month, _, day = text.partition("-")
    return int(month), int(day)
