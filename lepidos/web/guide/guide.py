"""Guide: the fish that Lepidos knows, its techniques, tools, pieces and cautions."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.core.fish.species import Species
from lepidos.guide.do_not_eat import do_not_eat
from lepidos.guide.names import ALIKE, FITS
from lepidos.stations.base.waters import is_at_home
from lepidos.stations.guide.planner import techniques
from lepidos.web.drawings import cuts, fish
from lepidos.web.shell.current import current_view
from lepidos.web.shell.render import context_of, page

router = APIRouter(include_in_schema=False)

AT_ONCE = 12  # drawings that a page brings with it
MAX_DRAWINGS = 40  # of one request


@router.get("/guide")
def list_species(request: Request) -> Response:
    """Every fish by kind, or those that a name finds."""
    ctx = context_of(request)
    guide = ctx.guide
    asked = request.query_params.get("q", "")[:60]
    home = is_at_home(ctx)

    def at_home_first(one: Species) -> tuple[bool, str]:
        return not home(one), one.name.lower()

    found = guide.search(asked) if asked else sorted(guide.species.values(), key=at_home_first)
    called = guide.called(asked) if asked else ()
    kinds: dict[str, list[Species]] = {}
    for one in found:
        kinds.setdefault("found" if asked else one.kind, []).append(one)
    return page(
        request,
        "guide/guide.html",
        current_view(request),
        here="guide",
        asked=asked,
        called=called,
        warned=do_not_eat().search(asked, least=FITS if called else ALIKE),
        dangers=do_not_eat().dangers,
        total=len(found),
        kinds=sorted(kinds.items(), key=lambda kind: (not any(map(home, kind[1])), kind[0])),
        # more than a screenful of drawings come one by one as they come into view
        symbols=fish.symbols(guide, {s.key for s in found if len(found) <= AT_ONCE}),
        at_once=len(found) <= AT_ONCE,
        boxes=fish.view_boxes(guide, {s.key for s in found}),
        plans=guide.plans,
    )


@router.get("/live/drawings")
def live_drawings(request: Request) -> dict[str, str]:
    """Drawings of fish for a page that shows them now, by key. What the guide lost is left out."""
    guide = context_of(request).guide
    keys = request.query_params.get("fish", "").split(",")[:MAX_DRAWINGS]
    return {key: fish.drawn(guide, key, True)[1] for key in keys if key in guide.species}


@router.get("/guide/pieces")
def list_pieces(request: Request) -> Response:
    """The pieces, and what they are worth."""
    return _catalogue(request, "pieces")


@router.get("/guide/tools")
def list_tools(request: Request) -> Response:
    """The tools and their care."""
    return _catalogue(request, "tools")


@router.get("/guide/schools")
def list_methods_by_their_old_name() -> Response:
    """Where this page was before."""
    return RedirectResponse("/guide/methods", 308)


@router.get("/guide/methods")
def list_methods(request: Request) -> Response:
    """Where people disagree, both ways."""
    return _catalogue(request, "methods")


@router.get("/guide/cautions")
def list_cautions(request: Request) -> Response:
    """Every caution, and who decides."""
    return _catalogue(request, "cautions")


@router.get("/guide/do-not-eat")
def list_do_not_eat(request: Request) -> Response:
    """What must not be eaten or brought ashore, or only with care, by the worst that it can do."""
    known = do_not_eat()
    sections = []
    for key, danger in known.groups.items():
        kinds = [one for one in known.kinds if known.dangers(one)[0] is danger]
        if kinds:
            sections.append((key, danger, kinds))
    return page(
        request,
        "guide/do_not_eat.html",
        current_view(request),
        here="guide",
        sections=sections,
        dangers=known.dangers,
    )


@router.get("/first-aid")
def show_first_aid(request: Request) -> Response:
    """First aid as a page of its own, for a browser without scripts."""
    return page(request, "guide/first_aid.html", current_view(request))


@router.get("/guide/techniques")
def list_techniques(request: Request) -> Response:
    """Every way of the knife for one family of fish, each drawn on a fish that is cut so."""
    guide = context_of(request).guide
    fish: dict[str, list[Species]] = {}
    for one in sorted(guide.species.values(), key=_by_name):
        fish.setdefault(one.body_plan, []).append(one)
    asked = request.query_params.get("family", "")
    family = asked if asked in fish else max(fish, key=lambda key: len(fish[key]))
    typical = fish[family][0]
    return page(
        request,
        "guide/techniques.html",
        current_view(request),
        here="guide",
        guide=guide,
        families=[guide.plans[key] for key in sorted(fish)],
        family=family,
        fish=fish[family],
        typical=typical,
        shown=[
            (step, cuts.step_drawing(guide, typical, step))
            for step in techniques(guide.plans[family])
        ],
    )


def _catalogue(request: Request, what: str) -> Response:
    guide = context_of(request).guide
    return page(
        request, "guide/catalogue.html", current_view(request), here="guide", what=what, guide=guide
    )


def _by_name(one: Species) -> str:
    return one.name.lower()
