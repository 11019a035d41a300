"""Side-by-side trials."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.stations.undo import undo
from lepidos.stations.yieldbook import trials
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form
from lepidos.web.shell.orders import by_form
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/season/trials")
def show_trials(request: Request) -> Response:
    """All trials, and one to begin."""
    ctx = context_of(request)
    found, sd, needed = trials.view_trials(ctx)
    return page(
        request,
        "yieldbook/trials.html",
        current_view(request),
        here="yieldbook",
        found=found,
        sd=sd,
        needed=needed,
        ways=[text.split(":")[0] for m in ctx.guide.methods.methods for text in m.options.values()],
        names=sorted(str(one.name) for one in ctx.guide.species.values()),
    )


by_form(router, "/season/trials", trials.start_trial, show_trials, "/season/trials")


@router.post("/season/trials/{trial_id}/off")
@shows_again(show_trials)
def end_trial(request: Request, trial_id: str, form: Form) -> Response:
    """Call it off: nothing is read from it."""
    key = form.text("key")
    form.done()
    undo.undo_row(context_of(request), key, undo.UndoRow("trial", trial_id))
    return after(key, "/season/trials")
