"""The app itself over the API: how it is, undo, the scale."""

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from pydantic import Field, FiniteFloat

from lepidos.core.errors import Refused
from lepidos.devices.stand_ins import simulated_scale
from lepidos.stations.undo import undo
from lepidos.web.api.shapes import DoneOut, In, Key, Out, Text, done_out
from lepidos.web.health.health import health
from lepidos.web.shell.access import role_of
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


ScaleName = Annotated[str, Query(max_length=60)]


class UndoIn(In):
    """What to undo: `kind` and `id` as the answer named them when it was done."""

    kind: Text
    id: Text


class LoadIn(In):
    """What to lay on the stand-in scale's pan."""

    load_kg: Annotated[FiniteFloat, Field(ge=0, le=60)]


class HealthOut(Out):
    """`data_file` is told to the crew alone."""

    status: Literal["ok", "damaged"]
    version: str
    schema_version: Annotated[int, Field(alias="schema")]
    data_file: str = ""
    data_check: str


class ScaleOut(Out):
    """A scale's display."""

    kg: float
    steady: bool
    tare_kg: float


class LoadOut(Out):
    """What lies on the stand-in's pan."""

    load_kg: float


@router.get("/health", tags=["app"], response_model_exclude_unset=True)
def get_health(request: Request) -> HealthOut:
    """Version, schema, and whether the data file is sound."""
    found = health(context_of(request))
    if role_of(request) != "crew":
        del found["data_file"]  # where it lies is the crew's business
    return HealthOut.model_validate(found)


@router.post("/undo", tags=["app"], status_code=201)
def undo_row(request: Request, key: Key, body: UndoIn) -> DoneOut:
    """Undo an earlier row."""
    return done_out(undo.undo_row(context_of(request), key, undo.UndoRow(body.kind, body.id)))


@router.get("/scale", tags=["devices"])
def read_scale(request: Request, at: ScaleName = "") -> ScaleOut:
    """What a scale's display shows; the first one's without a name. 503: it does not answer."""
    reading = context_of(request).scale_at(at).read()
    return ScaleOut(kg=reading.kg, steady=reading.steady, tare_kg=reading.tare_kg)


@router.post("/scale/tare", tags=["devices"])
def tare_scale(request: Request, at: ScaleName = "") -> ScaleOut:
    """Call what lies on the pan now nothing."""
    context_of(request).scale_at(at).tare()
    return read_scale(request, at)


@router.put("/scale/stand-in", tags=["devices"])
def load_scale(request: Request, body: LoadIn, at: ScaleName = "") -> LoadOut:
    """Lay a mass on a stand-in's pan."""
    scale = simulated_scale(context_of(request).scale_at(at))
    if scale is None:
        raise Refused({"": "The scale is a real one"})
    scale.put_on(body.load_kg)
    return LoadOut(load_kg=body.load_kg)
