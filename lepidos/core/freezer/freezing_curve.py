"""The middle of a bag while it freezes, hour by hour: for the drawing beside Pham's figure.

Heat balance of layers of a slab by their enthalpy, as `heat_balance` has it, with conductivity that
follows the ice; SciPy's LSODA takes the steps. Where Pham's method gives one figure this gives its
course, and the two check each other: within a tenth over bags of 1 to 6 cm.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.integrate import solve_ivp

from lepidos.core.errors import require
from lepidos.core.freezer.freezing_time import fish_of_water
from lepidos.core.freezer.heat_balance import FREEZES_C, enthalpy
from lepidos.core.freezer.temperature_log import Floats
from lepidos.core.units import HOUR_S

LAYERS = 10  # of half a bag
DENSITY = 1000.0  # kg/m³, of fish, frozen or not: what expands is left out
THAWED_W_MK = 0.5  # lean fish, unfrozen (memory)
MAX_H = 400.0


@dataclass(frozen=True)
class Curve:
    """°C in the middle at each of so many hours, until it is as cold as was asked, or never is."""

    hours: Floats
    middle_c: Floats


@lru_cache(maxsize=64)
def freezing_curve(
    thick_m: float,
    air_c: float,
    start_c: float,
    surface_w: float,
    water: float,
    one_side: bool = False,
    end_c: float = -18.0,
) -> Curve:
    """The course of it, in a slab of a bag's thickness [m], 2 mm to 0.3 m.

    Stops at `end_c` in the middle, at half a degree above the air, or after 400 h. Other arguments
    as of `freezing_time.freezing_hours`. Raises OutOfRange.
    """
    require("thick", thick_m, 0.002, 0.3, "m")
    require("air", air_c, -60, 15, "°C")
    require("start", start_c, -1, 40, "°C")
    require("surface heat transfer", surface_w, 1, 1000, "W/(m² K)")
    depth = thick_m if one_side else thick_m / 2
    dx = depth / LAYERS
    grid = np.concatenate([np.linspace(-60, FREEZES_C, 3000), np.linspace(FREEZES_C, 40, 300)[1:]])
    heat = np.array([enthalpy(float(t), water) for t in grid])
    ice = np.where(grid < FREEZES_C, 1 - FREEZES_C / np.minimum(grid, FREEZES_C), 0.0)
    conducts = THAWED_W_MK + (fish_of_water(water).conductivity - THAWED_W_MK) * ice

    def flow(_: float, stored: Floats) -> Floats:
        t = np.interp(stored, heat, grid)
        k = np.interp(t, grid, conducts)
        between = 2 * k[1:] * k[:-1] / (k[1:] + k[:-1]) * (t[1:] - t[:-1]) / dx
        out = (t[-1] - air_c) / (1 / surface_w + dx / 2 / k[-1])
        gained: Floats = np.diff(np.concatenate([[0.0], between, [-out]])) / (DENSITY * dx)
        return gained

    goal = enthalpy(max(end_c, air_c + 0.5), water)

    def there(_: float, stored: Floats) -> float:
        return float(stored[0] - goal)

    there.terminal = True  # type: ignore[attr-defined]
    found = solve_ivp(
        flow,
        (0.0, MAX_H * HOUR_S),
        np.full(LAYERS, enthalpy(start_c, water)),
        method="LSODA",
        events=there,
        rtol=1e-4,
        atol=50.0,
        max_step=HOUR_S / 2,
    )
    return Curve(found.t / HOUR_S, np.interp(found.y[0], heat, grid))
