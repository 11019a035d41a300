"""Pages from templates: what every page gets, and how values are shown."""

import itertools
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from fastapi import Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from jinja2 import Environment, FileSystemLoader, StrictUndefined
from markupsafe import Markup

from lepidos.core.fish.lengths import LENGTHS, length_name
from lepidos.core.fish.species import Species
from lepidos.core.pack.labels import ENGLISH, count, short_date, show_code
from lepidos.core.units import (
    System,
    format_percent,
)
from lepidos.stations.base.context import AppContext, Receipt, just_done
from lepidos.stations.base.wishes import meant_for
from lepidos.stations.header.header import view_header
from lepidos.stations.trips.trips import TripView
from lepidos.stations.undo.undo import can_undo
from lepidos.store.file.file_problems import FileProblem
from lepidos.web.shell import values
from lepidos.web.shell.forms import FormData, system_of
from lepidos.web.shell.help import help_texts, stop_of, stops
from lepidos.web.shell.regions import changed_regions, wants_regions
from lepidos.web.shell.static_files import font_url, script_url, static_url

HERE = Path(__file__).parents[1]
STATIONS = (
    ("deck", "Deck"),
    ("table", "Table"),
    ("pack", "Pack"),
    ("freezer", "Freezer"),
    ("yieldbook", "Yield book"),
    ("guide", "Guide"),
)
OF_A_BENCH = {"deck", "table", "pack", "guide"}


def _environment() -> Environment:
    env = Environment(
        loader=FileSystemLoader(HERE / "templates"),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
        auto_reload=False,
    )
    env.globals.update(
        static_url=static_url,
        font_url=font_url,
        script_url=script_url,
        stations=STATIONS,
        count=count,
        servings_text=ENGLISH.servings,
        short_date=short_date,
        show_code=show_code,
        percent=format_percent,
        more_minutes=values.more_minutes,
        cap=values.capitalised,
        round=round,
        Markup=Markup,
        can_undo=can_undo,
        lengths=LENGTHS,
        length_name=length_name,
    )
    return env


def compile_ahead(pause_s: float = 0.0) -> None:
    """Compile every template, which else costs the first one who asks for its page up to 0.2 s."""
    for name in TEMPLATES.list_templates(extensions=["html"]):
        TEMPLATES.get_template(name)
        time.sleep(pause_s)  # leaves the interpreter to whoever asks for a page


def context_of(request: Request) -> AppContext:
    """What the running app is made of."""
    ctx: AppContext = request.app.state.context
    return ctx


def page(
    request: Request,
    template: str,
    view: TripView | None = None,
    *,
    about: Species | None = None,
    **context: Any,
) -> Response:
    """Render a page. Problems and typed values of a refused form are shown in their places.

    `about` is the fish that the page is about: its first aid comes first.
    """
    ctx = context_of(request)
    system = system_of(request)
    new_key = _keys(ctx)
    form: FormData | None = getattr(request.state, "form", None)
    problems: dict[str, str] = getattr(request.state, "problems", {})
    zone = view.zone if view else ZoneInfo(ctx.timezone)
    # a refused form is shown on a page whose address is not the one that it was sent to
    shown_at: str = getattr(request.state, "shown_at", "")
    done = None
    with suppress(FileProblem):  # a page that tells of the file must not need it
        done = just_done(ctx, request.query_params.get("done", ""))
    html = TEMPLATES.get_template(template).render(
        request=request,
        view=view,
        trip=view.trip if view else None,
        header=view_header(ctx, view.trip) if view else None,
        system=system,
        theme="dark" if request.cookies.get("theme") == "night" else "light",
        demo=request.app.state.settings.demo,
        doors=_doors(request),
        help=help_texts().get(Path(template).stem, ()),
        stop=stop_of(request),
        stops=len(stops()),
        mark=getattr(request.state, "mark", ""),
        problems=problems,
        typed=form.values if form and problems else {},
        done=done,
        now_at=ctx.clock(),
        new_key=new_key,
        key_field=lambda: _key_field(new_key(), system),
        **values.measures(system),
        clock=lambda at: values.clock(at, zone),
        when=lambda at: values.when(at, ctx.clock(), zone),
        local=lambda at: f"{at.astimezone(zone):%Y-%m-%dT%H:%M}" if at else "",
        day=lambda value: values.day(value, zone),
        source_title=ctx.guide.source_title,
        caution=lambda key: ctx.guide.cautions[key],
        meant=lambda row: meant_for(ctx, row.purpose),
        first_aid=_first_aid(ctx, about),
        shown_at=shown_at,
        **({"back": shown_at or request.url.path} | context),
    )
    if wants_regions(request):
        return changed_regions(request, html, getattr(request.state, "mark", ""))
    response = HTMLResponse(html)
    if view and request.path_params.get("trip_id") == view.trip.id:
        # see `current`: what a device works on is the trip whose pages it sees
        response.set_cookie("trip", str(view.trip.id), samesite="strict", httponly=True)
    return response


