"""The deck over the API: landing, states, probe, looks, rule cards.

`/live/changes` streams a mark by server-sent events whenever anything changed.
"""

from functools import partial
from typing import Annotated

from fastapi import APIRouter, Request
from pydantic import Field

from lepidos.stations.deck import (
    card,
    catch_import,
    handling,
    rule_cards,
    slab,
)
from lepidos.stations.guide import nearest
from lepidos.web.api.orders import by_api
from lepidos.web.api.shapes import DoneOut, In, Instant, Key, Out, Text, done_out
from lepidos.web.api.views import deck as deck_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


class ImportIn(In):
    """A file of fish as text; `accept` lands its good rows, `again` those of a known file, too."""

    text: Annotated[str, Field(max_length=1_000_000)]
    accept: bool = False
    again: bool = False


class LookIn(In):
    """Demerit points by mark."""

    points: dict[Text, Annotated[int, Field(ge=0, le=3)]]


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


write = partial(by_api, router, "deck")
rule = partial(by_api, router, "rules")
write(
    "/trips/{trip_id}/fish",
    nearest.land,
    "Land a fish; with `called` one that the guide lacks.",
    without=("method",),
)
write(
    "/fish/{fish_id}/states",
    handling.mark_state,
    "Record a state of a fish: bled, gutted, on ice …",
)
write("/fish/{fish_id}/core", handling.read_core, "Record a core temperature.")
rule("/rules", rule_cards.save_card, "Write a rule card.", without=("card_id",))
rule("/rules/{card_id}", rule_cards.save_card, "Change a rule card.", method="PUT")
rule("/rules/{card_id}", rule_cards.remove_card, "Delete a rule card.", method="DELETE")
