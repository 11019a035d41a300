"""The table over the API: a fish at the bench, its pieces, what was seen, and where they go."""

from typing import Annotated, Literal

from fastapi import APIRouter, Request
from pydantic import Field, FiniteFloat

from lepidos.stations.table import byproducts, cutters, findings, fish_view, steps, weighing, wishes
from lepidos.stations.table.said import Said
from lepidos.stations.table.spots import Spot
from lepidos.web.api.shapes import DoneOut, In, Key, Mass, Text, done_out
from lepidos.web.api.views import table as table_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


class WeighingIn(In):
    """A piece to book. Without `weight_kg` it is taken from the scale."""

    piece: Text
    side: Literal["", "A", "B"] = ""
    weight_kg: Mass | None = None


class StepIn(In):
    """A step to tick."""

    step: Text


class FinishIn(In):
    """What was taken of a fish of which nothing was weighed, as slots such as "fillet.A"."""

    taken: list[Text] | None = None


class TogetherIn(In):
    """Pieces that lay on the scale together, as slots such as "collar.A"."""

    slots: list[Text]
    weight_kg: Mass | None = None


class SpotIn(In):
    """Where something was cut out: the piece, or the place on the drawing in parts of total length.

    What it weighed, or how wide it was: then the weight is calculated.
    """

    piece: Text = ""
    side: Literal["", "A", "B"] = ""
    x: FiniteFloat | None = None
    y: FiniteFloat | None = None
    across_m: FiniteFloat | None = None
    lost_kg: FiniteFloat | None = None


class SightIn(In):
    """Something that was seen, as in `guide/findings.toml`."""

    what: Text
    number: Annotated[int, Field(ge=1, le=999)] = 1
    place: Text = ""
    spot: SpotIn | None = None


class FateIn(In):
    """Where a piece goes, as in `guide/byproduct_uses.toml`."""

    piece: Text
    fate: Text


class CorrectionIn(In):
    """The weight that a weighing should have had."""

    weighing_id: Text
    weight_kg: Mass


class WishIn(In):
    """How to cut. What is left out stays as it was said before; "" takes it back.

    `ways` as "head:off", `pieces` as "belly.A:smoke"; `keeps` and `tools` are whole lists.
    """

    purpose: Text | None = None
    skin: Literal["", "on", "off"] | None = None
    ways: tuple[Text, ...] = ()
    tools: list[Text] | None = None
    pieces: tuple[Text, ...] = ()
    keeps: list[Text] | None = None


class PartyWishIn(WishIn):
    """A party's wish; of all its fish, or of a species."""

    species: Text = ""


class CrewWishIn(PartyWishIn):
    """The crew's word on all fish, those of a species, or of a size of it."""

    size: Literal["", "small", "usual", "large"] = ""


@router.get("/fish/{fish_id}", tags=["table"])
def get_fish(request: Request, fish_id: str) -> table_views.TableOut:
    """A fish at the bench: plan, expected pieces, weighings, balance."""
    return table_views.table(fish_view.view_fish(context_of(request), fish_id))


@router.post("/fish/{fish_id}/weighings", tags=["table"], status_code=201)
def weigh_piece(request: Request, fish_id: str, key: Key, body: WeighingIn) -> DoneOut:
    """Book a piece."""
    order = weighing.WeighPiece(fish_id, body.piece, body.side, body.weight_kg)
    return done_out(weighing.weigh_piece(context_of(request), key, order))


@router.post("/fish/{fish_id}/together", tags=["table"], status_code=201)
def weigh_together(request: Request, fish_id: str, key: Key, body: TogetherIn) -> DoneOut:
    """Book several pieces from one reading; each gets its share with an interval."""
    order = weighing.WeighTogether(fish_id, tuple(body.slots), body.weight_kg)
    return done_out(weighing.weigh_together(context_of(request), key, order))


