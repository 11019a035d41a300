"""`lepidos calc`: every core model with its physical parameters as plain options."""

import csv
import json
import math
import time
from datetime import date
from pathlib import Path
from random import Random
from typing import Annotated, Any, Literal

import typer
from pydantic import BaseModel, ConfigDict, ValidationError

from lepidos.core import bench, catch, chill, freezing, ice, portions, spoilage, yields
from lepidos.core.anatomy import fillet_profile, zone_extent
from lepidos.core.cutting import Slot
from lepidos.core.errors import BadInput, OutOfRange, Refused, Unknown
from lepidos.core.estimate import Estimate
from lepidos.core.species import LengthWeight, Ratio
from lepidos.core.units import convert
from lepidos.guide.library import load_guide

calc = typer.Typer(no_args_is_help=True)

AsJson = Annotated[bool, typer.Option("--json", help="Print JSON")]
SpeciesName = Annotated[str, typer.Option(help="A species of the guide, by any of its names")]
LengthKind = Annotated[Literal["total", "fork"], typer.Option(help="What the length is")]
Level = Annotated[float, typer.Option(help="Probability of the interval")]


@calc.command("length-weight")
def length_weight(
    length_cm: Annotated[float, typer.Option(help="Length [cm]")],
    species: SpeciesName = "",
    length_type: LengthKind = "total",
    a: Annotated[float, typer.Option(help="a of W [g] = a · L [cm]^b")] = 0.0,
    b: Annotated[float, typer.Option(help="b of W [g] = a · L [cm]^b")] = 0.0,
    sd_log: Annotated[float, typer.Option(help="Residual SD of ln W")] = 0.12,
    total_per_fork: Annotated[float, typer.Option(help="Total per fork length")] = 1.0,
    level: Level = catch.LEVEL,
    as_json: AsJson = False,
) -> None:
    """Round weight to expect from a length, with its interval [kg]."""
    if species:
        one = load_guide().find(species)
        estimate = catch.weight_from_length(length_cm / 100, length_type, one, level)
    else:
        if not (a and b):
            raise Refused({"": "Give a species, or a and b"})
        fit = LengthWeight(
            a=a, b=b, sd_log=sd_log, length_type="total",
            smallest_cm=0.1, largest_cm=1e4, source="as given",
        )  # fmt: skip
        ratio = Ratio(mean=total_per_fork, sd=0.0, source="as given")
        estimate = catch.weight_from_fit(length_cm / 100, length_type, fit, ratio, level)
    _show(_estimate(estimate), as_json)


@calc.command("length-weight-fit")
def length_weight_fit(
    file: Annotated[Path, typer.Argument(help="CSV with the columns length_cm and weight_g")],
    at_cm: Annotated[float, typer.Option(help="Also predict at this length [cm]")] = 0.0,
    level: Level = catch.LEVEL,
    as_json: AsJson = False,
) -> None:
    """Fit W = a · L^b to fish of your own."""
    with file.open(encoding="utf-8", newline="") as lines:
        rows = list(csv.DictReader(lines))
    try:
        lengths = [float(row["length_cm"]) / 100 for row in rows]
        weights = [float(row["weight_g"]) / 1000 for row in rows]
    except (KeyError, TypeError, ValueError) as error:
        raise BadInput(f"{file}: columns length_cm and weight_g must hold numbers") from error
    fit = catch.fit_length_weight(lengths, weights)
    found: dict[str, Any] = {"a": fit.a, "b": fit.b, "sd_log": fit.sd_log, "n": fit.n}
    if at_cm:
        low, high = fit.interval_kg(at_cm / 100, level)
        found |= {"at_cm": at_cm, "level": level, "low_kg": low, "high_kg": high}
    _show(found, as_json)


