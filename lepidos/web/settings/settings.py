"""Settings of the crew and of this device, on one page."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.guide.freezing import usual_freezing
from lepidos.stations.base.money import currency_now
from lepidos.stations.base.waters import ChooseWaters, choose_waters, home_waters
from lepidos.stations.pack import paper
from lepidos.stations.pack.paper import USUAL, ChooseLabel, choose_label, label_now
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form
from lepidos.web.shell.orders import by_form
from lepidos.web.shell.preferences import here
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/settings")
def show_settings(request: Request) -> Response:
    """What can be chosen, and what is."""
    ctx = context_of(request)
    return page(
        request,
        "settings/settings.html",
        current_view(request),
        here="settings",
        waters=ctx.guide.waters,
        chosen=home_waters(ctx),
        settings=request.app.state.settings,
        zone=ctx.timezone,
        sizes=USUAL,
        label=label_now(ctx),
        lines=paper.LINES,
        left_out=paper.left_out_now(ctx),
        languages=paper.languages(),
        language=paper.language_now(ctx),
        date_orders=paper.DATE_ORDERS,
        currency=currency_now(ctx),
        packs=usual_freezing().packs,
        pack=paper.pack_now(ctx),
    )


@router.post("/settings/waters")
@shows_again(show_settings)
def save_waters(request: Request, form: Form) -> Response:
    """Where this crew fishes."""
    key, back = form.text("key"), here(form.text("back", 600) or "/settings")
    order = ChooseWaters(tuple(sorted(filter(None, form.all("waters")))))
    form.done()
    choose_waters(context_of(request), key, order)
    return after(key, back)


@router.post("/settings/label")
@shows_again(show_settings)
def save_label(request: Request, form: Form) -> Response:
    """How large the labels are."""
    size = form.text("size").split("x") if form.text("size") else ["", ""]
    width = form.number("width_mm") or _number(size[0])
    height = form.number("height_mm") or _number(size[-1])
    form.done()
    choose_label(context_of(request), form.text("key"), ChooseLabel(width, height))
    return after(form.text("key"), "/settings")


by_form(
    router,
    "/settings/lines",
    paper.choose_lines,
    show_settings,
    "/settings",
    lines=lambda _, form: tuple(sorted(form.all("lines"))),
)


by_form(router, "/settings/pack", paper.choose_pack, show_settings, "/settings")


by_form(router, "/settings/language", paper.choose_language, show_settings, "/settings")


def _number(text: str) -> float:
    return float(text) if text.isascii() and text.isdecimal() and len(text) < 5 else 0.0
