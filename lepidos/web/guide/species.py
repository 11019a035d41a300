"""One fish of the guide: its figures with their sources, and its plan for a size and a purpose."""

from collections.abc import Iterable
from dataclasses import dataclass
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.catch.size_class import size_of
from lepidos.core.cutting.differences import Difference
from lepidos.core.errors import BadInput, OutOfRange
from lepidos.core.fish.bodyplan import BodyPlan
from lepidos.core.fish.species import Species
from lepidos.core.freezer.keeping_time import USUAL_C
from lepidos.core.units import System, format_length, format_mass, parse_length_m, parse_mass_kg
from lepidos.guide.library import Guide
from lepidos.stations.guide.planner import STATES, AskPlan, Planned, plan_fish
from lepidos.stations.table.wishes import CrewSaying, WishOfCrew, crew_sayings, wish_of_crew
from lepidos.web.drawings import cuts
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form, system_of
from lepidos.web.shell.orders import read_order
from lepidos.web.shell.render import after, context_of, page, shows_again
from lepidos.web.table.wishes import said_of

router = APIRouter(include_in_schema=False)

MIN_SHARE = 0.35  # of the page's width: a smaller drawing cannot be read
ASKED = {"length", "weight", "length_type", "purpose", "state", "skin", "tool", "at"}


@router.get("/guide/{key}")
def show_species(request: Request, key: str) -> Response:
    """One fish: drawing, figures with sources, and its plan for a size and a purpose."""
    ctx, system = context_of(request), system_of(request)
    guide = ctx.guide
    one = guide.one(key)
    plan = guide.plan_of(one)
    planned, ask, problems = asked_plan(request, guide, one, system)
    request.state.problems = problems
    station = _station(request)
    shown = request.query_params.get("step", "")
    step = next((s for s in planned.cut.steps if s.key == shown), None)
    look = request.query_params.get("look", "")
    if look not in dict(_looks(plan)):
        look = "blind" if cuts.is_blind(plan, step) else "alive"
    return page(
        request,
        "guide/species.html",
        current_view(request),
        about=one,
        here="guide",
        one=one,
        plan=plan,
        ask=ask,
        planned=planned,
        usual_c=USUAL_C,
        query=request.query_params,
        usual=format_length(one.longest_cm / 200, system, 0),
        size=size_of(planned.fish.round_kg, one),
        drag=_drag(one, ask.length_m, system),
        share=max(MIN_SHARE, min(1.0, ask.length_m * 100 / one.longest_cm)),
        looks=_looks(plan),
        look=look,
        ways_at=_ways_at(planned),
        grams=lambda d: _grams(planned, d, system),
        asked=[
            (k, v) for k, v in request.query_params.multi_items() if k in ASKED or k[:4] == "way."
        ],
        changed=any(k[:4] == "way." for k in request.query_params),
        plain=_address(p for p in request.query_params.multi_items() if p[0][:4] != "way."),
        following=_following(ask, planned),
        crew_says=crew_sayings(ctx, key),
        usual_again=_usual_again,
        step=step,
        station=station,
        never=guide.never_used(one),
        drawings=cuts.plan_drawings(guide, planned, step, station, look == "dead"),
        section=cuts.section_svg(guide, one, station, planned.fish.length_m, ask.round_kg),
        with_=lambda name, value: _address([*_without(request, name), (name, value)]),
        pieces=guide.pieces,
        methods=guide.methods,
        tools=guide.tools,
        states=STATES,
        slot_name=lambda slot: plan.call(
            guide.pieces[slot.partition(".")[0]].name, slot.partition(".")[2]
        ),
        shared=[
            (name, [other for other in guide.called(name) if other.key != key])
            for name in (one.name, *one.other_names)
        ],
        lookalikes=[
            k for k in guide.lookalikes.values() if key in {c.species for c in k.candidates}
        ],
    )


@router.post("/guide/{key}/follow")
@shows_again(show_species)
def follow_plan(request: Request, key: str, form: Form) -> Response:
    """Cut such fish so at the table from now on."""
    request_key = form.text("key")
    order = read_order(form, WishOfCrew, species=key, said=said_of(form))
    wish_of_crew(context_of(request), request_key, order)
    return after(request_key, f"/guide/{key}")


