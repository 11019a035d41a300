"""How long a fish takes at the board: by species, size and cutter.

The prior is the guide's, wide; it is learned from finished fish by a linear model on the logarithm
of (time taken ÷ prior), with a common, a cutter's and a species' effect, each with a normal prior
around 0: the posterior is exact (Gelman et al., *Bayesian Data Analysis*, memory).
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from pydantic import Field, model_validator

from lepidos.core.fish.species import Share, Sourced
from lepidos.core.units import HOUR_S

# Standard deviations on the log scale, all from memory.
COMMON_SD, CUTTER_SD, SPECIES_SD, FISH_SD = 0.35, 0.25, 0.25, 0.30
SHORTEST_S, MAX_S = 20.0, 3 * HOUR_S  # an observation outside is a pause, not a fish


class Classes(Sourced):
    """How the board is left: by trait, the first that fits, else `otherwise`."""

    by_trait: Mapping[str, str]
    otherwise: str


REASONS = frozenset({"histamine", "unbled", "party", "spoils", "rest"})


class BenchGuide(Sourced):
    """What the guide knows of time at the board.

    `changeovers_min` as "dark>white"; `late_share` is the part of a fish's ice life that it may
    have used when it is cut; `packing_min` is kept between the last cut and a party's leaving;
    `late_weights`: by reason, what a late minute weighs against that of a plain fish.
    """

    classes: Classes
    changeovers_min: Mapping[str, float]
    party_change_min: float
    packing_min: float
    late_share: Share
    late_weights: Mapping[str, Annotated[float, Field(gt=0, le=100)]]

    @model_validator(mode="after")
    def _every_reason(self) -> "BenchGuide":
        if missing := REASONS - set(self.late_weights):
            raise ValueError(f"no weight for {sorted(missing)}")
        return self


def worked_seconds(started_s: float, ended_s: float, marks: Sequence[tuple[float, bool]]) -> float:
    """Time at a fish without its pauses [s].

    Args:
        marks: Times [s] in order, each with whether a pause begins there (else it ends).
    Example:
        >>> worked_seconds(0, 600, [(100, True), (160, False)])
        540.0
    """
    worked, since = 0.0, started_s
    paused = False
    for at, begins in marks:
        at = min(ended_s, max(started_s, at))
        if begins and not paused:
            worked += at - since
        elif paused and not begins:
            since = at
        paused = begins
    return float(worked + (0.0 if paused else max(0.0, ended_s - since)))


@dataclass(frozen=True)
class CutBefore:
    """A finished fish: whose board, which species, time taken and prior [s]."""

    cutter: str
    species: str
    seconds: float
    prior_s: float


@dataclass(frozen=True)
class Pace:
    """What was learned: factors on the prior, by cutter and species."""

    common: float
    cutters: Mapping[str, float]
    species: Mapping[str, float]
    learned_from: int

    def factor(self, cutter: str, species: str) -> float:
        """Time taken ÷ prior to expect; 1 where nothing was learned."""
        effect = self.common + self.cutters.get(cutter, 0.0) + self.species.get(species, 0.0)
        return math.exp(effect)


def learn(cuts: Sequence[CutBefore]) -> Pace:
    """Learn from finished fish; those that took no time at all, or hours, are left out."""
    used = [c for c in cuts if SHORTEST_S <= c.seconds <= MAX_S and c.prior_s > 0]
    if not used:
        return Pace(0.0, {}, {}, 0)
    cutters = sorted({c.cutter for c in used})
    species = sorted({c.species for c in used})
    columns = 1 + len(cutters) + len(species)
    x = np.zeros((len(used), columns))
    for row, cut in enumerate(used):
        x[row, 0] = x[row, 1 + cutters.index(cut.cutter)] = 1
        x[row, 1 + len(cutters) + species.index(cut.species)] = 1
    y = np.log([c.seconds / c.prior_s for c in used])
    spread = np.array([COMMON_SD] + [CUTTER_SD] * len(cutters) + [SPECIES_SD] * len(species))
    precision = x.T @ x / FISH_SD**2 + np.diag(spread**-2)
    effect = np.linalg.solve(precision, x.T @ y / FISH_SD**2)
    after = 1 + len(cutters)
    return Pace(
        float(effect[0]),
        dict(zip(cutters, effect[1:after].tolist(), strict=True)),
        dict(zip(species, effect[after:].tolist(), strict=True)),
        len(used),
    )
