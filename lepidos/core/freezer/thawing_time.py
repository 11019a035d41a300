"""How long a bag takes to thaw, in a refrigerator or in cold water.

Plank's equation the other way round, in small steps of temperature: each takes up its heat at the
pace of its own distance from what is around it, with the conductivity of thawed fish, as it is the
outside that thaws first. An approximation of ours; held against finite differences in the tests.
"""

from lepidos.core.errors import require
from lepidos.core.freezer.freezing_time import Block, shape_factor
from lepidos.core.freezer.heat_balance import enthalpy
from lepidos.core.units import HOUR_S

THAWED_C = -0.5  # in the middle: it gives under a thumb
# Along the way in: thawed fish 0.5, frozen 1.5 (memory); 0.58 fits finite differences best.
CONDUCTIVITY = 0.58  # W/(m K)
DENSITY = 1000.0  # kg/m³, of fish
STEP_C = 0.1  # of the enthalpy's table


def thawing_hours(
    block: Block, around_c: float, frozen_c: float, surface_w: float, water: float
) -> float | None:
    """Hours until the middle gives; None: never, what is around it is not warm enough.

    Args:
        block: the bag's sides, 2 mm to 3 m.
        around_c: of the air or water, −5 to 25.
        frozen_c: of the bag, −60 to −2.
        surface_w: 1 to 1000 W/(m² K).
        water: share of water in the meat.
    Raises: OutOfRange.
    """
    require("around", around_c, -5, 25, "°C")
    require("frozen", frozen_c, -60, -2, "°C")
    require("surface heat transfer", surface_w, 1, 1000, "W/(m² K)")
    if around_c <= THAWED_C:
        return None
    half = block.thick_m if block.one_side else block.thick_m / 2
    factor = shape_factor(block, surface_w * half / CONDUCTIVITY)
    each = half / surface_w + half**2 / (2 * CONDUCTIVITY)
    seconds, at = 0.0, frozen_c
    while at < THAWED_C:
        to = min(at + STEP_C, THAWED_C)
        mean = (at + to) / 2
        heat = enthalpy(to, water) - enthalpy(at, water)
        seconds += DENSITY * heat / (around_c - mean) * each / factor
        at = to
    return seconds / HOUR_S
