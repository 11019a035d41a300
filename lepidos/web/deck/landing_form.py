"""A landing as a form gives it: the panel's, one that waited in a browser, or a correction."""

from lepidos.stations.base.context import AppContext
from lepidos.stations.deck import landing_check, slab
from lepidos.stations.deck.landing_check import LandFish
from lepidos.stations.trips.trips import TripView
from lepidos.web.shell.forms import FormData
from lepidos.web.shell.orders import read_order


def read_landing(ctx: AppContext, view: TripView, form: FormData) -> landing_check.LandFish:
    """Read the form. Raises Refused with a sentence for each field that could not be read."""
    species = form.text("species")
    if not species:
        form.problems["species"] = "Choose which fish it is"
    length_type = form.text("length_type")
    if not length_type and species in ctx.guide.species:
        length_type = ctx.guide.species[species].length_type
    states = [s for s in slab.AT_LANDING if form.flag(s)]
    if (lies := form.text("lies")) in slab.AT_LANDING:
        states.append(lies)
    return read_order(
        form,
        LandFish,
        view.zone,
        trip_id=str(view.trip.id),
        species=species,
        length_type=length_type or "total",
        states=tuple(dict.fromkeys(states)),
        code="",
        called=form.text("called") if form.flag("nearest") else None,
        method="scale" if form.text("method") == "scale" else "typed",
    )
