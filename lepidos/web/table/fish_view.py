"""Table: the bench for one fish."""

from collections.abc import Mapping

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup

from lepidos.core.cutting.model import Slot
from lepidos.core.estimate import Estimate
from lepidos.core.fish.bodyplan import BodyPlan, Piece
from lepidos.core.pack.findings import FindingKind
from lepidos.core.schedule.boards import MAX_FISH
from lepidos.core.units import System, format_mass
from lepidos.core.yields.partial_pooling import HELD
from lepidos.guide.hand_measures import hand_measures
from lepidos.stations.base.context import AppContext, Receipt
from lepidos.stations.table import by_eye, fish_view, load, steps, weighing
from lepidos.web.drawings import cuts, strip
from lepidos.web.shell.forms import Form, FormData, system_of
from lepidos.web.shell.orders import by_form, read_order
from lepidos.web.shell.render import after, context_of, form_fragment, page, shows_again, told

router = APIRouter(include_in_schema=False)


@router.get("/fish/{fish_id}")
def show_fish(request: Request, fish_id: str) -> Response:
    """One fish: drawing, plan, scale, and where it went."""
    ctx = context_of(request)
    system = system_of(request)
    view = fish_view.view_fish(ctx, fish_id, system)
    asked = request.query_params.get("side")
    due = view.next.side if view.next else ""
    side = asked if asked in {"A", "B"} else due or "A"
    plan = ctx.guide.plan_of(view.species)
    never = ctx.guide.never_used(view.species)
    every = _slots(view, plan, ctx.guide.pieces, never)
    following = view.next.key if view.next else ""
    eaten, eye = by_eye.judged(ctx, view.species, view.expected), _without_scale(request)
    coming = _coming(view, every, eaten, system)
    chosen = [row.fate.caution_of(row.piece.key) for row in view.destined if row.fate]
    return page(
        request,
        "table/table.html",
        view.view,
        about=view.species,
        here="table",
        table=view,
        side=side,
        body_plan=plan,
        held=HELD,
        how_known=load.HOW_KNOWN,
        drawing=cuts.bench(ctx.guide, view, system, side),
        strip=strip.strip(ctx.guide, view, system),
        pieces=ctx.guide.pieces,
        every=every,
        coming=coming,
        offered=next((one for one in coming if one[2] or not eye), ("", "", "")),
        by_eye={} if view.weighings else eaten,
        eaten=eaten,
        looks=hand_measures(),
        without_scale=eye,
        others=[(key, name) for key, name in every if key != following],
        spot_places=_spot_places(view, plan, ctx.guide.pieces),
        spot_sizes=ctx.guide.findings.spot_sizes,
        sights=[s for s in ctx.guide.findings.kinds if s.gives not in never],
        likely=_likely(ctx, view, never),
        cares=list(dict.fromkeys(chosen)),
        cut_for=_cut_for(request, ctx, view, plan),
        asked_for=_asked_for(view, ctx.guide.pieces, never),
    )


@router.post("/fish/{fish_id}/weighings")
@shows_again(show_fish)
def weigh_piece(request: Request, fish_id: str, form: Form) -> Response:
    """Book a piece from the scale, or typed; where there is no scale, as taken."""
    if _without_scale(request) and not (form.text("weight") or form.text("shown_kg")):
        _take(request, fish_id, form)
    else:
        _weigh(request, fish_id, form)
    return after(form.text("key"), f"/fish/{fish_id}")


@router.post("/live/fish/{fish_id}/weighings")
def weigh_waiting(request: Request, fish_id: str, form: Form) -> Response:
    """The same for the page's own script, which keeps weighings until they have arrived."""
    done = _weigh(request, fish_id, form)
    return told(done)


@router.post("/live/fish/{fish_id}/taken")
def take_waiting(request: Request, fish_id: str, form: Form) -> Response:
    """A piece that was taken and is not weighed, from the page's own script."""
    return told(_take(request, fish_id, form))


def _take(request: Request, fish_id: str, form: FormData) -> Receipt:
    order = read_order(form, by_eye.TakePiece, fish_id=fish_id)
    return by_eye.take_piece(context_of(request), form.text("key"), order)


def _weigh(request: Request, fish_id: str, form: FormData) -> Receipt:
    piece, _, side = form.text("slot").partition(".")
    if not piece:
        form.problems["piece"] = "Touch the piece that weighs this"
    order = read_order(
        form,
        weighing.WeighPiece,
        fish_id=fish_id,
        piece=piece,
        side=side,
        shown=_shown(form),
        in_tray=bool(form.text("in_tray")),
    )
    return weighing.weigh_piece(context_of(request), form.text("key"), order)


def _shown(form: FormData) -> load.Taken | None:
    """What the page's display showed when it was touched; None: ask the scale."""
    kg, mark = form.number("shown_kg"), form.text("mark", 60)
    if problem := form.problems.pop("shown_kg", ""):
        form.problems["weight"] = problem  # the field that a person sees
    return load.Taken(kg, mark) if kg is not None and mark else None


