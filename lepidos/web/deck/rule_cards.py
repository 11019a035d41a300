"""Rule cards: the crew's own, with today's counts."""

from datetime import date
from typing import cast

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.catch.rule_cards import MAX_NOTE, RuleCard
from lepidos.core.fish.species import LengthType
from lepidos.core.units import format_length
from lepidos.stations.deck import rule_cards
from lepidos.web.shell.current import current_trip_id, current_view
from lepidos.web.shell.forms import Form, FormData, system_of
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/rules")
def list_cards(request: Request) -> Response:
    """Every card with the counts of the trip at hand."""
    ctx = context_of(request)
    view, cards = rule_cards.list_cards(ctx, current_trip_id(request) or None)
    return page(request, "deck/rules.html", view, here="deck", cards=cards)


@router.get("/rules/new")
def new_card(request: Request) -> Response:
    """An empty card."""
    return _form(request, None, "")


@router.post("/rules")
@shows_again(new_card)
def write_card(request: Request, form: Form) -> Response:
    """Write a new card."""
    return _save(request, form, "")


@router.get("/rules/{card_id}")
def show_card(request: Request, card_id: str) -> Response:
    """One card, to change it."""
    return _form(request, rule_cards.get_card(context_of(request), card_id), card_id)


@router.post("/rules/{card_id}")
@shows_again(show_card)
def change_card(request: Request, card_id: str, form: Form) -> Response:
    """Change a card."""
    return _save(request, form, card_id)


@router.post("/rules/{card_id}/remove")
def remove_card(request: Request, card_id: str, form: Form) -> Response:
    """Throw a card away."""
    key = form.text("key")
    form.done()
    rule_cards.remove_card(context_of(request), key, rule_cards.RemoveCard(card_id))
    return after(key, "/rules")


def _form(request: Request, card: RuleCard | None, card_id: str) -> Response:
    ctx, system = context_of(request), system_of(request)
    known: dict[str, str] = {}
    if card:
        known = {
            "species": card.species,
            "area": card.area,
            "source": card.source,
            "checked_on": card.checked_on.isoformat(),
            "season_from": _season_text(card.season_from),
            "season_to": _season_text(card.season_to),
            "length_type": card.length_type,
            "min_cm": format_length(card.min_cm / 100, system) if card.min_cm else "",
            "max_cm": format_length(card.max_cm / 100, system) if card.max_cm else "",
            "per_person": _count_text(card.per_person),
            "per_boat": _count_text(card.per_boat),
            "possession": _count_text(card.possession),
            "fillet_at_sea": card.fillet_at_sea,
            "skin_patch": "on" if card.skin_patch else "",
            "keep_carcass": "on" if card.keep_carcass else "",
            "note": card.note,
        }
    return page(
        request,
        "deck/rule_form.html",
        current_view(request),
        here="deck",
        known=known,
        card_id=card_id,
        species=sorted(ctx.guide.species.values(), key=lambda s: s.name),
    )


def _save(request: Request, form: FormData, card_id: str) -> Response:
    key = form.text("key")
    smallest = form.length_m("min_cm", needed=False)
    largest = form.length_m("max_cm", needed=False)
    card = RuleCard(
        species=form.text("species"),
        area=form.text("area"),
        source=form.text("source"),
        checked_on=form.day("checked_on"),
        season_from=_season_day(form, "season_from"),
        season_to=_season_day(form, "season_to"),
        length_type=cast(LengthType, form.text("length_type") or "total"),
        min_cm=round(smallest * 100, 3) if form.text("min_cm") else None,
        max_cm=round(largest * 100, 3) if form.text("max_cm") else None,
        per_person=_count(form, "per_person"),
        per_boat=_count(form, "per_boat"),
        possession=_count(form, "possession"),
        fillet_at_sea={"no": "no", "yes": "yes"}.get(form.text("fillet_at_sea"), ""),  # type: ignore[arg-type]
        skin_patch=form.flag("skin_patch"),
        keep_carcass=form.flag("keep_carcass"),
        note=form.text("note", MAX_NOTE),
    )
    form.done()
    rule_cards.save_card(context_of(request), key, rule_cards.SaveCard(card, card_id))
    return after(key, "/rules")


def _count(form: FormData, name: str) -> int | None:
    return form.whole(name, 0, 0, 10_000) if form.text(name) else None


def _season_day(form: FormData, name: str) -> tuple[int, int] | None:
    """A day of any year, as "day.month" in numbers."""
    text = form.text(name)
    if not text:
        return None
    day, _, month = text.replace("/", ".").replace("-", ".").partition(".")
    try:
        # a leap year: 29 February may end a season
        found = date(2024, int(month.strip(". ")[:4]), int(day.strip()[:4]))
    except ValueError:
        form.problems[name] = "Give day and month, as in 15.6"
        return None
    return found.month, found.day


def _season_text(day: tuple[int, int] | None) -> str:
    return f"{day[1]}.{day[0]}" if day else ""


def _count_text(count: int | None) -> str:
    return "" if count is None else str(count)
