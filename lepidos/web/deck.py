"""Deck: the slab, landing, and the catch import."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.errors import Refused
from lepidos.stations import catch_import, deck
from lepidos.stations.house import House
from lepidos.stations.trips import view_trip
from lepidos.web import drawings
from lepidos.web.forms import Form, FormData, system_of
from lepidos.web.render import after, house_of, page, shows_again

router = APIRouter(include_in_schema=False)

MOST_FILE = 1_000_000


@router.get("/trips/{trip_id}/deck")
def show_deck(request: Request, trip_id: str) -> Response:
    """The fish on the slab, to scale, and the landing panel."""
    house = house_of(request)
    slab = deck.view_slab(house, trip_id)
    width_m = drawings.slab_width_m(slab.waiting)
    placed = drawings.on_slab(house.guide, slab.waiting, width_m)
    newest = slab.last.species if slab.last else None
    recent = [f.species.key for f in (*slab.waiting, *slab.further)]
    species = house.guide.species.values()
    return page(
        request,
        "deck.html",
        slab.view,
        here="deck",
        shelves=_shelves(placed),
        finished=slab.further,
        last=slab.last,
        ice_needed_kg=slab.ice_needed_kg,
        width_m=width_m,
        ruler=drawings.ruler(width_m, system_of(request)),
        symbols=drawings.symbols(house.guide, {f.species.key for f in slab.waiting}),
        species=sorted(species, key=lambda s: (s is not newest, -recent.count(s.key), s.name)),
    )


@router.post("/trips/{trip_id}/fish")
@shows_again(show_deck)
def land_fish(request: Request, trip_id: str, form: Form) -> Response:
    """Land a fish."""
    house = house_of(request)
    order = _landing(house, trip_id, form)
    form.done()
    deck.land_fish(house, form.text("key"), order)
    return after(form.text("key"), f"/trips/{trip_id}/deck")


@router.post("/fish/{fish_id}/states")
def mark_state(request: Request, fish_id: str, form: Form) -> Response:
    """Note that a fish was bled, gutted or iced."""
    key = form.text("key")
    form.done()
    deck.mark_state(house_of(request), key, deck.MarkState(fish_id, form.text("state")))
    return after(key, f"/fish/{fish_id}")


@router.get("/trips/{trip_id}/import")
def show_import(request: Request, trip_id: str) -> Response:
    """The form for a file of fish."""
    view = view_trip(house_of(request), trip_id)
    return page(request, "import.html", view, here="deck", report=None, text="",
                columns=catch_import.COLUMNS)  # fmt: skip


@router.post("/trips/{trip_id}/import")
@shows_again(show_import)
def import_catch(request: Request, trip_id: str, form: Form) -> Response:
    """Check a file; land its good rows when the person has said so."""
    house = house_of(request)
    text = _file_text(form)
    form.done()
    if form.flag("accept"):
        order = catch_import.AcceptRows(trip_id, text, form.system)
        catch_import.accept_rows(house, form.text("key"), order)
        return after(form.text("key"), f"/trips/{trip_id}/deck")
    report = catch_import.check_file(house, trip_id, text, form.system)
    view = view_trip(house, trip_id)
    return page(request, "import.html", view, here="deck", report=report, text=text,
                columns=catch_import.COLUMNS)  # fmt: skip


def _shelves(
    placed: tuple[drawings.OnSlab, ...],
) -> tuple[tuple[str, str, list[drawings.OnSlab]], ...]:
    table = [f for f in placed if f.row.now.stage == "table"]
    waiting = [f for f in placed if f.row.now.stage == "slab"]
    first = [
        f for f in waiting if "histamine" in f.row.species.traits or "bled" not in f.row.states
    ]
    return (
        ("Cut first", "oily, or not bled", first),
        ("On the table", "started, not finished", table),
        ("Can wait on ice", "bled, as they came", [f for f in waiting if f not in first]),
    )


def _landing(house: House, trip_id: str, form: FormData) -> deck.LandFish:
    species = form.text("species")
    if not species:
        form.problems["species"] = "Choose which fish it is"
    length_type = form.text("length_type")
    if not length_type and species in house.guide.species:
        length_type = house.guide.species[species].length_type
    weight_kg = form.mass_kg("weight")
    moment = None
    if form.text("landed_at"):
        moment = form.moment("landed_at", view_trip(house, trip_id).zone)
    return deck.LandFish(
        trip_id=trip_id,
        species=species,
        length_m=form.length_m("length"),
        length_type="fork" if length_type == "fork" else "total",
        weight_kg=weight_kg,
        weighed_as=form.text("weighed_as") or "whole",
        party_id=form.text("party"),
        caught_by=form.text("caught_by"),
        landed_at=moment,
        states=tuple(s for s in deck.STATES if form.flag(s)),
        skin=form.text("skin") or "on",
        system=form.system,
    )


def _file_text(form: FormData) -> str:
    data = form.files.get("file", b"") or form.values.get("text", [""])[0].encode()
    if len(data) > MOST_FILE:
        raise Refused({"file": "That file is larger than 1 MB; split it"})
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError as error:
        raise Refused({"file": "That file is not text in UTF-8"}) from error
