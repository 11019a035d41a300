"""Rule cards: the crew's own notes of sizes, seasons and limits, and what a fish is against them.

The software compares and says by how much; what follows from it, local law decides. A length is
only as good as its measuring, so a fish within that error of a limit is said to be so.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Annotated, Literal

from annotated_types import MaxLen

from lepidos.core.fish.lengths import KINDS_OF_LENGTH, LENGTHS, ratio_spread, to_length_type
from lepidos.core.fish.species import LengthType, Species

MEASURING_SD_CM = 0.4  # one length on a wet board (memory)
WITHIN = 1.96  # standard deviations: 95 %
STALE_AFTER = timedelta(days=120)  # about a season (practice)
MAX_COUNT = 10_000
MAX_NOTE = 600  # letters

Stand = Literal["under", "near", "over", "within"]
Filleting = Literal["", "no", "yes"]


@dataclass(frozen=True)
class RuleCard:
    """A card. None and "" mean: the card says nothing about it.

    Season as (month, day), ends included; it may run over the new year.
    """

    species: str
    area: str
    source: str
    checked_on: date
    season_from: tuple[int, int] | None = None
    season_to: tuple[int, int] | None = None
    length_type: LengthType = "total"
    min_cm: float | None = None
    max_cm: float | None = None
    per_person: int | None = None
    per_boat: int | None = None
    possession: int | None = None
    fillet_at_sea: Filleting = ""
    skin_patch: bool = False
    keep_carcass: bool = False
    note: Annotated[str, MaxLen(MAX_NOTE)] = ""


def check_card(card: RuleCard, today: date) -> dict[str, str]:
    """What cannot be on a card, by field; empty when all of it can."""
    problems: dict[str, str] = {}
    for name, text in (("area", card.area), ("source", card.source)):
        if not text.strip():
            problems[name] = "Say which water" if name == "area" else "Say where the rule stands"
    for name, cm in (("min_cm", card.min_cm), ("max_cm", card.max_cm)):
        if cm is not None and not 1 <= cm <= 500:
            problems[name] = "Check this length and its unit; it is out of range"
    if card.min_cm is not None and card.max_cm is not None and card.min_cm > card.max_cm:
        problems["max_cm"] = "The largest size is below the smallest; change one of them"
    for name, count in (
        ("per_person", card.per_person),
        ("per_boat", card.per_boat),
        ("possession", card.possession),
    ):
        if count is not None and not 0 <= count <= MAX_COUNT:
            problems[name] = "A whole number of fish"
    if (card.season_from is None) != (card.season_to is None):
        problems["season_to"] = "Give the first and the last day of the season, or neither"
    for name, day in (("season_from", card.season_from), ("season_to", card.season_to)):
        if day is not None and not _is_day(day):
            problems[name] = "That day is not in the calendar"
    if card.length_type not in LENGTHS:
        problems["length_type"] = f"Say {KINDS_OF_LENGTH}"
    if card.fillet_at_sea not in {"", "no", "yes"}:
        problems["fillet_at_sea"] = "Say yes, no, or nothing"
    if card.checked_on > today:
        problems["checked_on"] = "That day is still to come"
    return problems


def _is_day(day: tuple[int, int]) -> bool:
    try:
        date(2024, *day)  # a leap year: 29 February may end a season
    except (ValueError, OverflowError):
        return False
    return True


def in_season(card: RuleCard, day: date) -> bool:
    """Whether a day lies in the card's season; a card without one is always in season."""
    if card.season_from is None or card.season_to is None:
        return True
    here = (day.month, day.day)
    if card.season_from <= card.season_to:
        return card.season_from <= here <= card.season_to
    return here >= card.season_from or here <= card.season_to


def is_stale(card: RuleCard, today: date) -> bool:
    """Whether the card was last checked more than a season ago: rules change."""
    return today - card.checked_on > STALE_AFTER


@dataclass(frozen=True)
class SizeVerdict:
    """A length against a card's sizes [cm, of the card's length type], with its error's SD.

    `converted` says that the fish was measured the other way and its length calculated.
    """

    stand: Stand
    length_cm: float
    sd_cm: float
    limit_cm: float
    limit: Literal["smallest", "largest"]
    converted: bool


def size_verdict(
    card: RuleCard, length_m: float, length_type: LengthType, species: Species
) -> SizeVerdict | None:
    """How a fish stands to the nearest of a card's sizes; None when the card has none.

    "under" and "over" are beyond the measuring error, "near" within it.
    """
    if card.min_cm is None and card.max_cm is None:
        return None
    cm, sd, converted = _as(length_m * 100, length_type, card.length_type, species)
    limits: list[tuple[float, Literal["smallest", "largest"]]] = []
    if card.min_cm is not None:
        limits.append((card.min_cm, "smallest"))
    if card.max_cm is not None:
        limits.append((card.max_cm, "largest"))
    limit, which = min(limits, key=lambda pair: abs(cm - pair[0]))
    off = cm - limit
    stand: Stand = "within"
    if abs(off) <= WITHIN * sd:
        stand = "near"
    elif which == "smallest" and off < 0:
        stand = "under"
    elif which == "largest" and off > 0:
        stand = "over"
    return SizeVerdict(stand, cm, sd, limit, which, converted)


def _as(
    cm: float, measured: LengthType, wanted: LengthType, species: Species
) -> tuple[float, float, bool]:
    if measured == wanted:
        return cm, MEASURING_SD_CM, False
    found = to_length_type(cm, measured, wanted, species.total_per)
    # relative error of the ratio, and the measuring error carried along
    spread = ratio_spread(measured, wanted, species.total_per)
    return found, math.hypot(found * spread, MEASURING_SD_CM * found / cm), True


@dataclass(frozen=True)
class Tally:
    """Fish kept against a limit, of one person or of the boat."""

    who: str
    kept: int
    limit: int

    @property
    def left(self) -> int:
        """How many more the card leaves; negative when over."""
        return self.limit - self.kept


@dataclass(frozen=True)
class Tallies:
    """A card's counts today: each person's, the boat's, and what each has from earlier days."""

    persons: tuple[Tally, ...] = ()
    boat: Tally | None = None
    possession: tuple[Tally, ...] = field(default=())

    @property
    def full(self) -> tuple[Tally, ...]:
        """Those that are at their limit or over."""
        every = (*self.persons, *((self.boat,) if self.boat else ()), *self.possession)
        return tuple(t for t in every if t.left <= 0)


def tallies(
    card: RuleCard,
    caught_today: Sequence[str],
    kept_before: Mapping[str, int],
    people: Sequence[str],
) -> Tallies:
    """Count a card's fish.

    Args:
        caught_today: Who caught each of today's fish of the card's species, "" when not noted.
        kept_before: By person, fish of earlier days that are still kept.
        people: Who is aboard; those with no fish are counted too.
    """
    by_person = dict.fromkeys(people, 0)
    for name in caught_today:
        by_person[name] = by_person.get(name, 0) + 1
    persons: tuple[Tally, ...] = ()
    if card.per_person is not None:
        limit = card.per_person
        persons = tuple(Tally(name or "not noted", kept, limit) for name, kept in by_person.items())
    boat = None
    if card.per_boat is not None:
        boat = Tally("the boat", len(caught_today), card.per_boat)
    possession: tuple[Tally, ...] = ()
    if card.possession is not None:
        limit = card.possession
        possession = tuple(
            Tally(name, kept + kept_before.get(name, 0), limit)
            for name, kept in by_person.items()
            if name
        )
    return Tallies(persons, boat, possession)
