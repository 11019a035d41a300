"""Yield book: the page, and the file."""

import re
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.cutting.model import Skin
from lepidos.core.errors import BadInput, Refused
from lepidos.core.units import parse_length_m, parse_mass_kg
from lepidos.stations.yieldbook import drift, keep, report, season, yieldbook
from lepidos.web.drawings import charts
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import system_of
from lepidos.web.shell.orders import by_form
from lepidos.web.shell.render import context_of, fragment, page

router = APIRouter(include_in_schema=False)


@router.get("/trips/{trip_id}/yieldbook")
def show_book(request: Request, trip_id: str) -> Response:
    """What every fish gave."""
    ctx = context_of(request)
    book = yieldbook.view_book(ctx, trip_id)
    system = system_of(request)
    # a row a fish: drawn again only when something was entered
    rows = ctx.memo.get(
        ("book rows", trip_id, book.state, ctx.guide.edition, system),
        lambda: fragment(
            "yieldbook/_book_rows.html", system, book=book, how_weighed=yieldbook.how_weighed
        ),
        most=4,
    )
    return page(
        request,
        "yieldbook/yieldbook.html",
        book.view,
        here="yieldbook",
        book=book,
        dots=charts.yield_dots(book.rows),
        fish_rows=rows,
    )


@router.get("/trips/{trip_id}/yieldbook.csv")
def book_csv(request: Request, trip_id: str) -> Response:
    """The same as a file."""
    ctx = context_of(request)
    text = yieldbook.book_csv(ctx, trip_id)
    name = re.sub(r"[^A-Za-z0-9-]+", "-", f"yield-book-{trip_id}")
    return Response(
        text,
        media_type="text/csv; charset=utf-8",
        headers={"content-disposition": f'attachment; filename="{name}.csv"'},
    )


def _season(request: Request) -> season.Season:
    query = request.query_params
    year = query.get("year", "")
    chosen = int(year) if year.isascii() and year.isdecimal() and len(year) == 4 else 0
    party, order = query.get("party", "")[:200], query.get("by", "")[:20]
    return season.view_season(context_of(request), chosen, party, order)


@router.get("/season")
def show_season(request: Request) -> Response:
    """Where a season's kilograms went."""
    found = _season(request)
    return page(
        request,
        "yieldbook/season.html",
        current_view(request),
        here="yieldbook",
        found=found,
        columns=charts.season_columns(found.total),
        outcomes=season.OUTCOMES,
        by=request.query_params.get("by", ""),
        chosen=urlencode({"year": found.year, "party": found.party}),
    )


@router.get("/season.csv")
def show_season_csv(request: Request) -> Response:
    """The same as a file."""
    found = _season(request)
    return Response(
        season.season_csv(found),
        media_type="text/csv; charset=utf-8",
        headers={"content-disposition": f'attachment; filename="season-{found.year}.csv"'},
    )


@router.get("/season.pdf")
def show_season_pdf(request: Request) -> Response:
    """The same on paper."""
    found, ctx = _season(request), context_of(request)
    pdf = report.report_pdf(ctx, found.year, found.party, system_of(request), ctx.clock())
    return Response(
        pdf,
        media_type="application/pdf",
        headers={"content-disposition": f'inline; filename="season-{found.year}.pdf"'},
    )


@router.get("/season/cutters")
def show_cutters(request: Request) -> Response:
    """Whose fish have begun to give less than was foreseen."""
    found = drift.view_drift(context_of(request))
    return page(
        request,
        "yieldbook/cutters.html",
        current_view(request),
        here="yieldbook",
        found=found,
        chart=charts.drift_chart,
        least=drift.MIN_FISH,
    )


by_form(router, "/season/cutters/sharpened", drift.sharpen, show_cutters, "/season/cutters")


@router.get("/season/keep")
def show_keep(request: Request) -> Response:
    """How many fish to keep for what is wished."""
    ctx, query, system = context_of(request), request.query_params, system_of(request)
    fields = ("species", "length", "portions", "serving")
    asked = {name: query.get(name, "")[:60] for name in fields}
    skin: Skin = "off" if query.get("skin") == "off" else "on"
    found, problems = None, {}
    if asked["species"]:
        try:
            number = asked["portions"]
            length_m = parse_length_m(asked["length"], system)
            serving_kg = parse_mass_kg(asked["serving"], system)
            portions = int(number) if number.isascii() and number.isdecimal() else 0
            wanted = keep.Wanted(asked["species"], length_m, portions, serving_kg, skin)
            found = keep.how_many(ctx, wanted)
        except BadInput as error:
            problems["length"] = f"Length and portion as numbers: {error}"
        except Refused as error:
            problems = error.problems
    if problems:
        request.state.problems = problems
    return page(
        request,
        "yieldbook/keep.html",
        current_view(request),
        here="yieldbook",
        found=found,
        asked=asked,
        skin=skin,
        names=sorted(str(one.name) for one in ctx.guide.species.values()),
    )
