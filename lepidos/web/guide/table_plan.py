"""Table plan: the page, and the bench cards."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.fish.blade import blade_paths
from lepidos.core.units import System, format_length, format_mass, format_range
from lepidos.exchange.benchcard import BenchCard, bench_cards_pdf
from lepidos.guide.library import Guide
from lepidos.stations.guide.planner import Planned
from lepidos.stations.guide.table_plan import plan_table
from lepidos.web.guide.species import asked_plan
from lepidos.web.shell.forms import system_of
from lepidos.web.shell.render import context_of, page

router = APIRouter(include_in_schema=False)


@router.get("/trips/{trip_id}/plan")
def show_plan(request: Request, trip_id: str) -> Response:
    """All that waits, planned together."""
    ctx = context_of(request)
    plan = plan_table(ctx, trip_id)
    return page(request, "guide/table_plan.html", plan.view, here="table", plan=plan,
                plans=ctx.guide.plans, purposes=ctx.guide.methods.purposes)  # fmt: skip


@router.get("/trips/{trip_id}/plan.pdf")
def table_cards(request: Request, trip_id: str) -> Response:
    """A bench card for each species that waits."""
    ctx, system = context_of(request), system_of(request)
    plan = plan_table(ctx, trip_id)
    cards = [card_of(ctx.guide, g.planned, system, ", ".join(g.codes)) for g in plan.groups]
    return _pdf(bench_cards_pdf(cards, ctx.clock()), "bench-cards")


@router.get("/guide/{key}/card.pdf")
def species_card(request: Request, key: str) -> Response:
    """The bench card of a plan in the guide."""
    ctx, system = context_of(request), system_of(request)
    planned, _, _ = asked_plan(request, ctx.guide, ctx.guide.one(key), system)
    card = card_of(ctx.guide, planned, system, "")
    return _pdf(bench_cards_pdf([card], ctx.clock()), f"bench-card-{key}")


def card_of(guide: Guide, planned: Planned, system: System, codes: str) -> BenchCard:
    """What stands on a bench card."""
    species, plan = planned.species, guide.plan_of(planned.species)
    size = f"{format_length(planned.fish.length_m, system, 0)} total, "
    size += f"{format_mass(planned.fish.round_kg, system)}, skin {planned.cut.skin}"
    cautions = {key for keys in planned.cautions.values() for key in keys}
    names = []
    for key, grams in planned.expected.items():
        piece, _, side = key.partition(".")
        shown = format_range(grams.low, grams.high, system)
        names.append((plan.call(guide.piece(piece).name, side), shown))
    return BenchCard(
        title=species.name,
        line=f"{codes + ': ' if codes else ''}{size}; about {planned.cut.minutes:.0f} min a fish",
        body=guide.body_of(species),
        plan=plan,
        zones=tuple(dict.fromkeys(p.zone for p in planned.cut.pieces if p.zone)),
        faces_right=species.shape.faces == "right",
        steps=tuple(
            (s.title, tool.tool, blade_paths(guide.body_of(species), species, plan, s))
            for s, tool in zip(planned.cut.steps, planned.tools, strict=True)
        ),
        cautions=tuple(
            f"Care. {guide.cautions[c].text}"
            for c in sorted(cautions, key=lambda c: guide.cautions[c].grave)
        ),
        pieces=tuple(names[:9]),
        first_aid=tuple(
            (aid.title, f"{aid.help} {' '.join(aid.do)}")
            for aid in guide.first_aid.aids
            if set(aid.cautions) & cautions - {"knife"}
        ),
    )


def _pdf(data: bytes, name: str) -> Response:
    headers = {"content-disposition": f'inline; filename="{name}.pdf"'}
    return Response(data, media_type="application/pdf", headers=headers)
