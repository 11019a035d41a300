"""A figure that was calculated and not measured: always with its interval and its reason."""

import math
from dataclasses import dataclass

from scipy.special import ndtri

Z_80 = 1.2815515655446004  # normal quantile of 90 %, as scipy.stats.norm.ppf(0.9)


@dataclass(frozen=True)
class Estimate:
    """`value` in `unit`, inside [low, high] with probability `level`.

    `formula` names how it was calculated, `source` where its constants come from, `notes` what
    a reader should know before leaning on it.
    """

    value: float
    low: float
    high: float
    level: float
    unit: str
    formula: str
    source: str
    notes: tuple[str, ...] = ()

    @property
    def sd_log(self) -> float:
        """Standard deviation of its logarithm, as of a log-normal with that interval.

        Example:
            >>> round(Estimate(1.0, math.exp(-Z_80), math.exp(Z_80), 0.8, "kg", "f", "s").sd_log, 9)
            1.0
        """
        return math.log(self.high / self.low) / (2 * float(ndtri(0.5 + self.level / 2)))

    def scaled(self, factor: float, unit: str | None = None) -> "Estimate":
        """The same estimate times an exact positive factor."""
        return Estimate(
            self.value * factor,
            self.low * factor,
            self.high * factor,
            self.level,
            unit or self.unit,
            self.formula,
            self.source,
            self.notes,
        )