@calc.command("portions")
def cut_portions(
    weight_kg: Annotated[float, typer.Option(help="Fillet mass [kg]")],
    serving_kg: Annotated[float, typer.Option(help="Serving asked for [kg]")] = 0.2,
    length_cm: Annotated[
        float, typer.Option(help="Fillet length [cm]; 0 with a species and its length")
    ] = 0.0,
    species: SpeciesName = "",
    fish_length_cm: Annotated[float, typer.Option(help="The fish's total length [cm]")] = 0.0,
    zone: Annotated[str, typer.Option(help="Zone of the body plan; empty: its first fillet")] = "",
    plateau: Annotated[
        float, typer.Option(help="Full width and thickness up to this share")
    ] = 0.45,
    tail_width: Annotated[float, typer.Option(help="Width at the tail, of the widest")] = 0.45,
    tail_thickness: Annotated[
        float, typer.Option(help="Thickness at the tail, of the thickest")
    ] = 0.28,
    tail_apart: Annotated[bool, typer.Option(help="Portion the thin tail on its own")] = True,
    per_bag: Annotated[int, typer.Option(help="Portions in a bag")] = 2,
    as_json: AsJson = False,
) -> None:
    """Equal-portion marks from the head end [cm], expected masses and bags."""
    profile = portions.simple_profile(plateau, tail_width, tail_thickness)
    if species:
        guide = load_guide()
        one = guide.find(species)
        plan, body = guide.plan_of(one), guide.body_of(one)
        fillets = [z.key for z in plan.zones if guide.pieces[z.piece].tail_apart]
        key = zone or fillets[0]
        if key not in {z.key for z in plan.zones}:
            raise Unknown("zone", key, tuple(fillets))
        profile = fillet_profile(body, plan, key)
        if not length_cm:
            start, end = zone_extent(body, plan, key)
            length_cm = (end - start) * fish_length_cm
    found = portions.equal_portions(profile, weight_kg, length_cm / 100, serving_kg, tail_apart)
    _show(
        {
            "length_cm": length_cm,
            "marks_cm": [m * 100 for m in found.marks_m],
            "thickest_cm": found.thickest_m * 100,
            "tail_cm": found.thinnest_m * 100,
            "portions": [
                {
                    "from_cm": p.from_m * 100,
                    "to_cm": p.to_m * 100,
                    "kg": p.kg,
                    "low_kg": p.low_kg,
                    "high_kg": p.high_kg,
                    "tail": p.tail,
                }
                for p in found.portions
            ],
            "bags": [
                [p.index for p in b.portions] for b in portions.into_bags(found.portions, per_bag)
            ],
        },
        as_json,
    )


@calc.command("balance")
def mass_balance(
    round_kg: Annotated[float, typer.Option(help="Round mass [kg]")],
    part: Annotated[
        list[str], typer.Option(help="A weighed part, as in gut=0.35 or fillet.A=0.58")
    ],
    skin: Annotated[Literal["on", "off"], typer.Option(help="Fillets' skin")] = "on",
    species: SpeciesName = "",
    as_json: AsJson = False,
) -> None:
    """Mass balance of a fish, its fillet yield, and with a species what is usual."""
    guide = load_guide()
    parts = []
    for text in part:
        name, _, kg = text.partition("=")
        piece, _, side = name.partition(".")
        guide.piece(piece)
        try:
            parts.append(yields.Part(Slot(piece, side), float(kg)))
        except ValueError as error:
            raise BadInput(f"“{text}” is no part; write it as gut=0.35") from error
    found = yields.balance(round_kg, parts)
    figure = yields.fillet_yield(found, skin, guide.pieces)
    shown: dict[str, Any] = {
        "round_kg": found.round_kg,
        "weighed_kg": found.weighed_kg,
        "rest_kg": found.rest_kg,
        "over": found.over,
        "fillet_yield": None
        if figure is None
        else {
            "fraction": figure.fraction,
            "numerator": figure.numerator,
            "denominator": figure.denominator,
        },
    }
    if species:
        usual = yields.expected_fillet(round_kg, guide.find(species), skin)
        shown["usual_fillet"] = _estimate(usual)
    _show(shown, as_json)


