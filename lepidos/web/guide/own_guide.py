"""The crew's own guide: copy, change, add, take along and bring in, as TOML."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import PlainTextResponse, Response

from lepidos.core.errors import Unknown
from lepidos.stations.guide import own_guide
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/guide/own")
def list_own(request: Request) -> Response:
    """What the crew has of its own."""
    return _page(request, "guide/own_list.html", own=own_guide.list_own(context_of(request)))


@router.get("/guide/own/write")
def write_own(request: Request) -> Response:
    """A sheet to write on, empty or with the text of what is copied."""
    ctx, query = context_of(request), request.query_params
    kind = query.get("kind", "species")
    source, text = query.get("from", "")[:60], ""
    if source:
        text = own_guide.text_of(ctx, kind if kind in own_guide.KINDS else "species", source)
    return _page(
        request, "guide/own_write.html", kind=kind, text=text, key=query.get("key", source)[:40]
    )


@router.post("/guide/own")
@shows_again(write_own)
def save_own(request: Request, form: Form) -> Response:
    """Keep it, when all of it holds."""
    data = form.files.get("file", b"") or form.values.get("toml", [""])[0].encode()
    try:
        text = data.decode("utf-8").replace("\r\n", "\n").lstrip("\n")
    except UnicodeDecodeError:
        form.problems["toml"], text = "That file is not text in UTF-8", ""
    key, order = (
        form.text("key"),
        own_guide.SaveOwn(form.text("kind"), form.text("own_key"), text),
    )
    form.done()
    own_guide.save_own(context_of(request), key, order)
    there = "/guide/own" if order.kind == "plan" else f"/guide/{order.key}"
    return after(key, there)


@router.post("/guide/own/{kind}/{own_key}/remove")
@shows_again(list_own)
def remove_own(request: Request, kind: str, own_key: str, form: Form) -> Response:
    """Throw it away."""
    key = form.text("key")
    form.done()
    own_guide.remove_own(context_of(request), key, own_guide.RemoveOwn(kind, own_key))
    return after(key, "/guide/own")


@router.get("/guide/text/{kind}/{key}.toml")
def take_along(request: Request, kind: str, key: str) -> Response:
    """The text of a species or a plan, ours or the crew's own."""
    if kind not in own_guide.KINDS:
        raise Unknown("kind", kind)
    text = own_guide.text_of(context_of(request), kind, key)
    headers = {"content-disposition": f'attachment; filename="{key}.toml"'}
    return PlainTextResponse(text, media_type="application/toml", headers=headers)


def _page(request: Request, template: str, **context: Any) -> Response:
    ctx = context_of(request)
    view = current_view(request)
    return page(request, template, view, here="guide", guide=ctx.guide, **context)
