"""The round through the demo: a strip on every page that leads from station to station."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.stations.table.queue import view_bench
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form
from lepidos.web.shell.help import ROUND_COOKIE, stops
from lepidos.web.shell.preferences import here
from lepidos.web.shell.render import context_of

router = APIRouter(include_in_schema=False)


@router.post("/round")
def go_round(request: Request, form: Form) -> Response:
    """To a stop by its number from 1, or, with 0, out of the round."""
    number = form.whole("to", 0, 0, len(stops()))
    back = here(form.text("back", 600))
    form.done()
    view = current_view(request)
    if not number or view is None:
        left = RedirectResponse(back, 303)
        left.delete_cookie(ROUND_COOKIE)
        return left
    stop = stops()[number - 1]
    address = f"/trips/{view.trip.id}/{stop.station}"
    if stop.station == "bench":
        places = view_bench(context_of(request), view.trip.id).order.places
        in_hand = next((p for p in places if p.in_hand), None)
        address = f"/fish/{in_hand.fish_id}" if in_hand else f"/trips/{view.trip.id}/table"
    response = RedirectResponse(address, 303)
    response.set_cookie(ROUND_COOKIE, str(number), samesite="strict", httponly=True)
    return response
