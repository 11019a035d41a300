"""`lepidos calc`: cooling, ice, spoilage, histamine."""

import csv
import math
from pathlib import Path
from typing import Annotated, Any, Literal

import typer

from lepidos.calc.shared import AsJson, SpeciesName, calc, show
from lepidos.core.catch import length_weight
from lepidos.core.cold import conduction, ice_balance, spoilage
from lepidos.core.cold.cooling_body import CoolingBody, cooling_body, core_after, time_until
from lepidos.core.errors import BadInput, Refused, Unknown
from lepidos.core.units import HOUR_S
from lepidos.guide.library import load_guide


@calc.command("cooling")
def cooling(
    medium_c: Annotated[float | None, typer.Option(help="Temperature around it [°C]")] = None,
    medium: Annotated[str, typer.Option(help="Where it lies, as drained_ice")] = "",
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
    guide = load_guide()
    if medium and medium not in guide.media:
        raise Unknown("medium", medium, tuple(guide.media))
    around = guide.media[medium] if medium else None
    if around is None and (medium_c is None or not h):
        raise Refused({"": "Give --medium, or --medium-c with --h"})
    celsius = medium_c if medium_c is not None else around.celsius if around else 0.0
    coefficient = h or (around.h if around else 0.0)
    ends = math.inf
    body = CoolingBody(shape, diameter_cm / 100)
    if species:
        one = guide.find(species)
        kg = weight_kg or length_weight.weight_from_length(length_cm / 100, "total", one).value
        body = cooling_body(guide.body_of(one), length_cm / 100, kg)
    elif length_cm:
        ends = length_cm / 100
    shown: dict[str, Any] = {
        "shape": body.shape,
        "size_cm": body.size_m * 100,
        **({"across_cm": body.across_m * 100} if body.across_m else {}),
        "medium_c": celsius,
        "h_w_per_m2_k": coefficient,
        "biot": coefficient * body.size_m / 2 / conduction.CONDUCTIVITY,
    }
    if time_min is not None:
        shown["time_min"] = time_min
        shown["core_c"] = (
            core_after(body, start_c, celsius, coefficient, time_min * 60)
            if body.shape == "ellipse"
            else conduction.core_temperature(
                body.shape, body.size_m, start_c, celsius, coefficient, time_min * 60, ends
            )
        )
    elif target_c is not None:
        seconds = (
            time_until(body, start_c, celsius, coefficient, target_c)
            if body.shape == "ellipse"
            else conduction.time_to(
                body.shape, body.size_m, start_c, celsius, coefficient, target_c, ends
            )
        )
        shown["target_c"] = target_c
        shown["never"] = math.isinf(seconds)
        shown["time_min"] = None if math.isinf(seconds) else seconds / 60
    show(shown, as_json)


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
    cooling_kg = ice_balance.ice_to_cool(fish_kg, from_c, to_c)
    box_kg = ice_balance.box_melt(box_ua_w_per_k, outside_c, hours * HOUR_S)
    show(
        {
            "ice_to_cool_kg": cooling_kg,
            "ice_to_cool_fao_kg": ice_balance.ice_to_cool_fao(fish_kg, from_c),
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
    seconds, celsius = temperatures(file)
    used = spoilage.ice_days(seconds, celsius, climate)
    show({"ice_days": used, "hours": (seconds[-1] - seconds[0]) / HOUR_S}, as_json)


@calc.command("histamine")
def histamine(
    file: Annotated[Path, typer.Argument(help="CSV with the columns minutes and celsius")],
    warmest_c: Annotated[float, typer.Option(help="Warmest air or water before ice [°C]")] = 20.0,
    gutted: Annotated[bool, typer.Option(help="Gutted before chilling")] = False,
    as_json: AsJson = False,
) -> None:
    """Hours above 4.4 °C against the guidance's limits. Local guidance decides."""
    seconds, celsius = temperatures(file)
    clock = spoilage.histamine_clock(seconds, celsius)
    show(
        {
            "hours_to_chill": clock.hours_to_chill,
            "chilled": clock.chilled,
            "chill_within_hours": spoilage.hours_until_chilled_by(warmest_c, gutted),
            "hours_above_4_4": clock.hours_above,
            "allowed_hours_above_4_4": clock.allowed_above,
            "hours_left": clock.left,
            "was_above_21": clock.past_21,
        },
        as_json,
    )


def temperatures(file: Path) -> tuple[list[float], list[float]]:
    with file.open(encoding="utf-8", newline="") as lines:
        rows = list(csv.DictReader(lines))
    try:
        return [float(r["minutes"]) * 60 for r in rows], [float(r["celsius"]) for r in rows]
    except (KeyError, TypeError, ValueError) as error:
        raise BadInput(f"{file}: columns minutes and celsius must hold numbers") from error