def _taken(_: Request, form: FormData) -> tuple[str, ...] | None:
    """What was taken; None where the page did not ask."""
    return form.all("taken") if form.text("asked") else None


by_form(
    router,
    "/fish/{fish_id}/together",
    weighing.weigh_together,
    show_fish,
    "/fish/{fish_id}",
    shown=lambda _, form: _shown(form),
)


by_form(
    router,
    "/fish/{fish_id}/corrections",
    weighing.correct_weighing,
    show_fish,
    "/fish/{fish_id}",
    kg=lambda _, form: form.number("kg") or 0.0,
)


by_form(router, "/fish/{fish_id}/kept", weighing.keep_answer, show_fish, "/fish/{fish_id}")


by_form(router, "/fish/{fish_id}/steps", steps.tick_step, show_fish, "/fish/{fish_id}")


by_form(
    router, "/fish/{fish_id}/close", steps.close_fish, show_fish, "/fish/{fish_id}", taken=_taken
)


def _slots(
    view: fish_view.TableView, plan: BodyPlan, pieces: dict[str, Piece], never: frozenset[str]
) -> list[tuple[str, str]]:
    """Every slot that can be weighed: (key, name), the plan's first; nothing poisonous as food."""
    planned = [s.key for s in view.plan.slots]
    seen = [piece for piece in view.follows.gives if piece not in planned]
    loose = [
        k
        for k, p in pieces.items()
        if not p.sided and not p.of_plan_only and k not in planned and k not in seen
    ]
    never = frozenset(k for k in never if pieces[k].counts_as != "rest")
    seen, loose = ([k for k in keys if k not in never] for keys in (seen, loose))
    found = []
    for key in [*planned, *seen, *loose]:
        piece, _, side = key.partition(".")
        found.append((key, plan.call(pieces[piece].name, side)))
    return found


def _spot_places(
    view: fish_view.TableView, plan: BodyPlan, pieces: dict[str, Piece]
) -> list[tuple[str, str]]:
    """Every piece on the drawing, each side of it: (key, name)."""
    slots = [
        Slot(p.piece, side)
        for p in view.plan.pieces
        if p.zone
        for side in (("A", "B") if pieces[p.piece].sided else ("",))
    ]
    return [(s.key, plan.call(pieces[s.piece].name, s.side)) for s in slots]


def _cut_for(
    request: Request, ctx: AppContext, view: fish_view.TableView, plan: BodyPlan
) -> Markup:
    """What this fish is cut for, and what may be said of it."""
    asked = (view.plan.purpose, view.plan.skin, view.plan.slots, repr(view.how.choice))
    size = (view.weight.kg, view.total_length_m, view.now.facts, view.expected_fillet.value)
    return form_fragment(
        request,
        "table/_cut_for.html",
        (view.fish.id, view.settled, view.party, *asked, *size),
        MAX_FISH,
        table=view,
        methods=ctx.guide.methods,
        tools=ctx.guide.tools,
        pieces=ctx.guide.pieces,
        slot_name=lambda slot: plan.call(
            ctx.guide.pieces[slot.partition(".")[0]].name, slot.partition(".")[2]
        ),
    )


def _asked_for(
    view: fish_view.TableView, pieces: dict[str, Piece], never: frozenset[str]
) -> list[tuple[Piece, str]]:
    """What is asked for and not weighed yet, and who asks."""
    weighed = {w.piece for w in view.weighings}
    return [
        (pieces[key], view.how.choice.said_by.get(key, ""))
        for key in view.how.choice.keeps
        if key in pieces and key not in weighed | never
    ]


def _without_scale(request: Request) -> bool:
    """Whether this device judges pieces by eye: as was chosen on it, else where no scale was set.

    The demo's stand-in is a scale; elsewhere what it shows is made up.
    """
    settings, chosen = request.app.state.settings, request.cookies.get("weighs", "")
    if chosen in {"eye", "scale"}:
        return chosen == "eye"
    return not (settings.scale or settings.demo)


def _coming(
    view: fish_view.TableView,
    every: list[tuple[str, str]],
    eaten: Mapping[str, Estimate],
    system: System,
) -> list[tuple[str, str, str]]:
    """What is still to be taken, the next first, as far as the plan goes: (key, name, about).

    `about` is what it counts as where nobody weighs it; "" for what then counts as nothing.
    """
    if view.next is None:
        return []
    weighed = {f"{w.piece}.{w.side}" if w.side else w.piece for w in view.weighings}
    names = dict(every)
    keys = [s.key for s in view.plan.slots]
    after = [key for key in keys[keys.index(view.next.key) :] if key not in weighed]
    about = {key: format_mass(one.value, system) for key, one in eaten.items()}
    return [(key, names[key], about.get(key, "")) for key in after]


def _likely(ctx: AppContext, view: fish_view.TableView, never: frozenset[str]) -> list[FindingKind]:
    """What is usually seen at the present step and was not said yet: two at most."""
    if view.present is None:
        return []
    said = {one.sight.key for one in view.seen}
    usual = ctx.guide.findings.usual_at(view.present.key)
    return [s for s in usual if s.key not in said and s.gives not in never][:2]