@router.post("/fish/{fish_id}/corrections", tags=["table"], status_code=201)
def correct_weighing(request: Request, fish_id: str, key: Key, body: CorrectionIn) -> DoneOut:
    """Put another weight in a weighing's place."""
    order = weighing.CorrectWeighing(body.weighing_id, body.weight_kg)
    return done_out(weighing.correct_weighing(context_of(request), key, order))


@router.post("/fish/{fish_id}/steps", tags=["table"], status_code=201)
def tick_step(request: Request, fish_id: str, key: Key, body: StepIn) -> DoneOut:
    """Tick a step of the plan."""
    return done_out(steps.tick_step(context_of(request), key, steps.TickStep(fish_id, body.step)))


@router.post("/fish/{fish_id}/close", tags=["table"], status_code=201)
def close_fish(request: Request, fish_id: str, key: Key, body: FinishIn | None = None) -> DoneOut:
    """Finish a fish.

    Of one of which nothing was weighed say what was taken: each piece is booked at what its plan
    expects, as judged by eye.
    """
    taken = None if body is None or body.taken is None else tuple(body.taken)
    return done_out(steps.close_fish(context_of(request), key, steps.CloseFish(fish_id, taken)))


@router.post("/fish/{fish_id}/pause", tags=["table"], status_code=201)
def pause_fish(request: Request, fish_id: str, key: Key, go_on: bool = False) -> DoneOut:
    """Stop a fish's time on the board, or go on with it."""
    return done_out(cutters.pause_fish(context_of(request), key, cutters.PauseFish(fish_id, go_on)))


@router.post("/fish/{fish_id}/seen", tags=["table"], status_code=201)
def note_sight(request: Request, fish_id: str, key: Key, body: SightIn) -> DoneOut:
    """Note what was seen."""
    spot = Spot(**body.spot.model_dump()) if body.spot else None
    order = findings.NoteSight(fish_id, body.what, body.number, body.place, spot)
    return done_out(findings.note_sight(context_of(request), key, order))


@router.post("/fish/{fish_id}/fates", tags=["table"], status_code=201)
def send_piece(request: Request, fish_id: str, key: Key, body: FateIn) -> DoneOut:
    """Say where a by-product goes."""
    order = byproducts.SendPiece(fish_id, body.piece, body.fate)
    return done_out(byproducts.send_piece(context_of(request), key, order))


@router.get("/trips/{trip_id}/waste", tags=["table"])
def get_waste(request: Request, trip_id: str) -> table_views.WasteOut:
    """What goes where at the end of the day, and how much of the fish is used."""
    return table_views.waste(byproducts.waste_list(context_of(request), trip_id))


@router.post("/fish/{fish_id}/wish", tags=["table"], status_code=201)
def wish_for_fish(request: Request, fish_id: str, key: Key, body: WishIn) -> DoneOut:
    """How this fish is to be cut, until its first fillet is weighed."""
    order = wishes.WishForFish(fish_id, _said(body))
    return done_out(wishes.wish_for_fish(context_of(request), key, order))


@router.post("/parties/{party_id}/wish", tags=["table"], status_code=201)
def wish_of_party(request: Request, party_id: str, key: Key, body: PartyWishIn) -> DoneOut:
    """What a party asks for; it goes before the crew's word."""
    order = wishes.WishOfParty(party_id, _said(body), body.species)
    return done_out(wishes.wish_of_party(context_of(request), key, order))


@router.post("/wishes", tags=["table"], status_code=201)
def wish_of_crew(request: Request, key: Key, body: CrewWishIn) -> DoneOut:
    """How such fish are cut from now on, on this trip and the next ones."""
    order = wishes.WishOfCrew(body.species, _said(body), body.size)
    return done_out(wishes.wish_of_crew(context_of(request), key, order))


def _said(body: WishIn) -> Said:
    return Said(
        body.purpose,
        body.skin,
        tuple(body.ways),
        None if body.tools is None else tuple(body.tools),
        tuple(body.pieces),
        None if body.keeps is None else tuple(body.keeps),
    )
