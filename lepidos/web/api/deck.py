"""The deck over the API: landing, states, probe, looks, rule cards.

`/live/changes` streams a mark by server-sent events whenever anything changed.
"""

from datetime import date, datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Request
from pydantic import Field, FiniteFloat

from lepidos.core.catch.rule_cards import RuleCard
from lepidos.core.errors import Refused
from lepidos.core.fish.species import LengthType
from lepidos.stations.deck import (
    card,
    catch_import,
    handling,
    landing,
    landing_check,
    rule_cards,
    slab,
)
from lepidos.stations.guide import nearest
from lepidos.web.api.shapes import DoneOut, In, Instant, Key, Mass, Out, Text, done_out
from lepidos.web.api.views import deck as deck_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


class FishIn(In):
    """A fish to land. Without `weight_kg` it is estimated from the length.

    `called`: a fish that the guide lacks, by this name or "" for none, of which `species` is the
    kind nearest to it.
    """

    species: Text
    length_cm: Annotated[FiniteFloat, Field(gt=0, le=2000)]
    length_type: LengthType = "total"
    weight_kg: Mass | None = None
    weighed_as: Literal["whole", "gutted"] = "whole"
    party_id: Text = ""
    caught_by: Text = ""
    landed_at: datetime | None = None
    hooked_at: datetime | None = None
    states: tuple[Text, ...] = ()
    skin: Literal["on", "off"] = "on"
    code: Annotated[str, Field(max_length=12)] = ""
    called: Annotated[str, Field(max_length=30)] | None = None


class ImportIn(In):
    """A file of fish as text; `accept` lands its good rows, `again` those of a known file, too."""

    text: Annotated[str, Field(max_length=1_000_000)]
    accept: bool = False
    again: bool = False


class StateIn(In):
    """A state to note."""

    state: Text


class CoreIn(In):
    """A core temperature. Without `celsius` it is taken from the probe."""

    celsius: FiniteFloat | None = None


class LookIn(In):
    """Demerit points by mark."""

    points: dict[Text, Annotated[int, Field(ge=0, le=3)]]


class CardIn(In):
    """A rule card; what is left out the card does not speak of. Seasons as [month, day]."""

    species: Text
    area: Text
    source: Text
    checked_on: date
    season_from: tuple[int, int] | None = None
    season_to: tuple[int, int] | None = None
    length_type: LengthType = "total"
    min_cm: FiniteFloat | None = None
    max_cm: FiniteFloat | None = None
    per_person: int | None = None
    per_boat: int | None = None
    possession: int | None = None
    fillet_at_sea: Literal["", "no", "yes"] = ""
    skin_patch: bool = False
    keep_carcass: bool = False
    note: Annotated[str, Field(max_length=600)] = ""


class GoodRowOut(Out):
    """A row that can be landed, and what is odd about it."""

    line: int
    question: str


class BadRowOut(Out):
    """A row that cannot be landed, and why."""

    line: int
    reason: str


class ImportReportOut(Out):
    """A file of fish that was checked; `landed_before` when its rows were landed then."""

    good: list[GoodRowOut]
    bad: list[BadRowOut]
    landed_before: Instant | None


@router.get("/trips/{trip_id}/fish", tags=["deck"])
def list_fish(request: Request, trip_id: str) -> list[deck_views.FishOut]:
    """A trip's fish: those that wait, most urgent first, then the finished."""
    rows = slab.view_slab(context_of(request), trip_id)
    return [deck_views.fish(f) for f in (*rows.waiting, *rows.further)]