def _doors(request: Request) -> tuple[tuple[str, str], ...]:
    """The stations that a device is shown: those that it may enter."""
    role = getattr(request.state, "role", "crew")
    if role == "guest":
        return (("guest", "Mine"), ("guide", "Guide"))
    return tuple(s for s in STATIONS if role == "crew" or s[0] in OF_A_BENCH)


def _first_aid(ctx: AppContext, about: Species | None) -> Markup:
    """First aid, that of this fish first: on every page, and made once for each fish."""
    template = TEMPLATES.get_template("shell/_first_aid.html")
    return ctx.memo.get(
        ("first aid", about.key if about else "", ctx.guide.edition),
        lambda: Markup(  # noqa: S704
            template.render(
                first_aid=ctx.guide.aid_first(about),
                hurting=lambda aid: ctx.guide.hurting(aid, about),
            )
        ),
        most=40,
    )


def _keys(ctx: AppContext) -> Callable[[], str]:
    """Keys for a page's forms: the page's own, and in it a number for each form."""
    of_page, numbers = ctx.ids.new(ctx.clock()), itertools.count(1)
    return lambda: f"{of_page}-{next(numbers)}"


_HOLE = "a-key-of-its-own"


def form_fragment(
    request: Request, template: str, known: tuple[object, ...], most: int, **context: Any
) -> Markup:
    """A part of a page with forms, made once for all that it shows; each form gets a fresh key.

    Args: known: all that it depends on, besides units and guide; most: how many are kept.
    """
    ctx, system = context_of(request), system_of(request)
    problems: dict[str, str] = getattr(request.state, "problems", {})

    def make() -> str:
        shown = TEMPLATES.get_template(template)
        keys = {"key_field": lambda: _key_field(_HOLE, system), "problems": problems}
        return shown.render(**values.measures(system), **keys, **context)

    key = (template, system, ctx.guide.edition, *known)
    text = make() if problems else ctx.memo.get(key, make, most=most)
    first, *rest = text.split(_HOLE)
    new_key = _keys(ctx)
    return Markup(first + "".join(new_key() + part for part in rest))  # noqa: S704


def fragment(template: str, system: System, **context: Any) -> Markup:
    """A part of a page without a form and without the present in it, so that it may be kept."""
    return Markup(TEMPLATES.get_template(template).render(**values.measures(system), **context))  # noqa: S704


# a table of sixty fish has a hundred forms: a template's macro would cost several times as much
def _key_field(key: str, system: str) -> Markup:
    """What every form carries: its key, and the units in which it is filled in."""
    return Markup(  # noqa: S704 - a key of our own making and one of two words
        f'<input type="hidden" name="key" value="{key}">'
        f'<input type="hidden" name="units" value="{system}">'
    )


def told(done: Receipt) -> Response:
    """What was done, for the page's script; `kind` is empty when it cannot be undone.

    A response and not its values: FastAPI would have those checked in a thread, which is a second
    wait in line.
    """
    return JSONResponse(
        {
            "kind": done.subject_kind if can_undo(done) else "",
            "id": done.subject_id,
            "sentence": done.sentence,
            "question": done.question,
            "repeated": done.repeated,
        }
    )


def after(key: str, path: str) -> RedirectResponse:
    """Where a form goes when it is done: a page that says so, and offers to undo."""
    join = "&" if "?" in path else "?"
    return RedirectResponse(f"{path}{join}done={key}", status_code=303)


def shows_again(
    show: Callable[..., Response],
) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Name the page that a refused form is shown on again."""

    def mark(endpoint: Callable[..., Any]) -> Callable[..., Any]:
        endpoint.again = show  # type: ignore[attr-defined]
        return endpoint

    return mark


TEMPLATES = _environment()
