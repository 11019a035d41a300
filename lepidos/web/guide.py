"""Guide: the fish that Lepidos knows, each value with its source."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.cutting import FishToCut, plan_cut
from lepidos.stations import trips
from lepidos.web import drawings
from lepidos.web.render import house_of, page

router = APIRouter(include_in_schema=False)


@router.get("/guide")
def list_species(request: Request) -> Response:
    """Every fish of the guide."""
    house = house_of(request)
    species = sorted(house.guide.species.values(), key=lambda s: s.name.lower())
    return page(
        request,
        "guide.html",
        _latest(request),
        here="guide",
        species=[(s, drawings.fish_svg(house.guide, s), house.guide.plan_of(s)) for s in species],
    )


@router.get("/guide/{key}")
def show_species(request: Request, key: str) -> Response:
    """One fish: drawing, figures with sources, pieces, plan."""
    house = house_of(request)
    one = house.guide.one(key)
    plan = house.guide.plan_of(one)
    length_m = one.longest_cm / 200
    fit = one.length_weight
    usual_kg = fit.a * (length_m * 100) ** fit.b / 1000
    cut = plan_cut(
        FishToCut(usual_kg, length_m), one, plan, house.guide.pieces, house.guide.schools
    )
    return page(
        request,
        "species.html",
        _latest(request),
        here="guide",
        one=one,
        plan=plan,
        cut=cut,
        length_m=length_m,
        usual_kg=usual_kg,
        drawing=drawings.fish_svg(house.guide, one),
        pieces=house.guide.pieces,
    )


def _latest(request: Request) -> trips.TripView | None:
    house = house_of(request)
    latest = trips.latest_trip_id(house)
    return trips.view_trip(house, latest) if latest else None
