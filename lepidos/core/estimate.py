"""A figure that was calculated and not measured: always with its interval and its reason."""

from dataclasses import dataclass

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