def _looks(plan: BodyPlan) -> list[tuple[str, str]]:
    """How a fish can be looked at: (key, name)."""
    blind = [("blind", plan.side_names["B"])] if plan.lies_flat else []
    return [("alive", "just landed"), ("dead", "some hours later"), *blind]


def asked_plan(
    request: Request, guide: Guide, one: Species, system: System
) -> tuple[Planned, AskPlan, dict[str, str]]:
    """The plan that an address asks for, and what could not be read of it, by field."""
    ask, problems = _asked(request, one, system)
    try:
        return plan_fish(guide, ask), ask, problems
    except (BadInput, OutOfRange) as error:
        problems["plan"] = str(error)
        usual = AskPlan(one.key, one.longest_cm / 200, one.length_type)
        return plan_fish(guide, usual), usual, problems


def _asked(request: Request, one: Species, system: System) -> tuple[AskPlan, dict[str, str]]:
    """The plan that the address asks for; what cannot be read is said, and left at its usual."""
    query, problems = request.query_params, {}
    length_m, kg = one.longest_cm / 200, None
    for name in ("length", "weight"):
        text = query.get(name, "")[:60].strip()
        if not text:
            continue
        try:
            if name == "length":
                length_m = parse_length_m(text, system)
            else:
                kg = parse_mass_kg(text, system)
        except BadInput as error:
            problems[name] = str(error)
    ways = {
        name.removeprefix("way."): value
        for name, value in query.items()
        if name.startswith("way.") and value
    }
    tools = query.getlist("tool")
    return AskPlan(
        one.key,
        length_m,
        next((k for k in one.length_types if k == query.get("length_type")), one.length_type),
        kg,
        query.get("purpose", "freezer"),
        query.get("state", "whole"),
        "off" if query.get("skin") == "off" else "on",
        ways,
        frozenset(tools),
    ), problems


def _station(request: Request) -> float:
    """Where the section is taken, as hundredths of a station; over the ribs unless asked."""
    text = request.query_params.get("at", "")
    if not (text.isascii() and text.isdecimal() and len(text) < 6):
        return 1.5
    return min(2.9, max(0.3, int(text) / 100))


@dataclass(frozen=True)
class Drag:
    """The range over which a length is dragged, in the units shown."""

    low: int
    high: int
    step: float
    now: float
    unit: str


def _drag(one: Species, length_m: float, system: System) -> Drag:
    """From the smallest that anyone measured to the longest known."""
    per, unit = (2.54, "in") if system == "imperial" else (1.0, "cm")
    low = max(1, round(one.longest_cm * 0.1 / per))
    return Drag(low, round(one.longest_cm / per), 1, round(length_m * 100 / per, 1), unit)


def _ways_at(planned: Planned) -> dict[str, list[Difference]]:
    """Each difference at the step that it concerns, by the step's key."""
    found: dict[str, list[Difference]] = {}
    for one in planned.differences:
        found.setdefault(one.at, []).append(one)
    return found


def _grams(planned: Planned, one: Difference, system: System) -> str:
    """What the other way changes of the fillets, "" when nothing."""
    fillets = sum(
        e.value
        for key, e in planned.expected.items()
        if key.partition(".")[0] in {p.piece for p in planned.cut.pieces if p.zone}
    )
    change = fillets * (one.fillet_factor - 1)
    return ("−" if change < 0 else "+") + format_mass(abs(change), system) if change else ""


def _following(ask: AskPlan, planned: Planned) -> list[tuple[str, str]]:
    """What a crew takes over to the table, as fields of a form."""
    found = [("size", size_of(planned.fish.round_kg, planned.species)), ("purpose", ask.purpose)]
    found += [("skin", "off" if ask.skin == "off" else "")]
    found += [("way", f"{key}:{way}") for key, way in ask.methods.items()]
    return [*found, ("tools", "1"), *(("tool", tool) for tool in sorted(ask.tools))]


def _usual_again(saying: CrewSaying) -> list[tuple[str, str]]:
    """The fields of a form that takes back all that a crew said."""
    found = [("size", saying.size), ("purpose", ""), ("skin", ""), ("tools", "1"), ("asks", "1")]
    return [*found, *(("way", f"{key}:") for key in saying.wish.methods)]


def _address(query: Iterable[tuple[str, str]]) -> str:
    return "?" + urlencode(list(query))


def _without(request: Request, name: str) -> list[tuple[str, str]]:
    return [(k, v) for k, v in request.query_params.multi_items() if k != name]
