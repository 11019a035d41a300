"""Table: the bench for one fish."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.bodyplan import BodyPlan, Piece
from lepidos.stations import table, weighing
from lepidos.web import drawings
from lepidos.web.forms import Form, system_of
from lepidos.web.render import after, house_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/fish/{fish_id}")
def show_fish(request: Request, fish_id: str) -> Response:
    """One fish: drawing, plan, scale, and where it went."""
    house = house_of(request)
    system = system_of(request)
    view = table.view_fish(house, fish_id)
    asked = request.query_params.get("side")
    due = view.next.side if view.next else ""
    side = asked if asked in {"A", "B"} else due or "A"
    plan = house.guide.plan_of(view.species)
    return page(
        request,
        "table.html",
        view.view,
        here="table",
        table=view,
        side=side,
        body_plan=plan,
        drawing=drawings.bench(house.guide, view, system, side),
        strip=drawings.strip(house.guide, view, system),
        pieces=house.guide.pieces,
        others=_others(view, plan, house.guide.pieces),
    )


@router.post("/fish/{fish_id}/weighings")
@shows_again(show_fish)
def weigh_piece(request: Request, fish_id: str, form: Form) -> Response:
    """Book a piece from the scale, or typed."""
    key = form.text("key")
    piece, _, side = form.text("slot").partition(".")
    order = weighing.WeighPiece(fish_id, piece, side, form.mass_kg("weight"), form.system)
    form.done()
    weighing.weigh_piece(house_of(request), key, order)
    return after(key, f"/fish/{fish_id}")


@router.post("/fish/{fish_id}/steps")
@shows_again(show_fish)
def tick_step(request: Request, fish_id: str, form: Form) -> Response:
    """Tick a step of the plan."""
    key, order = form.text("key"), table.TickStep(fish_id, form.text("step"))
    form.done()
    table.tick_step(house_of(request), key, order)
    return after(key, f"/fish/{fish_id}")


@router.post("/fish/{fish_id}/skin")
@shows_again(show_fish)
def choose_skin(request: Request, fish_id: str, form: Form) -> Response:
    """Skin on or off."""
    key, order = form.text("key"), table.ChooseSkin(fish_id, form.text("skin"))
    form.done()
    table.choose_skin(house_of(request), key, order)
    return after(key, f"/fish/{fish_id}")


@router.post("/fish/{fish_id}/close")
@shows_again(show_fish)
def close_fish(request: Request, fish_id: str, form: Form) -> Response:
    """Finish a fish."""
    key = form.text("key")
    form.done()
    table.close_fish(house_of(request), key, table.CloseFish(fish_id))
    return after(key, f"/fish/{fish_id}")


def _others(
    view: table.TableView, plan: BodyPlan, pieces: dict[str, Piece]
) -> list[tuple[str, str]]:
    """Every slot that can be weighed but is not the next one: (key, name)."""
    planned = [s.key for s in view.plan.slots]
    loose = [k for k, p in pieces.items() if not p.sided and k not in planned]
    following = view.next.key if view.next else ""
    found = []
    for key in [*planned, *loose]:
        if key != following:
            piece, _, side = key.partition(".")
            found.append((key, plan.call(pieces[piece].name, side)))
    return found
