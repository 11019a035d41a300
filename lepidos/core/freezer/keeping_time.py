"""Best-by dates from what a bag really went through.

Shelf life in frozen storage adds up: a part of it is used each day, one over the life at that day's
temperature (time–temperature tolerance, Van Arsdel; the sum as in International Institute of
Refrigeration, *Recommendations for the Processing and Handling of Frozen Foods*, 1986). Practical
storage life there (memory; whole or filleted, −12, −18, −24 and −30 °C): lean fish 4, 9, 12 and 24
months, fatty fish 3, 5, 9 and 12. Only their ratios are used; the life at −18 °C is the guide's for
the species. At 0 °C as on ice, two weeks. Real lives differ from these by half as much again.
"""

from typing import Literal

import numpy as np

from lepidos.core.freezer.temperature_log import Floats

Fat = Literal["lean", "medium", "fatty"]
AT_C = (-30.0, -24.0, -18.0, -12.0, 0.0)
MONTHS: dict[Fat, tuple[float, ...]] = {
    "lean": (24.0, 12.0, 9.0, 4.0, 0.5),
    "medium": (17.0, 10.5, 7.0, 3.5, 0.5),  # between the two
    "fatty": (12.0, 9.0, 5.0, 3.0, 0.5),
}
USUAL_C = -18.0  # what the months of a fish's file are said for
UNSURE = 1.5  # the life is uncertain by this factor
MINUTES_PER_DAY = 24 * 60


def pace(celsius: Floats | float, fat: Fat) -> Floats:
    """How many days of life at −18 °C a day at `celsius` uses; rises with temperature.

    Straight lines of the logarithm between the table's points, and on beyond its ends.
    """
    at, life = np.asarray(AT_C), np.log(MONTHS[fat])
    t = np.asarray(celsius, dtype=np.float64)
    found = np.interp(t, at, life)
    low, high = (life[1] - life[0]) / (at[1] - at[0]), (life[-1] - life[-2]) / (at[-1] - at[-2])
    found = np.where(t < at[0], life[0] + low * (t - at[0]), found)
    found = np.where(t > at[-1], life[-1] + high * (t - at[-1]), found)
    usual = life[AT_C.index(USUAL_C)]
    paced: Floats = np.exp(usual - found)
    return paced


def days_left(life_days: float, used_days: float, kept_c: float, fat: Fat) -> float:
    """Days from now, at `kept_c`, of a life of so many days at −18 °C of which some are used.

    >>> round(days_left(240, 60, -18, "lean"))
    180
    """
    left = max(0.0, life_days - used_days)
    return float(left / pace(kept_c, fat))
