"""The JSON API: the same path as the pages, for scripts.

Every write needs an `Idempotency-Key` header: the same key again changes nothing and answers as
the first time did.
"""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import PlainTextResponse

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.errors import Refused
from lepidos.core.fish.species import LengthType
from lepidos.devices.scale import SimulatedScale
from lepidos.stations.base import undo
from lepidos.stations.deck import catch_import, landing, landing_check, slab
from lepidos.stations.guide import nearest
from lepidos.stations.header.header import view_header
from lepidos.stations.pack import bagging, bags, label, pack, portioning, seal
from lepidos.stations.table import fish_view, steps, weighing
from lepidos.stations.trips import trips
from lepidos.stations.yieldbook import yieldbook
from lepidos.web.api.shapes import (
    BagIn,
    DoneOut,
    EstimateOut,
    FishIn,
    ImportIn,
    Json,
    Key,
    LoadIn,
    Page,
    PartsIn,
    StepIn,
    TripIn,
    UndoIn,
    WeighingIn,
    done_out,
)  # fmt: skip
from lepidos.web.api.views import deck as deck_views
from lepidos.web.api.views import pack as pack_views
from lepidos.web.api.views import table as table_views
from lepidos.web.api.views import yieldbook as yieldbook_views
from lepidos.web.health.health import health
from lepidos.web.shell.access import role_of
from lepidos.web.shell.render import context_of, why

router = APIRouter(prefix="/api/v1")
ScaleName = Annotated[str, Query(max_length=60)]


@router.get("/health", tags=["app"])
def get_health(request: Request) -> Json:
    """Version, schema, and whether the data file is sound."""
    found = health(context_of(request))
    if role_of(request) != "crew":
        del found["data_file"]  # where it lies is the crew's business
    return found


@router.get("/species", tags=["guide"])
def list_species(request: Request) -> list[Json]:
    """Every fish of the guide."""
    return [
        {"key": s.key, "name": s.name, "scientific": s.scientific, "body_plan": s.body_plan}
        for s in context_of(request).guide.species.values()
    ]


@router.get("/species/{key}", tags=["guide"])
def get_species(request: Request, key: str) -> Json:
    """One fish with every value and its source."""
    return context_of(request).guide.one(key).model_dump(mode="json")


@router.get("/species/{key}/weight", tags=["guide"])
def estimate_weight(
    request: Request,
    key: str,
    length_cm: Annotated[float, Query(gt=0, le=2000, allow_inf_nan=False)],
    length_type: LengthType = "total",
) -> EstimateOut:
    """Round weight to expect from a length [kg]."""
    species = context_of(request).guide.one(key)
    return EstimateOut(**why(weight_from_length(length_cm / 100, length_type, species)))


@router.get("/trips", tags=["trips"])
def list_trips(request: Request, page: Page = 1) -> Json:
    """Trips, newest first, 50 a page."""
    rows, total = trips.list_trips(context_of(request), page)
    return {"total": total, "trips": [deck_views.trip(t) for t in rows]}


@router.post("/trips", tags=["trips"], status_code=201)
def start_trip(request: Request, key: Key, body: TripIn) -> DoneOut:
    """Start a trip."""
    order = trips.StartTrip(
        body.name,
        body.kind,
        body.harbour,
        body.on_date,
        tuple(body.people),
        tuple(body.parties),
        body.sea_c,
        body.air_c,
        body.ice_kg,
    )
    return done_out(trips.start_trip(context_of(request), key, order))


@router.get("/trips/{trip_id}", tags=["trips"])
def get_trip(request: Request, trip_id: str) -> Json:
    """A trip with people, parties and gauges."""
    ctx = context_of(request)
    view = trips.view_trip(ctx, trip_id)
    return deck_views.trip_view(view, view_header(ctx, view.trip))


@router.get("/trips/{trip_id}/fish", tags=["deck"])
def list_fish(request: Request, trip_id: str) -> list[Json]:
    """A trip's fish: those that wait, most urgent first, then the finished."""
    rows = slab.view_slab(context_of(request), trip_id)
    return [deck_views.fish(f) for f in (*rows.waiting, *rows.further)]


@router.post("/trips/{trip_id}/fish", tags=["deck"], status_code=201)
def land_fish(request: Request, trip_id: str, key: Key, body: FishIn) -> DoneOut:
    """Land a fish; with `called` one that the guide lacks, as the kind nearest to it."""
    for name, moment in (("landed_at", body.landed_at), ("hooked_at", body.hooked_at)):
        if moment is not None and moment.tzinfo is None:
            raise Refused({name: "Say the zone too, as in 2026-07-14T13:10:00Z"})
    order = landing_check.LandFish(
        trip_id=trip_id,
        species=body.species,
        length_m=body.length_cm / 100,
        length_type=body.length_type,
        weight_kg=body.weight_kg,
        weighed_as=body.weighed_as,
        party_id=body.party_id,
        caught_by=body.caught_by,
        landed_at=body.landed_at,
        hooked_at=body.hooked_at,
        states=tuple(dict.fromkeys(body.states)),
        skin=body.skin,
        code=body.code,
    )
    if body.called is not None:
        like = nearest.LandNearest(order, body.called)
        return done_out(nearest.land_nearest(context_of(request), key, like))
    return done_out(landing.land_fish(context_of(request), key, order))


@router.post("/trips/{trip_id}/import", tags=["deck"])
def import_catch(request: Request, trip_id: str, key: Key, body: ImportIn) -> Json:
    """Check a file of fish; with `accept` land its good rows."""
    ctx = context_of(request)
    if body.accept:
        order = catch_import.AcceptRows(trip_id, body.text, again=body.again)
        return done_out(catch_import.accept_rows(ctx, key, order)).model_dump()
    report = catch_import.check_file(ctx, trip_id, body.text)
    return {
        "good": [{"line": r.line, "question": r.question} for r in report.good],
        "bad": [{"line": r.line, "reason": r.problem} for r in report.bad],
        "landed_before": report.already[0].isoformat() if report.already else None,
    }