@router.post("/trips/{trip_id}/fish", tags=["deck"], status_code=201)
def land_fish(request: Request, trip_id: str, key: Key, body: FishIn) -> DoneOut:
    """Land a fish; with `called` one that the guide lacks, as the kind nearest to it."""
    for name, moment in (("landed_at", body.landed_at), ("hooked_at", body.hooked_at)):
        if moment is not None and moment.tzinfo is None:
            raise Refused({name: "Say the zone too, as in 2026-07-14T13:10:00Z"})
    order = landing_check.LandFish(
        trip_id=trip_id,
        species=body.species,
        length_m=body.length_cm / 100,
        length_type=body.length_type,
        weight_kg=body.weight_kg,
        weighed_as=body.weighed_as,
        party_id=body.party_id,
        caught_by=body.caught_by,
        landed_at=body.landed_at,
        hooked_at=body.hooked_at,
        states=tuple(dict.fromkeys(body.states)),
        skin=body.skin,
        code=body.code,
    )
    if body.called is not None:
        like = nearest.LandNearest(order, body.called)
        return done_out(nearest.land_nearest(context_of(request), key, like))
    return done_out(landing.land_fish(context_of(request), key, order))


@router.post("/trips/{trip_id}/import", tags=["deck"])
def import_catch(
    request: Request, trip_id: str, key: Key, body: ImportIn
) -> ImportReportOut | DoneOut:
    """Check a file of fish; with `accept` land its good rows."""
    ctx = context_of(request)
    if body.accept:
        order = catch_import.AcceptRows(trip_id, body.text, again=body.again)
        return done_out(catch_import.accept_rows(ctx, key, order))
    report = catch_import.check_file(ctx, trip_id, body.text)
    return ImportReportOut(
        good=[GoodRowOut(line=r.line, question=r.question) for r in report.good],
        bad=[BadRowOut(line=r.line, reason=r.problem) for r in report.bad],
        landed_before=report.already[0] if report.already else None,
    )


@router.get("/fish/{fish_id}/card", tags=["deck"])
def get_card(request: Request, fish_id: str) -> deck_views.FishCardOut:
    """A fish before the knife: its cold, its advice, its place, the rule cards."""
    return deck_views.card(card.view_card(context_of(request), fish_id, "metric"))


@router.post("/fish/{fish_id}/states", tags=["deck"], status_code=201)
def mark_state(request: Request, fish_id: str, key: Key, body: StateIn) -> DoneOut:
    """Note what was done to a fish, or where it lies now."""
    order = handling.MarkState(fish_id, body.state)
    return done_out(handling.mark_state(context_of(request), key, order))


@router.post("/fish/{fish_id}/core", tags=["deck"], status_code=201)
def read_core(request: Request, fish_id: str, key: Key, body: CoreIn) -> DoneOut:
    """Note a core temperature."""
    order = handling.ReadCore(fish_id, body.celsius)
    return done_out(handling.read_core(context_of(request), key, order))


@router.post("/fish/{fish_id}/looks", tags=["deck"], status_code=201)
def look_over(request: Request, fish_id: str, key: Key, body: LookIn) -> DoneOut:
    """Note a look over."""
    order = handling.LookOver(fish_id, tuple(body.points.items()))
    return done_out(handling.look_over(context_of(request), key, order))


@router.get("/rules", tags=["rules"])
def list_cards(request: Request, trip_id: str = "") -> list[deck_views.RuleCardOut]:
    """Every rule card, with a trip's counts when one is named."""
    _, cards = rule_cards.list_cards(context_of(request), trip_id or None)
    return [deck_views.rule_card(c) for c in cards]


@router.post("/rules", tags=["rules"], status_code=201)
def write_card(request: Request, key: Key, body: CardIn) -> DoneOut:
    """Write a rule card."""
    order = rule_cards.SaveCard(RuleCard(**body.model_dump()))
    return done_out(rule_cards.save_card(context_of(request), key, order))


@router.put("/rules/{card_id}", tags=["rules"])
def change_card(request: Request, card_id: str, key: Key, body: CardIn) -> DoneOut:
    """Change a rule card."""
    order = rule_cards.SaveCard(RuleCard(**body.model_dump()), card_id)
    return done_out(rule_cards.save_card(context_of(request), key, order))


@router.delete("/rules/{card_id}", tags=["rules"])
def remove_card(request: Request, card_id: str, key: Key) -> DoneOut:
    """Throw a rule card away."""
    return done_out(
        rule_cards.remove_card(context_of(request), key, rule_cards.RemoveCard(card_id))
    )
