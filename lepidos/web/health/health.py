"""How the app is: its checks, the copies of the data file, and how to go back to one."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos import __version__
from lepidos.stations.base.context import AppContext
from lepidos.stations.health.checks import check_all
from lepidos.stations.health.copies import Copies
from lepidos.web.health.machine import check_machine
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form
from lepidos.web.shell.render import context_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/health")
def show_health(request: Request) -> Response:
    """How the app is, for a person. For a machine: /api/v1/health."""
    ctx, copies = context_of(request), copies_of(request)
    settings = request.app.state.settings
    return page(
        request,
        "health/health.html",
        current_view(request),
        here="health",
        checks=[
            *check_all(ctx, copies, settings.host, settings.open_to_all, settings.share),
            *check_machine(settings),
        ],
        copies=copies,
        listed=copies.listed(),
        data_file=ctx.store.path,
        version=__version__,
        schema=ctx.store.schema_version(),
    )


@router.post("/health/copy")
@shows_again(show_health)
def make_copy(request: Request, form: Form) -> Response:
    """A copy now. Asked twice within a second it is one."""
    form.done()
    copies_of(request).make(context_of(request), "asked")
    return show_health(request)


def copies_of(request: Request) -> Copies:
    """The copies that the running app keeps."""
    copies: Copies = request.app.state.copies
    return copies


def health(ctx: AppContext) -> dict[str, object]:
    """Version, schema, and whether the data file can be read and is sound."""
    found = ctx.store.check()
    return {
        "status": "ok" if found == "ok" else "damaged",
        "version": __version__,
        "schema": ctx.store.schema_version(),
        "data_file": str(ctx.store.path),
        "data_check": found,
    }