@calc.command("yield")
def expected_yield(
    species: SpeciesName,
    round_kg: Annotated[float, typer.Option(help="Round mass [kg]")],
    skin: Annotated[Literal["on", "off"], typer.Option(help="Fillets' skin")] = "on",
    level: Level = yields.LEVEL,
    as_json: AsJson = False,
) -> None:
    """Fillet to expect from a whole fish [kg], both sides."""
    usual = yields.expected_fillet(round_kg, load_guide().find(species), skin, level)
    _show(_estimate(usual), as_json)


@calc.command("keeping")
def keeping(
    species: SpeciesName,
    packed: Annotated[str, typer.Option(help="Day of packing, as 2026-07-14")],
    as_json: AsJson = False,
) -> None:
    """Best-by date of a sealed bag at −18 °C."""
    one = load_guide().find(species)
    try:
        day = date.fromisoformat(packed)
    except ValueError as error:
        raise BadInput(f"“{packed}” is no date, such as 2026-07-14") from error
    best = freezing.best_by(day, one.keeping)
    _show(
        {
            "best_by": best.isoformat(),
            "months": one.keeping.months,
            "fat": one.keeping.fat,
            "source": one.keeping.source,
        },
        as_json,
    )


@calc.command("units")
def units(
    value: Annotated[float, typer.Option(help="The number")],
    unit: Annotated[str, typer.Option("--from", help="Its unit: kg g lb oz m cm mm in ft c f k")],
    to: Annotated[str, typer.Option(help="The unit wanted")],
    as_json: AsJson = False,
) -> None:
    """Convert a mass, a length or a temperature."""
    if value != value or value in {float("inf"), float("-inf")}:
        raise OutOfRange("value", value, -1e300, 1e300, unit)
    _show({"value": convert(value, unit, to), "unit": to}, as_json)


@calc.command("cooling")
def cooling(
    medium_c: Annotated[float | None, typer.Option(help="Temperature around it [°C]")] = None,
    medium: Annotated[str, typer.Option(help=f"Instead: one of {', '.join(chill.MEDIA)}")] = "",
    h: Annotated[
        float, typer.Option(help="Heat transfer coefficient [W/(m²·K)]; 0: the medium's")
    ] = 0.0,
    start_c: Annotated[float, typer.Option(help="Temperature at the start [°C]")] = 14.0,
    diameter_cm: Annotated[float, typer.Option(help="Diameter or thickness [cm]")] = 0.0,
    shape: Annotated[
        Literal["cylinder", "slab", "sphere"], typer.Option(help="Its shape")
    ] = "cylinder",
    length_cm: Annotated[
        float, typer.Option(help="Length of the cylinder, or of the fish [cm]")
    ] = 0.0,
    species: SpeciesName = "",
    weight_kg: Annotated[
        float, typer.Option(help="Round weight of the fish [kg]; 0: estimated")
    ] = 0.0,
    time_min: Annotated[float | None, typer.Option(help="Time [min]")] = None,
    target_c: Annotated[float | None, typer.Option(help="Core temperature to reach [°C]")] = None,
    as_json: AsJson = False,
) -> None:
    """Core temperature after a time, or the time to a core temperature, by the whole series."""
    if (time_min is None) == (target_c is None):
        raise Refused({"": "Give either --time-min or --target-c"})
    if medium and medium not in chill.MEDIA:
        raise Unknown("medium", medium, tuple(chill.MEDIA))
    around = chill.MEDIA[medium] if medium else None
    if around is None and (medium_c is None or not h):
        raise Refused({"": "Give --medium, or --medium-c with --h"})
    celsius = medium_c if medium_c is not None else around.celsius if around else 0.0
    coefficient = h or (around.h if around else 0.0)
    ends = math.inf
    body = chill.CoolingBody(shape, diameter_cm / 100)
    if species:
        guide = load_guide()
        one = guide.find(species)
        kg = weight_kg or catch.weight_from_length(length_cm / 100, "total", one).value
        body = chill.cooling_body(guide.body_of(one), length_cm / 100, kg)
    elif length_cm:
        ends = length_cm / 100
    shown: dict[str, Any] = {
        "shape": body.shape,
        "size_cm": body.size_m * 100,
        "medium_c": celsius,
        "h_w_per_m2_k": coefficient,
        "biot": coefficient * body.size_m / 2 / chill.CONDUCTIVITY,
    }
    if time_min is not None:
        shown["time_min"] = time_min
        shown["core_c"] = chill.core_temperature(
            body.shape, body.size_m, start_c, celsius, coefficient, time_min * 60, ends
        )
    elif target_c is not None:
        seconds = chill.time_to(
            body.shape, body.size_m, start_c, celsius, coefficient, target_c, ends
        )
        shown["target_c"] = target_c
        shown["never"] = math.isinf(seconds)
        shown["time_min"] = None if math.isinf(seconds) else seconds / 60
    _show(shown, as_json)


