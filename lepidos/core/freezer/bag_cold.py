"""How cold bags of one kind are at every minute of a place's log: middle and surface.

Freezing goes on at the pace of Pham's method for the air of each minute. A frozen bag's middle
follows the air with one time constant, that of the first term of a slab's series, L²/(α ζ²) ≈ ρ c L
(1/h + 4 L/(π² k)); its surface lies between middle and air (a parabolic profile). Latent heat that
is left below the hold's temperature is left out: a bag then warms sooner than it would.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.signal import lfilter

from lepidos.core.freezer.freezing_time import Block, Frozen, freezing_hours
from lepidos.core.freezer.temperature_log import MINUTE_S, Flags, Floats, MinuteLog, Whole, runs

SOLID_C = -18.0  # "until solid": the middle is there (our reading of it)
SOFT_C = -5.0  # warmer than this it has to freeze again
WIDE_M = 3.0  # without its ends and edges a bag freezes more slowly
STEP_C = 0.25  # of the air, for the pace of freezing
PACE_STEP = 10  # minutes


@dataclass(frozen=True)
class Kind:
    """Bags that cool alike: how thick [m], heat transfer [W/(m² K)], what is in them."""

    thick_m: float
    surface_w: float
    fish: Frozen
    start_c: float = 5.0

    @property
    def lag_s(self) -> float:
        """Time constant of the middle of a frozen bag."""
        half, fish = self.thick_m / 2, self.fish
        resistance = 1 / self.surface_w + 4 * half / (np.pi**2 * fish.conductivity)
        return float(fish.density_frozen * fish.heat_frozen * half * resistance)

    @property
    def surface_share(self) -> float:
        """How far the surface is from the middle's temperature towards the air's, 0 to 1."""
        beta = self.surface_w * self.thick_m / 4 / self.fish.conductivity
        return beta / (1 + beta)


class ColdRecord:
    """Bags of one kind in a place with a log."""

    def __init__(self, log: MinuteLog, kind: Kind) -> None:
        self.log, self.kind = log, kind
        self._progress: dict[float, Floats] = {}
        self._runs: dict[float, tuple[Whole, Whole]] = {}
        self._air_runs: dict[float, tuple[Whole, Whole]] = {}

    @cached_property
    def spans(self) -> list[tuple[int, int]]:
        """Stretches of minutes that are known."""
        first = self.log.first
        return [(first + a, first + b) for a, b in runs(self.log.known)]

    @property
    def middle(self) -> Floats:
        """°C in the middle of a frozen bag; where nobody knows the air, as the air was before."""
        air = self.log.celsius
        if not len(air):
            return air
        known = np.where(self.log.known, np.arange(len(air)), 0)
        filled = air[np.maximum.accumulate(known)]
        keep = float(np.exp(-MINUTE_S / self.kind.lag_s))
        found, _ = lfilter([1 - keep], [1, -keep], filled, zi=[keep * filled[0]])
        return np.asarray(found, dtype=np.float64)

    @property
    def warmest(self) -> Floats:
        """°C of the warmest part, middle or surface; not a number where nobody knows."""
        middle = self.middle
        surface = middle + (self.log.celsius - middle) * self.kind.surface_share
        return np.where(self.log.known, np.maximum(surface, middle), np.nan)

    def frozen_from(
        self, start: int, end: int, hard_c: float, air_c: float | None = None
    ) -> int | None:
        """The minute at which a bag that goes in at `start` is at `hard_c` in its middle.

        None: not before `end`. `air_c`: nor may the air be warmer than this until then.
        """
        done, resets = self._pace(hard_c), self._resets
        at = start - self.log.first
        while True:
            step = -(-at // PACE_STEP)
            if step >= len(done):
                return None
            hit = int(np.searchsorted(done, done[step] + 1)) * PACE_STEP
            if hit > end - self.log.first or hit >= len(done) * PACE_STEP:
                return None
            last = int(np.searchsorted(resets, hit)) - 1
            if last < 0 or resets[last] < at:
                break
            if air_c is not None:
                return None
            at = int(resets[last]) + 1
        if air_c is not None and bool(np.any(self.log.celsius[at:hit] > air_c)):
            return None
        return self.log.first + hit

    def cold_run(self, minute: int, end: int, limit_c: float) -> tuple[int, int] | None:
        """The first stretch from `minute` on in which every part is at `limit_c` or below.

        Clipped to `end`; None: there is none before.
        """
        if limit_c not in self._runs:
            self._runs[limit_c] = _edges(self.warmest <= limit_c)  # unknown is not cold
        return self._first_of(self._runs[limit_c], minute, end)

    def ever(self, start: int, end: int, limit_c: float) -> bool:
        """Whether the air was at `limit_c` or below in any minute of a known stretch."""
        if limit_c not in self._air_runs:
            self._air_runs[limit_c] = _edges(self.log.celsius <= limit_c)
        return self._first_of(self._air_runs[limit_c], start, end) is not None

    def softened(self, start: int, end: int) -> int | None:
        """The first minute in which some part was warmer than `SOFT_C`; None: never."""
        found = self._first_of(self._soft, start, end)
        return found[0] if found else None

    def _first_of(self, edges: tuple[Whole, Whole], start: int, end: int) -> tuple[int, int] | None:
        """The first of some stretches that reaches into `start` to `end`, clipped to it."""
        (starts, ends), first = edges, self.log.first
        i = int(np.searchsorted(ends, start - first, side="right"))
        if i >= len(starts) or starts[i] >= end - first:
            return None
        return first + max(start - first, int(starts[i])), min(end, first + int(ends[i]))

    @cached_property
    def _soft(self) -> tuple[Whole, Whole]:
        return _edges(self.warmest > SOFT_C)

    @cached_property
    def _resets(self) -> Whole:
        """Minutes so warm that freezing starts again."""
        return np.flatnonzero(~(self.log.celsius <= SOFT_C))

    def _pace(self, hard_c: float) -> Floats:
        """Freezings done since the log began, at every `PACE_STEP` minutes."""
        if hard_c not in self._progress:
            grid = np.arange(-90.0, hard_c, STEP_C)
            pace = [self._per_minute(max(-80.0, air), hard_c) for air in grid]
            air = np.where(self.log.known, self.log.celsius, 0.0)
            each = np.interp(air, np.append(grid, hard_c), [*pace, 0.0])
            # kept in steps, as a year of minutes for every kind of bag is much
            self._progress[hard_c] = np.concatenate([[0.0], np.cumsum(each)])[::PACE_STEP].copy()
        return self._progress[hard_c]

    def _per_minute(self, air_c: float, hard_c: float) -> float:
        block = Block(self.kind.thick_m, WIDE_M, WIDE_M)
        kind = self.kind
        hours = freezing_hours(block, air_c, kind.start_c, kind.surface_w, kind.fish, hard_c)
        return 0.0 if hours is None else 1 / (hours * 60)


def _edges(flags: Flags) -> tuple[Whole, Whole]:
    found = np.array(runs(flags), dtype=np.int64).reshape(-1, 2)
    return found[:, 0], found[:, 1]
