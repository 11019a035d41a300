"""The whole log out as one file, and a log brought in."""

import uuid
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Request, UploadFile
from fastapi import File as FilePart
from fastapi.responses import JSONResponse, RedirectResponse, Response, StreamingResponse

from lepidos.core.errors import Refused
from lepidos.stations.bundle.bring_in import Bundles
from lepidos.stations.bundle.settle import settle, view_contradictions
from lepidos.stations.bundle.write import write_bundle
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form, system_of
from lepidos.web.shell.orders import by_form
from lepidos.web.shell.render import context_of, page, shows_again

router = APIRouter(include_in_schema=False)
PIECE = 1 << 20


def _bundles(request: Request) -> Bundles:
    found: Bundles = request.app.state.bundles
    return found


@router.get("/bundle")
def show_bundle(request: Request) -> Response:
    """What can be taken along, and what is on its way in."""
    return page(
        request,
        "bundle/bundle.html",
        current_view(request),
        here="yieldbook",
        coming=_bundles(request).coming,
        contradictions=view_contradictions(context_of(request), system_of(request)),
    )


by_form(
    router,
    "/bundle/settle",
    settle,
    show_bundle,
    "/bundle",
    key="contradiction",
)


@router.get("/bundle.zip")
def take_along(request: Request) -> Response:
    """The whole log, streamed."""
    ctx = context_of(request)
    name = f"lepidos-log-{ctx.clock():%Y-%m-%d}.zip"
    return StreamingResponse(
        write_bundle(ctx),
        media_type="application/zip",
        headers={
            "content-disposition": f'attachment; filename="{name}"',
            "content-encoding": "identity",  # packed already
        },
    )


@router.post("/bundle/read")
@shows_again(show_bundle)
def read(request: Request, file: Annotated[UploadFile | None, FilePart()] = None) -> Response:
    """A file is taken in hand: read and checked, nothing more."""
    if file is None or not file.filename:
        raise Refused({"file": "Choose a bundle first"})
    ctx = context_of(request)
    folder = ctx.store.path.parent / "incoming"
    folder.mkdir(exist_ok=True)
    for left in folder.glob("*.zip*"):  # of an app that was stopped meanwhile
        if _bundles(request).coming is None:
            left.unlink(missing_ok=True)
    path = folder / f"{uuid.uuid4().hex}.zip"
    _keep(file, path)
    _bundles(request).begin(ctx, path, file.filename)
    return RedirectResponse("/bundle", 303)


def _keep(file: UploadFile, path: Path) -> None:
    with path.open("wb") as out:
        while some := file.file.read(PIECE):
            out.write(some)


@router.get("/bundle/state")
def state(request: Request) -> Response:
    """How far it is, for the page's script."""
    coming = _bundles(request).coming
    if coming is None:
        return JSONResponse({"state": "", "done": 0.0, "table": ""})
    return JSONResponse({"state": coming.state, "done": coming.done, "table": coming.table})


@router.post("/bundle/accept")
@shows_again(show_bundle)
def accept(request: Request, form: Form) -> Response:
    """Merge what was read."""
    key, token = form.text("key"), form.text("token")
    form.done()
    _bundles(request).accept(context_of(request), key, token)
    return RedirectResponse("/bundle", 303)


@router.post("/bundle/stop")
@shows_again(show_bundle)
def stop(request: Request, form: Form) -> Response:
    """Leave it."""
    form.done()
    _bundles(request).stop()
    return RedirectResponse("/bundle", 303)