@calc.command("ice")
def ice_needed(
    fish_kg: Annotated[float, typer.Option(help="Fish to cool [kg]")],
    from_c: Annotated[float, typer.Option(help="Its temperature [°C]")],
    to_c: Annotated[float, typer.Option(help="Temperature wanted [°C]")] = 0.0,
    box_ua_w_per_k: Annotated[float, typer.Option(help="The box's UA [W/K]")] = 0.0,
    outside_c: Annotated[float, typer.Option(help="Temperature around the box [°C]")] = 0.0,
    hours: Annotated[float, typer.Option(help="How long it must hold [h]")] = 0.0,
    as_json: AsJson = False,
) -> None:
    """Ice that cools the fish, and that the box melts meanwhile [kg]."""
    cooling_kg = ice.ice_to_cool(fish_kg, from_c, to_c)
    box_kg = ice.box_melt(box_ua_w_per_k, outside_c, hours * 3600)
    _show(
        {
            "ice_to_cool_kg": cooling_kg,
            "ice_to_cool_fao_kg": ice.ice_to_cool_fao(fish_kg, from_c),
            "box_melt_kg": box_kg,
            "ice_kg": cooling_kg + box_kg,
        },
        as_json,
    )


@calc.command("spoilage")
def ice_days_used(
    file: Annotated[Path, typer.Argument(help="CSV with the columns minutes and celsius")],
    climate: Annotated[
        Literal["temperate", "tropical"], typer.Option(help="Whose rate")
    ] = "temperate",
    as_json: AsJson = False,
) -> None:
    """Days on ice that a temperature history was worth."""
    seconds, celsius = _temperatures(file)
    used = spoilage.ice_days(seconds, celsius, climate)
    _show({"ice_days": used, "hours": (seconds[-1] - seconds[0]) / 3600}, as_json)


@calc.command("histamine")
def histamine(
    file: Annotated[Path, typer.Argument(help="CSV with the columns minutes and celsius")],
    warmest_c: Annotated[float, typer.Option(help="Warmest air or water before ice [°C]")] = 20.0,
    gutted: Annotated[bool, typer.Option(help="Gutted before chilling")] = False,
    as_json: AsJson = False,
) -> None:
    """Hours above 4.4 °C against the guidance's limits. Local guidance decides."""
    seconds, celsius = _temperatures(file)
    clock = spoilage.histamine_clock(seconds, celsius)
    _show(
        {
            "hours_to_chill": clock.hours_to_chill,
            "chill_within_hours": spoilage.hours_until_chilled_by(warmest_c, gutted),
            "hours_above_4_4": clock.hours_above,
            "allowed_hours_above_4_4": clock.allowed_above,
            "hours_left": clock.left,
            "was_above_21": clock.past_21,
        },
        as_json,
    )


