"""A landing as a form gives it: the panel's, one that waited in a browser, or a correction."""

from typing import cast

from lepidos.core.fish.species import LengthType
from lepidos.stations.base.context import AppContext
from lepidos.stations.deck import landing_check, slab
from lepidos.stations.trips.trips import TripView
from lepidos.web.shell.forms import FormData


def read_landing(ctx: AppContext, view: TripView, form: FormData) -> landing_check.LandFish:
    """Read the form; problems stay in it until its `done`."""
    species = form.text("species")
    if not species:
        form.problems["species"] = "Choose which fish it is"
    length_type = form.text("length_type")
    if not length_type and species in ctx.guide.species:
        length_type = ctx.guide.species[species].length_type
    states = [s for s in slab.AT_LANDING if form.flag(s)]
    if (lies := form.text("lies")) in slab.AT_LANDING:
        states.append(lies)
    return landing_check.LandFish(
        trip_id=str(view.trip.id),
        species=species,
        length_m=form.length_m("length"),
        length_type=cast(LengthType, length_type or "total"),
        weight_kg=form.mass_kg("weight"),
        weighed_as=form.text("weighed_as") or "whole",
        party_id=form.text("party"),
        caught_by=form.text("caught_by"),
        landed_at=form.moment("landed_at", view.zone),
        hooked_at=form.moment("hooked_at", view.zone),
        states=tuple(dict.fromkeys(states)),
        skin=form.text("skin") or "on",
        method="scale" if form.text("method") == "scale" else "typed",
        system=form.system,
        waited_s=form.waited_s(),
    )