@router.get("/fish/{fish_id}", tags=["table"])
def get_fish(request: Request, fish_id: str) -> Json:
    """A fish at the bench: plan, expected pieces, weighings, balance."""
    return table_views.table(fish_view.view_fish(context_of(request), fish_id))


@router.post("/fish/{fish_id}/weighings", tags=["table"], status_code=201)
def weigh_piece(request: Request, fish_id: str, key: Key, body: WeighingIn) -> DoneOut:
    """Book a piece."""
    order = weighing.WeighPiece(fish_id, body.piece, body.side, body.weight_kg)
    return done_out(weighing.weigh_piece(context_of(request), key, order))


@router.post("/fish/{fish_id}/steps", tags=["table"], status_code=201)
def tick_step(request: Request, fish_id: str, key: Key, body: StepIn) -> DoneOut:
    """Tick a step of the plan."""
    return done_out(steps.tick_step(context_of(request), key, steps.TickStep(fish_id, body.step)))


@router.post("/fish/{fish_id}/close", tags=["table"], status_code=201)
def close_fish(request: Request, fish_id: str, key: Key) -> DoneOut:
    """Finish a fish."""
    return done_out(steps.close_fish(context_of(request), key, steps.CloseFish(fish_id)))


@router.get("/trips/{trip_id}/pieces", tags=["pack"])
def list_pieces(request: Request, trip_id: str) -> list[Json]:
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
) -> Json:
    """A piece with its marks [cm from the head end], portions and bags."""
    marks = portioning.Marks(serving_kg, per_bag, tail_apart, length_cm / 100)
    return pack_views.marked(pack.view_piece(context_of(request), weighing_id, marks))


@router.post("/pieces/{weighing_id}/bags", tags=["pack"], status_code=201)
def seal_bag(request: Request, weighing_id: str, key: Key, body: BagIn) -> Json:
    """Seal a bag and print its label. A printer that does not answer leaves the bag sealed."""
    ctx = context_of(request)
    marks = portioning.Marks(body.serving_kg, body.per_bag, body.tail_apart, body.length_cm / 100)
    order = bags.SealBag(weighing_id, body.index, marks, tuple(body.also), body.weight_kg)
    done = bags.seal_bag(ctx, key, order)
    said = "" if done.repeated else label.send_label(ctx, done.subject_id)
    code = label.label_of(ctx, done.subject_id).code
    return {**done_out(done).model_dump(), "code": code, "printer": said or "sent"}


@router.get("/trips/{trip_id}/bag-plan", tags=["pack"])
def bag_plan(request: Request, trip_id: str) -> Json:
    """All that lies on the table, in bags."""
    return pack_views.plan(bagging.view_pack(context_of(request), trip_id))


@router.post("/trips/{trip_id}/bags", tags=["pack"], status_code=201)
def seal_planned(request: Request, trip_id: str, key: Key, body: PartsIn) -> Json:
    """Seal a bag of the plan, for whom and in what the plan says, and print its label."""
    ctx = context_of(request)
    order = seal.SealPlanned(trip_id, tuple(body.parts), kg=body.weight_kg, as_planned=True)
    done = seal.seal_planned(ctx, key, order)
    said = "" if done.repeated else label.send_label(ctx, done.subject_id)
    code = label.label_of(ctx, done.subject_id).code
    return {**done_out(done).model_dump(), "code": code, "printer": said or "sent"}


@router.get("/trips/{trip_id}/yieldbook", tags=["yield book"])
def get_book(request: Request, trip_id: str) -> Json:
    """What every fish of a trip gave."""
    return yieldbook_views.book(yieldbook.view_book(context_of(request), trip_id))


class CsvResponse(PlainTextResponse):
    """A table as text, RFC 4180."""

    media_type = "text/csv"


@router.get("/trips/{trip_id}/yieldbook.csv", tags=["yield book"], response_class=CsvResponse)
def get_book_csv(request: Request, trip_id: str) -> CsvResponse:
    """The same as CSV."""
    return CsvResponse(yieldbook.book_csv(context_of(request), trip_id))


@router.post("/undo", tags=["app"], status_code=201)
def undo_row(request: Request, key: Key, body: UndoIn) -> DoneOut:
    """Undo an earlier row."""
    return done_out(undo.undo_row(context_of(request), key, undo.UndoRow(body.kind, body.id)))


@router.get("/scale", tags=["devices"])
def read_scale(request: Request, at: ScaleName = "") -> Json:
    """What a scale's display shows; the first one's without a name. 503: it does not answer."""
    reading = context_of(request).scale_at(at).read()
    return {"kg": reading.kg, "steady": reading.steady, "tare_kg": reading.tare_kg}


@router.post("/scale/tare", tags=["devices"])
def tare_scale(request: Request, at: ScaleName = "") -> Json:
    """Call what lies on the pan now nothing."""
    context_of(request).scale_at(at).tare()
    return read_scale(request, at)


@router.put("/scale/stand-in", tags=["devices"])
def load_scale(request: Request, body: LoadIn, at: ScaleName = "") -> Json:
    """Lay a mass on a stand-in's pan."""
    scale = context_of(request).scale_at(at)
    if not isinstance(scale, SimulatedScale):
        raise Refused({"": "The scale is a real one"})
    scale.put_on(body.load_kg)
    return {"load_kg": body.load_kg}