class BenchFish(BaseModel):
    """A fish of `calc bench`'s table; times in minutes from now."""

    model_config = ConfigDict(extra="forbid")
    key: str
    cut_min: float | list[float]
    by_min: float = 1e6
    from_min: float = 0.0
    weight: float = 1.0
    kind: str = "white"


class BenchTable(BaseModel):
    """`calc bench`'s table: fish, cutters, and minutes between kinds as "dark>white"."""

    model_config = ConfigDict(extra="forbid")
    fish: list[BenchFish]
    cutters: list[str] = ["cutter 1"]
    last_kind: str = ""
    changeover_min: dict[str, float] = {}


@calc.command("bench")
def bench_order(
    file: Annotated[Path, typer.Argument(help="JSON: fish, cutters, changeover_min")],
    seconds: Annotated[float, typer.Option(help="How long to improve [s]")] = 2.0,
    seed: Annotated[int, typer.Option(help="Seed of the search")] = 1,
    as_json: AsJson = False,
) -> None:
    """What to cut next, by whom, and when the table is clear; proven for small tables."""
    try:
        asked = BenchTable.model_validate_json(file.read_text("utf-8"))
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise BadInput(f"{file}: {where}: {first['msg']}") from error
    jobs = [
        bench.Job(
            fish.key,
            fish.from_min * 60,
            fish.by_min * 60,
            fish.weight,
            fish.kind,
            tuple(m * 60 for m in _minutes(fish, len(asked.cutters))),
        )
        for fish in asked.fish
    ]
    boards = [bench.Cutter(name, last_kind=asked.last_kind) for name in asked.cutters]
    changes = {}
    for name, minutes in asked.changeover_min.items():
        one, _, other = name.partition(">")
        changes[one, other] = minutes * 60
    table = bench.Bench(jobs, boards, changes)
    until = time.monotonic() + seconds
    first_answer = table.dispatch()
    found = table.exact() or table.improve(
        first_answer, Random(seed), int(80_000 * seconds), lambda: time.monotonic() > until
    )
    _show(
        {
            "how": found.how,
            "proven": found.proven,
            "weighted_lateness_min": found.lateness / 60,
            "dispatch_rule_lateness_min": first_answer.lateness / 60,
            "clear_min": found.clear_s / 60,
            "turns": [
                {
                    "key": t.key,
                    "cutter": t.cutter,
                    "start_min": t.start_s / 60,
                    "end_min": t.end_s / 60,
                    "late_min": t.late_s / 60,
                }
                for t in found.turns
            ],
        },
        as_json,
    )


def _minutes(fish: BenchFish, cutters: int) -> list[float]:
    return fish.cut_min if isinstance(fish.cut_min, list) else [fish.cut_min] * cutters


def _temperatures(file: Path) -> tuple[list[float], list[float]]:
    with file.open(encoding="utf-8", newline="") as lines:
        rows = list(csv.DictReader(lines))
    try:
        return [float(r["minutes"]) * 60 for r in rows], [float(r["celsius"]) for r in rows]
    except (KeyError, TypeError, ValueError) as error:
        raise BadInput(f"{file}: columns minutes and celsius must hold numbers") from error


def _estimate(estimate: Estimate) -> dict[str, Any]:
    return {
        "value_kg": estimate.value,
        "low_kg": estimate.low,
        "high_kg": estimate.high,
        "level": estimate.level,
        "formula": estimate.formula,
        "source": estimate.source,
        "notes": list(estimate.notes),
    }


def _show(found: dict[str, Any], as_json: bool) -> None:
    if as_json:
        typer.echo(json.dumps(found, ensure_ascii=False))
        return
    for name, value in found.items():
        typer.echo(f"{name}: {value:.6g}" if isinstance(value, float) else f"{name}: {value}")
