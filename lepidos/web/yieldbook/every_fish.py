"""Every fish of every trip: the page, and the files."""

from urllib.parse import urlencode

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.errors import Unknown
from lepidos.core.yields.stages import STAGES
from lepidos.stations.yieldbook import book_file, every_fish
from lepidos.stations.yieldbook.book_figures import BY, METHOD, BookSelection, share_of
from lepidos.web.drawings import book_charts
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import system_of
from lepidos.web.shell.render import context_of, page

router = APIRouter(include_in_schema=False)
MAX_LENGTH = 200


def _asked(request: Request) -> BookSelection:
    query = request.query_params

    def text(name: str, otherwise: str = "") -> str:
        return query.get(name, otherwise)[:MAX_LENGTH]

    def number(name: str) -> int:
        found = query.get(name, "")
        return int(found) if found.isascii() and found.isdecimal() and len(found) < 7 else 0

    by = text("by", "species")
    known = by in BY or by.removeprefix(METHOD) in _methods(request)
    under, over = text("under", "round"), text("over")
    return BookSelection(
        every_fish.ALL_YEARS if text("year") == "all" else number("year"),
        text("species"),
        text("cutter"),
        text("party"),
        by if known else "species",
        over if over in STAGES else "",
        under if under in STAGES else "round",
        text("order", "newest"),
        number("page") or 1,
    )


def _methods(request: Request) -> dict[str, str]:
    """The questions of how to cut, by their keys."""
    return {m.key: m.question.rstrip("?") for m in context_of(request).guide.methods.methods}


def _query(asked: BookSelection) -> dict[str, str]:
    year = "all" if asked.year == every_fish.ALL_YEARS else str(asked.year)
    return {
        "year": year, "species": asked.species, "cutter": asked.cutter, "party": asked.party,
        "by": asked.by, "over": asked.over, "under": asked.under, "order": asked.order,
    }  # fmt: skip


@router.get("/season/fish")
def show_fish(request: Request) -> Response:
    """Stage yields of every fish, put together and sorted as one likes."""
    ctx, system = context_of(request), system_of(request)
    found = every_fish.view_fish(ctx, _asked(request))
    chosen = _query(found.asked)
    groups = {key: name for key, (name, _) in BY.items()}
    groups |= {f"{METHOD}{key}": text for key, text in _methods(request).items()}
    return page(
        request,
        "yieldbook/every_fish.html",
        current_view(request),
        here="yieldbook",
        found=found,
        asked=found.asked,
        by=groups,
        orders={key: name for key, (name, _) in every_fish.ORDERS.items()},
        stages=STAGES,
        share_of=share_of,
        species=every_fish.species_named(ctx, found.asked),
        size_chart=book_charts.by_size(found.dots, found.band, system),
        time_chart=book_charts.by_time(found.dots),
        link=lambda **other: "?" + urlencode({**chosen, **other}),
        files=urlencode(chosen),
        all_years=every_fish.ALL_YEARS,
        cost=every_fish.cost_of(ctx, found),
    )


@router.get("/season/fish.{kind}")
def show_file(request: Request, kind: str) -> Response:
    """The same fish as a file."""
    if kind not in book_file.KINDS:
        raise Unknown("kind of file", kind)
    ctx = context_of(request)
    found = every_fish.view_fish(ctx, _asked(request))
    return Response(
        book_file.book_file(ctx, found, kind),
        media_type=book_file.KINDS[kind],
        headers={"content-disposition": f'attachment; filename="fish.{kind}"'},
    )
