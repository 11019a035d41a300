"""The cutting session by the API: pieces together, corrections, what was seen, fates, pauses."""

from fastapi import APIRouter, Request

from lepidos.stations.table import byproducts, cutters, findings, weighing, wishes
from lepidos.stations.table.said import Said
from lepidos.stations.table.spots import Spot
from lepidos.web.api.shapes import (
    CorrectionIn,
    CrewWishIn,
    DoneOut,
    FateIn,
    Json,
    Key,
    PartyWishIn,
    SightIn,
    TogetherIn,
    WishIn,
    done_out,
)
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


@router.post("/fish/{fish_id}/together", tags=["table"], status_code=201)
def weigh_together(request: Request, fish_id: str, key: Key, body: TogetherIn) -> DoneOut:
    """Book several pieces from one reading; each gets its share with an interval."""
    order = weighing.WeighTogether(fish_id, tuple(body.slots), body.weight_kg)
    return done_out(weighing.weigh_together(context_of(request), key, order))


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


@router.post("/fish/{fish_id}/corrections", tags=["table"], status_code=201)
def correct_weighing(request: Request, fish_id: str, key: Key, body: CorrectionIn) -> DoneOut:
    """Put another weight in a weighing's place."""
    order = weighing.CorrectWeighing(body.weighing_id, body.weight_kg)
    return done_out(weighing.correct_weighing(context_of(request), key, order))


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


@router.post("/fish/{fish_id}/pause", tags=["table"], status_code=201)
def pause_fish(request: Request, fish_id: str, key: Key, go_on: bool = False) -> DoneOut:
    """Stop a fish's time on the board, or go on with it."""
    return done_out(cutters.pause_fish(context_of(request), key, cutters.PauseFish(fish_id, go_on)))


@router.get("/trips/{trip_id}/waste", tags=["table"])
def get_waste(request: Request, trip_id: str) -> Json:
    """What goes where at the end of the day, and how much of the fish is used."""
    found = byproducts.waste_list(context_of(request), trip_id)
    return {
        "fish": found.fish,
        "used": found.use.fraction if found.use and found.use.round_kg else None,
        "lines": [
            {
                "fate": line.fate.key if line.fate else None,
                "kg": line.kg,
                "pieces": [
                    {"piece": piece.key, "number": number, "kg": kg}
                    for piece, number, kg in line.parts
                ],
            }
            for line in found.lines
        ],
    }
