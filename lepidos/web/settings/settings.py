"""Settings of the crew and of this device, on one page."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.stations.base.waters import ChooseWaters, choose_waters, home_waters
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form
from lepidos.web.shell.preferences import here
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/settings")
def show_settings(request: Request) -> Response:
    """What can be chosen, and what is."""
    ctx = context_of(request)
    return page(
        request,
        "settings.html",
        current_view(request),
        here="settings",
        waters=ctx.guide.waters,
        chosen=home_waters(ctx),
        settings=request.app.state.settings,
        zone=ctx.timezone,
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
