"""Table: how a fish is to be cut, said of it, by its party, or by the crew from now on."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.catch.size_class import size_of
from lepidos.core.errors import Refused
from lepidos.stations.base.fish import find_fish, round_weight
from lepidos.stations.table import wishes
from lepidos.stations.table.said import Said
from lepidos.stations.trips.trips import trip_of_party
from lepidos.web.shell.forms import Form, FormData
from lepidos.web.shell.orders import read_part
from lepidos.web.shell.render import after, context_of, shows_again
from lepidos.web.table.fish_view import show_fish
from lepidos.web.table.queue import show_bench

router = APIRouter(include_in_schema=False)


def said_of(form: FormData) -> Said:
    """What a form says: a field that it does not have is left as it was."""

    return read_part(
        form,
        Said,
        purpose=form.text("purpose") if "purpose" in form.values else None,
        skin=form.text("skin") if "skin" in form.values else None,
        tools=form.all("tool") if form.flag("tools") else None,
        pieces=_pieces(form),
        keeps=form.all("keeps") if form.flag("asks") else None,
    )


def _pieces(form: FormData) -> tuple[str, ...]:
    slot = form.text("slot")
    return (f"{slot}:{form.text('piece_purpose')}",) if slot else ()


@router.post("/fish/{fish_id}/wish")
@shows_again(show_fish)
def wish_for_fish(request: Request, fish_id: str, form: Form) -> Response:
    """How this fish is to be cut, its party's, or all such fish from now on."""
    key = form.text("key")
    _wish(request, fish_id, form)
    return after(key, f"/fish/{fish_id}")


def _wish(request: Request, fish_id: str, form: FormData) -> None:
    ctx, key = context_of(request), form.text("key")
    said, whose = said_of(form), form.text("whose") or "fish"
    form.done()
    if whose == "fish":
        wishes.wish_for_fish(ctx, key, wishes.WishForFish(fish_id, said))
        return
    fish, now = find_fish(ctx, fish_id)
    if whose == "party" and fish.party_id:
        wishes.wish_of_party(ctx, key, wishes.WishOfParty(fish.party_id, said, fish.species))
    elif whose == "crew":
        species = ctx.guide.one(fish.species)
        size = size_of(round_weight(now, species).kg, species)
        wishes.wish_of_crew(ctx, key, wishes.WishOfCrew(fish.species, said, size))
    else:
        raise Refused({"whose": "Say for which fish"})


def _show_again(request: Request, party_id: str) -> Response:
    return show_bench(request, trip_of_party(context_of(request), party_id))


@router.post("/parties/{party_id}/wish")
@shows_again(_show_again)
def wish_of_party(request: Request, party_id: str, form: Form) -> Response:
    """What a party asks for, of all its fish."""
    ctx, key = context_of(request), form.text("key")
    order = wishes.WishOfParty(party_id, said_of(form))
    form.done()
    wishes.wish_of_party(ctx, key, order)
    return after(key, f"/trips/{trip_of_party(ctx, party_id)}/table")
