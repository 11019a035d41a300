"""The guide over the API."""

from typing import Annotated

from fastapi import APIRouter, Query, Request

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.fish.species import LengthType, Species
from lepidos.web.api.shapes import EstimateOut, Out, estimate_out
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


class SpeciesRowOut(Out):
    """A fish of the guide in a list."""

    key: str
    name: str
    scientific: str
    body_plan: str


@router.get("/species", tags=["guide"])
def list_species(request: Request) -> list[SpeciesRowOut]:
    """Every fish of the guide."""
    return [
        SpeciesRowOut(key=s.key, name=s.name, scientific=s.scientific, body_plan=s.body_plan)
        for s in context_of(request).guide.species.values()
    ]


@router.get("/species/{key}", tags=["guide"])
def get_species(request: Request, key: str) -> Species:
    """One fish with every value and its source."""
    return context_of(request).guide.one(key)


@router.get("/species/{key}/weight", tags=["guide"])
def estimate_weight(
    request: Request,
    key: str,
    length_cm: Annotated[float, Query(gt=0, le=2000, allow_inf_nan=False)],
    length_type: LengthType = "total",
) -> EstimateOut:
    """Round weight to expect from a length [kg]."""
    species = context_of(request).guide.one(key)
    return estimate_out(weight_from_length(length_cm / 100, length_type, species))
