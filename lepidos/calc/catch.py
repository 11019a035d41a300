"""`lepidos calc`: length and weight, portions, balance, yield, keeping, units."""

import csv
from datetime import date
from pathlib import Path
from typing import Annotated, Any, Literal

import typer

from lepidos.calc.shared import AsJson, LengthKind, Level, SpeciesName, calc, estimate_of, show
from lepidos.core.catch import length_weight
from lepidos.core.cutting.model import Slot
from lepidos.core.errors import BadInput, OutOfRange, Refused, Unknown
from lepidos.core.fish.anatomy import fillet_profile, zone_extent
from lepidos.core.fish.species import LengthWeight, Ratio
from lepidos.core.freezer import storage_life
from lepidos.core.pack import portions
from lepidos.core.units import convert
from lepidos.core.yields import balance
from lepidos.guide.library import load_guide


@calc.command("length-weight")
def weigh_length(
    length_cm: Annotated[float, typer.Option(help="Length [cm]")],
    species: SpeciesName = "",
    length_type: LengthKind = "total",
    a: Annotated[float, typer.Option(help="a of W [g] = a · L [cm]^b")] = 0.0,
    b: Annotated[float, typer.Option(help="b of W [g] = a · L [cm]^b")] = 0.0,
    sd_log: Annotated[float, typer.Option(help="Residual SD of ln W")] = 0.12,
    total_per_fork: Annotated[float, typer.Option(help="Total per fork length")] = 1.0,
    level: Level = length_weight.LEVEL,
    as_json: AsJson = False,
) -> None:
    """Round weight to expect from a length, with its interval [kg]."""
    if species:
        one = load_guide().find(species)
        estimate = length_weight.weight_from_length(length_cm / 100, length_type, one, level)
    else:
        if not (a and b):
            raise Refused({"": "Give a species, or a and b"})
        fit = LengthWeight(
            a=a, b=b, sd_log=sd_log, length_type="total",
            smallest_cm=0.1, largest_cm=1e4, source="as given",
        )  # fmt: skip
        ratio = Ratio(mean=total_per_fork, sd=0.0, source="as given")
        estimate = length_weight.weight_from_fit(
            length_cm / 100, length_type, fit, {"fork": ratio}, level
        )
    show(estimate_of(estimate), as_json)


@calc.command("length-weight-fit")
def fit_lengths(
    file: Annotated[Path, typer.Argument(help="CSV with the columns length_cm and weight_g")],
    at_cm: Annotated[float, typer.Option(help="Also predict at this length [cm]")] = 0.0,
    level: Level = length_weight.LEVEL,
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
    fit = length_weight.fit_length_weight(lengths, weights)
    found: dict[str, Any] = {"a": fit.a, "b": fit.b, "sd_log": fit.sd_log, "n": fit.n}
    if at_cm:
        low, high = fit.interval_kg(at_cm / 100, level)
        found |= {"at_cm": at_cm, "level": level, "low_kg": low, "high_kg": high}
    show(found, as_json)


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
    show(
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
            parts.append(balance.BalancePart(Slot(piece, side), float(kg)))
        except ValueError as error:
            raise BadInput(f"“{text}” is not a part; write it as gut=0.35") from error
    found = balance.balance(round_kg, parts)
    figure = balance.fillet_yield(found, skin, guide.pieces)
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
        usual = balance.expected_fillet(round_kg, guide.find(species), skin)
        shown["usual_fillet"] = estimate_of(usual)
    show(shown, as_json)


@calc.command("yield")
def expected_yield(
    species: SpeciesName,
    round_kg: Annotated[float, typer.Option(help="Round mass [kg]")],
    skin: Annotated[Literal["on", "off"], typer.Option(help="Fillets' skin")] = "on",
    level: Level = balance.LEVEL,
    as_json: AsJson = False,
) -> None:
    """Fillet to expect from a whole fish [kg], both sides."""
    usual = balance.expected_fillet(round_kg, load_guide().find(species), skin, level)
    show(estimate_of(usual), as_json)


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
        raise BadInput(f"“{packed}” is not a date, such as 2026-07-14") from error
    best = storage_life.best_by(day, one.keeping)
    show(
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
    show({"value": convert(value, unit, to), "unit": to}, as_json)
