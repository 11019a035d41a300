"""Packing over the API."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from pydantic import Field, FiniteFloat

from lepidos.stations.base.context import AppContext
from lepidos.stations.pack import bagging, label, pack, portioning, seal
from lepidos.web.api.shapes import In, Key, Mass, Text, done_out
from lepidos.web.api.views import pack as pack_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


class BagIn(In):
    """A bag to seal: the bag `index` of the plan that these marks give."""

    index: Annotated[int, Field(ge=0, le=100)] = 0
    serving_kg: Annotated[FiniteFloat, Field(ge=0.02, le=200)] | None = None
    per_bag: Annotated[int, Field(ge=1, le=12)] = 2
    tail_apart: bool = True
    length_cm: Annotated[FiniteFloat, Field(ge=0, le=500)] = 0
    also: tuple[Text, ...] = ()
    weight_kg: Mass | None = None


class PartsIn(In):
    """A bag of the plan to seal: its parts, as the plan names them."""

    parts: Annotated[list[Text], Field(min_length=1, max_length=60)]
    weight_kg: Mass | None = None


@router.get("/trips/{trip_id}/pieces", tags=["pack"])
def list_pieces(request: Request, trip_id: str) -> list[pack_views.PieceOut]:
    """Pieces that wait for a bag."""
    return [pack_views.piece(r) for r in pack.list_pieces(context_of(request), trip_id).waiting]


@router.get("/pieces/{weighing_id}", tags=["pack"])
def get_piece(
    request: Request,
    weighing_id: str,
    serving_kg: Annotated[float | None, Query(ge=0.02, le=200)] = None,
    per_bag: Annotated[int, Query(ge=1, le=12)] = portioning.PER_BAG,
    tail_apart: bool = True,
    length_cm: Annotated[float, Query(ge=0, le=500)] = 0,
) -> pack_views.MarkedPieceOut:
    """A piece with its marks [cm from the head end], portions and bags."""
    marks = portioning.Marks(serving_kg, per_bag, tail_apart, length_cm / 100)
    return pack_views.marked(pack.view_piece(context_of(request), weighing_id, marks))


@router.post("/pieces/{weighing_id}/bags", tags=["pack"], status_code=201)
def seal_bag(request: Request, weighing_id: str, key: Key, body: BagIn) -> pack_views.SealedOut:
    """Seal a bag and print its label. A printer that does not answer leaves the bag sealed."""
    ctx = context_of(request)
    marks = portioning.Marks(body.serving_kg, body.per_bag, body.tail_apart, body.length_cm / 100)
    bag = seal.PieceBag(weighing_id, body.index, marks, tuple(body.also))
    trip_id = pack.trip_of_piece(ctx, weighing_id)
    return _sealed(ctx, key, seal.SealBag(trip_id, kg=body.weight_kg, of_piece=bag))


@router.get("/trips/{trip_id}/bag-plan", tags=["pack"])
def bag_plan(request: Request, trip_id: str) -> pack_views.BagPlanOut:
    """All that lies on the table, in bags."""
    return pack_views.plan(bagging.view_pack(context_of(request), trip_id))


@router.post("/trips/{trip_id}/bags", tags=["pack"], status_code=201)
def seal_planned(request: Request, trip_id: str, key: Key, body: PartsIn) -> pack_views.SealedOut:
    """Seal a bag of the plan, for whom and in what the plan says, and print its label."""
    ctx = context_of(request)
    order = seal.SealBag(trip_id, tuple(body.parts), kg=body.weight_kg, as_planned=True)
    return _sealed(ctx, key, order)


def _sealed(ctx: AppContext, key: str, order: seal.SealBag) -> pack_views.SealedOut:
    done = seal.seal_bag(ctx, key, order)
    said = "" if done.repeated else label.send_label(ctx, done.subject_id)
    code = label.label_of(ctx, done.subject_id).code
    return pack_views.SealedOut(**dict(done_out(done)), code=code, printer=said or "sent")
