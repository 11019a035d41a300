"""By when a fish should be cut, why, and what a late minute of it weighs."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from lepidos.core.catch.handling import RESTED_S
from lepidos.core.cold.spoilage import (
    Climate,
    histamine_clock,
    running_hours_above,
    running_ice_days,
    spoilage_rate,
)
from lepidos.core.errors import require
from lepidos.core.units import DAY_S, HOUR_S

HORIZON_S = DAY_S  # how far ahead warmth presses
FAR_S = 7 * DAY_S  # nothing on a table is further off
# Of a histamine fish whose warmth nobody knows: the stricter of the guidance's hours (FDA, memory).
UNKNOWN_WARMTH_S = 4 * HOUR_S
UNBLED_S = HOUR_S  # blood spreads through the meat from the first minutes (practice)


@dataclass(frozen=True)
class Deadline:
    """Seconds from now (negative: past), why, and the weight of a late second."""

    seconds: float
    why: str
    weight: float


@dataclass(frozen=True)
class Ahead:
    """A fish's core from landing to now and on to the horizon, as it lies now.

    Times in seconds since landing, rising; `lain_s` is now; `climate` of the waters it is from: how
    fast it spoils.
    """

    seconds: tuple[float, ...]
    celsius: tuple[float, ...]
    lain_s: float
    ice_life_days: float
    climate: Climate = "temperate"

    @cached_property
    def histamine_at_s(self) -> float:
        """Seconds after landing when the guidance's hours run out; beyond `FAR_S` if never."""
        return _histamine_at(self)

    @cached_property
    def used_days(self) -> tuple[float, ...]:
        """Ice-days used by each of the times."""
        return running_ice_days(self.seconds, self.celsius, self.climate)

    def spoils_at_s(self, share: float) -> float:
        """Seconds after landing when a share of the ice life is used."""
        return _spoils_at(self, share)


def deadline(
    ahead: Ahead | None,
    *,
    lain_s: float,
    bled: bool,
    forms_histamine: bool,
    late_share: float,
    weights: Mapping[str, float],
    leaves_in_s: float | None = None,
) -> Deadline:
    """The earliest of what presses; far away when nothing does.

    - histamine: the guidance's hours above 4.4 °C run out;
    - spoils: it will have used `late_share` of its life on ice;
    - unbled: an hour after landing; rest: two days on ice;
    - party: its party leaves, packing time off.

    Args: `late_share` 0.01 to 1; `weights`: by reason, what a late minute weighs (the guide's).
    Raises: OutOfRange.
    """
    require("share of the ice life", late_share, 0.01, 1, "")
    found = [(RESTED_S - lain_s, "rest")]
    if not bled:
        found.append((UNBLED_S - lain_s, "unbled"))
    if leaves_in_s is not None:
        found.append((leaves_in_s, "party"))
    if ahead is not None and len(ahead.seconds) > 1:
        found.append((ahead.spoils_at_s(late_share) - lain_s, "spoils"))
        if forms_histamine:
            found.append((ahead.histamine_at_s - lain_s, "histamine"))
    elif forms_histamine:
        found.append((UNKNOWN_WARMTH_S - lain_s, "histamine"))
    seconds, first = min(found, key=lambda reason: reason[0])
    # two reasons at once weigh as the heavier; and hours of histamine that run, whichever is first
    weight = max(
        weights[why]
        for at, why in found
        if at <= seconds + 600 or (why == "histamine" and at < FAR_S)
    )
    # how many weeks a forgotten fish is late changes nothing any more
    return Deadline(min(FAR_S, max(-FAR_S, seconds)), first, weight)


def _spoils_at(ahead: Ahead, share: float) -> float:
    """Seconds after landing when the share is used; beyond the curve at its last rate."""
    budget = share * ahead.ice_life_days
    used = ahead.used_days
    if used[-1] >= budget:
        return float(np.interp(budget, used, ahead.seconds))
    rate = spoilage_rate(ahead.celsius[-1], ahead.climate)
    if rate <= 0:
        return FAR_S + ahead.seconds[-1]
    return ahead.seconds[-1] + (budget - used[-1]) / rate * DAY_S


def _histamine_at(ahead: Ahead) -> float:
    clock = histamine_clock(ahead.seconds, ahead.celsius)
    if clock.left >= 0:
        return 2 * FAR_S + ahead.seconds[-1]
    used = running_hours_above(ahead.seconds, ahead.celsius)
    return float(np.interp(clock.allowed_above, used, ahead.seconds))
