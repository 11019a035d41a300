"""Heat in frozen fish: what warm bags do to their neighbours, and a freezer without power.

Enthalpy of fish that freezes as an ideal solution: of its water, 1 − Tf/T is ice (Raoult), Tf −1
°C, latent heat 333.2 kJ/kg (as ASHRAE, *Handbook—Refrigeration*, thermal properties of foods, has
the method; memory); specific heats as in `freezing_time`.
"""

from dataclasses import dataclass

from scipy.optimize import brentq

from lepidos.core.errors import require
from lepidos.core.freezer.freezing_time import LATENT_J_KG, fish_of_water
from lepidos.core.units import HOUR_S

FREEZES_C = -1.0  # where lean fish begins to freeze (Riedel 1956; memory)
# Walls of a household freezer: 60 mm of polyurethane foam, 0.023 W/(m K), and a fifth more for lid,
# seal and floor (from memory).
WALL_W_M2K = 0.023 / 0.06 * 1.2
# What the cabinet itself takes up: liner, racks and the inner foam, 2 kJ/K for each ten litres
# (common practice, no source); beside a load of fish it is little.
CABINET_J_LITRE_K = 200.0


def enthalpy(celsius: float, water: float) -> float:
    """Heat in fish [J/kg] above that at −40 °C; `celsius` −60 to 40, share of water 0.4 to 0.9.

    Raises: OutOfRange.
    """
    require("temperature", celsius, -60, 40, "°C")
    fish = fish_of_water(water)

    def frozen(t: float) -> float:
        return fish.heat_frozen * t - LATENT_J_KG * water * (1 - FREEZES_C / t)

    below = frozen(min(celsius, FREEZES_C)) - frozen(-40.0)
    return below + fish.heat_unfrozen * max(0.0, celsius - FREEZES_C)


def temperature_of(joule_kg: float, water: float) -> float:
    """The temperature [°C] at which fish holds so much heat above −40 °C. Raises OutOfRange."""
    low, high = enthalpy(-60, water), enthalpy(40, water)
    require("heat", joule_kg, low, high, "J/kg")
    found: float = brentq(lambda t: enthalpy(t, water) - joule_kg, -60, 40, xtol=1e-6)
    return found


@dataclass(frozen=True)
class Load:
    """Fish of one temperature: mass [kg], °C, and the share of water in it."""

    kg: float
    celsius: float
    water: float = 0.78


def together_c(loads: list[Load]) -> float:
    """The temperature [°C] that loads come to when they share their heat and none leaves.

    Raises: OutOfRange when there is nothing.
    """
    total = sum(load.kg for load in loads)
    require("load", total, 1e-6, 1e6, "kg")
    heat = sum(load.kg * enthalpy(load.celsius, load.water) for load in loads)

    def left(t: float) -> float:
        return sum(load.kg * enthalpy(t, load.water) for load in loads) - heat

    coldest: float = min(load.celsius for load in loads)
    warmest: float = max(load.celsius for load in loads)
    if warmest - coldest < 1e-9:
        return coldest
    found: float = brentq(left, coldest, warmest, xtol=1e-6)
    return found


def neighbours_c(warm: Load, frozen: Load, taken_w: float, hours: float) -> float:
    """How warm the frozen fish of a place gets at most, while warm bags beside it freeze [°C].

    The machine takes `taken_w` [W] for `hours`; what it does not take, warm bags and neighbours
    share. Never below what the neighbours are at. Raises OutOfRange.
    """
    require("hours", hours, 0, 1000, "h")
    given = taken_w * hours * HOUR_S
    heat = enthalpy(warm.celsius, warm.water) - given / max(warm.kg, 1e-9)
    cooled = max(heat, enthalpy(frozen.celsius, warm.water))
    left = Load(warm.kg, temperature_of(cooled, warm.water), warm.water)
    return together_c([left, frozen])


def wall_w_k(litres: float) -> float:
    """Heat that comes in through the walls [W/K] of a cabinet of `litres`, 5 to 5000.

    As a cube, wall to wall. Raises OutOfRange.
    """
    require("litres", litres, 5, 5000, "l")
    side = (litres / 1000) ** (1 / 3) + 0.06
    area: float = 6 * side**2
    return WALL_W_M2K * area


@dataclass(frozen=True)
class Outage:
    """Hours without power until the fish is at each of these temperatures [°C]."""

    hours_to: dict[float, float]
    rule_hours: float  # the published rule of thumb


def without_power(
    litres: float, load: Load, room_c: float, ends_c: tuple[float, ...] = (-12.0, -5.0, -1.5)
) -> Outage:
    """How long a closed freezer keeps cold: all of its load at one temperature.

    Beside it the rule of thumb: 48 h when full, 24 h when half full, doors closed (FoodSafety.gov,
    *Food safety during power outage*; memory), taken as in proportion below that. Full is half a
    kilogram a litre (common practice).

    Args: litres 5 to 5000; load above 0 kg and colder than the first end; room_c 0 to 45.
    Raises: OutOfRange.
    """
    require("room", room_c, 0, 45, "°C")
    require("load", load.kg, 0.01, 5000, "kg")
    wall = wall_w_k(litres)

    def hours(end_c: float) -> float:
        total, at = 0.0, load.celsius
        while at < end_c - 1e-9:
            to = min(end_c, at + 0.1)
            heat = load.kg * (enthalpy(to, load.water) - enthalpy(at, load.water))
            heat += litres * CABINET_J_LITRE_K * (to - at)
            total += heat / (wall * (room_c - (at + to) / 2))
            at = to
        return total / HOUR_S

    full = min(1.0, load.kg / (0.5 * litres))
    return Outage({end: hours(end) for end in ends_c}, 48.0 * full)
