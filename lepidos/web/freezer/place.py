"""One place of the freezer: its temperature and log, counting it, and what it is like."""

from zoneinfo import ZoneInfo, available_timezones

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.core.errors import BadInput, Refused
from lepidos.devices.scales import named_lines
from lepidos.guide.freezing import raw_holds, usual_freezing
from lepidos.stations.freezer import holds, place_view, places, stocktake, temperature
from lepidos.stations.freezer.temperature import OfferedLogs
from lepidos.web.drawings.charts import day_chart, freeze_chart
from lepidos.web.drawings.qr import label_qr
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form, FormData
from lepidos.web.shell.orders import by_form
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)
THICKS_MM = (10, 20, 30, 40, 50, 60)
UTC_ZONE = ZoneInfo("UTC")
_ORDERS = {"ymd": "year, month, day", "dmy": "day, month, year", "mdy": "month, day, year"}


@router.get("/freezer/places/{place_id}")
def show_place(request: Request, place_id: str) -> Response:
    """What it is like, how cold it was, how long it keeps."""
    ctx = context_of(request)
    found = place_view.view_place(ctx, place_id)
    rule, _ = holds.rule_of(ctx)
    asked = request.query_params.get("thick", "")
    thick_mm = next((mm for mm in THICKS_MM if str(mm) == asked), THICKS_MM[2])
    stacked = request.query_params.get("stacked") == "1"
    return page(
        request,
        "freezer/place.html",
        current_view(request),
        here="freezer",
        found=found,
        chart=day_chart,
        freezes=place_view.freezes_here(found.said, thick_mm / 1000, stacked),
        freeze_chart=freeze_chart,
        thicks=THICKS_MM,
        folder=request.app.state.log_folder,
        lines=_lines(request),
        utc=UTC_ZONE,
        guide=usual_freezing(),
        rules=raw_holds().rules,
        rule=rule,
        code=label_qr(places.place_text(ctx, place_id)),
        others=[p for p in places.all_places(ctx) if p.id != place_id],
    )


def _lines(request: Request) -> dict[str, str]:
    """The loggers on lines, by the name of their place in small letters."""
    lines = named_lines(request.app.state.settings.logger)
    return {name.casefold(): url for name, url in lines.items()}


def _celsius(_: Request, form: FormData) -> float:
    """The temperature that a place holds."""
    celsius = form.temperature_c("celsius")
    if celsius is None:
        form.problems.setdefault("celsius", "Say which temperature it holds, such as -18")
    return celsius or 0.0


def _codes(_: Request, form: FormData) -> tuple[str, ...]:
    """Those that were ticked, and those that were typed."""
    return (*form.all("codes"), *form.text("more", 4000).replace(",", " ").split())


by_form(
    router,
    "/freezer/places/{place_id}",
    places.say_place,
    show_place,
    "/freezer/places/{place_id}",
    celsius=_celsius,
    kg_day=lambda _, form: form.mass_kg("kg_day") or 0.0,
)


by_form(
    router,
    "/freezer/places/{place_id}/logger",
    temperature.read_logger,
    show_place,
    "/freezer/places/{place_id}",
)


@router.post("/freezer/places/{place_id}/log")
@shows_again(show_place)
def offer_log(request: Request, place_id: str, form: Form) -> Response:
    """A logger's file: looked at, and not yet taken in."""
    data, name = form.files.get("log", b""), form.file_names.get("log", "file")
    form.done()
    if not data:
        raise Refused({"log": "Choose the logger's file"})
    try:
        offered = _offered(request).put(place_id, name, data)
    except BadInput as error:
        raise Refused({"log": str(error)}) from error
    return RedirectResponse(f"/freezer/places/{place_id}/log?file={offered.token}", 303)


@router.get("/freezer/places/{place_id}/log")
def show_log(request: Request, place_id: str) -> Response:
    """How a file seems to be written: somebody confirms it."""
    token = request.query_params.get("file", "") or _typed(request, "file")
    try:
        offered, _ = _offered(request).get(token)
    except Refused:  # the app was started since
        return RedirectResponse(f"/freezer/places/{place_id}", 303)
    ctx = context_of(request)
    view = current_view(request)
    return page(
        request,
        "freezer/log.html",
        view,
        here="freezer",
        offered=offered,
        place=places.get_place(ctx, place_id),
        orders=_ORDERS,
        zone=view.zone.key if view else ctx.timezone,
        zones=sorted(available_timezones()),
    )


@router.post("/freezer/places/{place_id}/take")
@shows_again(show_log)
def take_log(request: Request, place_id: str, form: Form) -> Response:
    """Take the file in, as it was confirmed."""
    key = form.text("key")
    order = temperature.TakeLog(
        form.text("file"), form.text("order"), form.text("unit"), form.text("zone"), form.system
    )
    form.done()
    temperature.take_log(context_of(request), _offered(request), key, order)
    return after(key, f"/freezer/places/{place_id}")


@router.post("/freezer/rule")
def choose_rule(request: Request, form: Form) -> Response:
    """Whose rule of raw fish holds."""
    key, back = form.text("key"), form.text("back")
    form.done()
    holds.choose_rule(context_of(request), key, holds.ChooseRule(form.text("rule")))
    return after(key, back if back.startswith(("/freezer/", "/b/")) else "/")


@router.get("/freezer/places/{place_id}/count")
def show_count(request: Request, place_id: str) -> Response:
    """Every bag of a place, to be ticked or scanned."""
    found = place_view.view_place(context_of(request), place_id)
    ctx = context_of(request)
    return page(
        request,
        "freezer/count.html",
        current_view(request),
        here="freezer",
        found=found,
        name=lambda bag: (
            ctx.guide.known_or_named(bag.species).name + " " + ctx.guide.piece(bag.piece).name
        ),
    )


by_form(
    router,
    "/freezer/places/{place_id}/count",
    stocktake.count_place,
    show_count,
    "/freezer/places/{place_id}",
    codes=_codes,
)


def _offered(request: Request) -> OfferedLogs:
    offered: OfferedLogs = request.app.state.offered_logs
    return offered


def _typed(request: Request, name: str) -> str:
    form = getattr(request.state, "form", None)
    return str(form.values.get(name, [""])[0]) if form else ""
