"""How long a bag takes to freeze: Pham's method, and Plank's equation beside it.

Pham, Q. T. (1986), simplified equation for predicting the freezing time of foodstuffs, *Journal of
Food Technology* 21; Plank (1913) for the change of phase alone; both as Singh & Heldman,
*Introduction to Food Engineering*, have them (memory). Latent heat: of the water that is ice at −18
°C, by Raoult's law for fish that begins to freeze at −1 °C (1 − 1/18 of it), 333.2 kJ/kg; specific
heats by Siebel.
"""

from dataclasses import dataclass

from lepidos.core.errors import require
from lepidos.core.units import HOUR_S

LATENT_J_KG = 333_200.0  # of water
ICE_SHARE = 1 - 1 / 18  # of its water, at −18 °C
HARD_C = -18.0  # a bag is hard when its middle is there


@dataclass(frozen=True)
class Frozen:
    """Fish as it freezes: specific heats unfrozen and frozen [J/(kg K)], latent heat [J/kg],
    conductivity frozen [W/(m K)], densities unfrozen and frozen [kg/m³].
    """

    heat_unfrozen: float
    heat_frozen: float
    latent: float
    conductivity: float
    density_unfrozen: float
    density_frozen: float


def fish_of_water(water: float) -> Frozen:
    """Properties by the share of water in the meat, 0.4 to 0.9 (lean 0.8, fat 0.65).

    Siebel's rule for specific heats, 3.35 w + 0.84 and 1.26 w + 0.84 kJ/(kg K) (memory);
    conductivity 0.6 + 1.1 w W/(m K) frozen, between frozen fat and frozen cod (memory).

    Raises: OutOfRange.
    """
    require("share of water", water, 0.4, 0.9, "")
    return Frozen(
        (3.35 * water + 0.84) * 1000,
        (1.26 * water + 0.84) * 1000,
        LATENT_J_KG * ICE_SHARE * water,
        0.6 + 1.1 * water,
        1055.0,
        1000.0,
    )


@dataclass(frozen=True)
class Block:
    """A bag as it freezes: its sides [m], and whether one side alone is cooled."""

    thick_m: float
    width_m: float
    length_m: float
    one_side: bool = False


def freezing_hours(
    block: Block,
    air_c: float,
    start_c: float,
    surface_w: float,
    fish: Frozen,
    end_c: float = HARD_C,
) -> float | None:
    """Hours until the middle is at `end_c`; None: never, as the air is not colder than that.

    Args:
        block: sides 2 mm to 3 m each.
        air_c: of the air, plate or slurry around it, −80 to 40.
        start_c: of the fish when it goes in, −1 to 40.
        surface_w: heat transfer at the bag's surface, 1 to 1000 W/(m² K).
        end_c: −40 to −5.
    Raises: OutOfRange.
    """
    _check(block, air_c, start_c, surface_w, end_c)
    if air_c >= end_c:
        return None
    half = block.thick_m if block.one_side else block.thick_m / 2
    mean_c = 1.8 + 0.263 * end_c + 0.105 * air_c  # where freezing happens, on the mean
    cooling = fish.density_unfrozen * fish.heat_unfrozen * max(0.0, start_c - mean_c)
    freezing = fish.density_frozen * (fish.latent + fish.heat_frozen * (mean_c - end_c))
    warm, cold = (start_c + mean_c) / 2 - air_c, mean_c - air_c
    biot = surface_w * half / fish.conductivity
    seconds = (
        half / (shape_factor(block, biot) * surface_w)
        * (cooling / warm + freezing / cold) * (1 + biot / 2)
    )  # fmt: skip
    return seconds / HOUR_S


def plank_hours(
    size_m: float,
    p: float,
    r: float,
    *,
    density: float,
    latent: float,
    surface_w: float,
    conductivity: float,
    freezes_c: float,
    air_c: float,
) -> float | None:
    """Plank's equation, with P and R of the shape: slab 1/2 and 1/8, sphere 1/6 and 1/24.

    Hours; None: never. Raises: OutOfRange for a size outside 2 mm to 3 m.

    >>> round(plank_hours(0.07, 1 / 6, 1 / 24, density=1000, latent=250e3, surface_w=50,
    ...                   conductivity=1.2, freezes_c=-1.25, air_c=-40) or 0, 2)
    0.72
    """
    require("size", size_m, 0.002, 3, "m")
    if air_c >= freezes_c:
        return None
    each = p * size_m / surface_w + r * size_m**2 / conductivity
    return density * latent / (freezes_c - air_c) * each / HOUR_S


def shape_factor(block: Block, biot: float) -> float:
    """How much faster than an endless slab of its thickness: 1, or more for a short narrow one.

    Hossain, Cleland & Cleland (1992) for rectangular bricks, as in Singh & Heldman (memory).
    """
    thick = 2 * block.thick_m if block.one_side else block.thick_m
    factor = 1.0
    for side in (block.width_m, block.length_m):
        beta = max(1.0, side / thick)
        x = 2.32 / beta**1.77
        share = x / (biot**1.34 + x)
        factor += share / beta + (1 - share) * 0.73 / beta**2.5
    return factor


def _check(block: Block, air_c: float, start_c: float, surface_w: float, end_c: float) -> None:
    for name in ("thick_m", "width_m", "length_m"):
        require(name.removesuffix("_m"), getattr(block, name), 0.002, 3, "m")
    require("air", air_c, -80, 40, "°C")
    require("start", start_c, -1, 40, "°C")
    require("surface heat transfer", surface_w, 1, 1000, "W/(m² K)")
    require("end", end_c, -40, -5, "°C")
