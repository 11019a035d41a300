"""Round weight of a fish that was weighed otherwise: gutted, headed, or with others."""

import math

from scipy.special import ndtri

from lepidos.core.catch.length_weight import LEVEL
from lepidos.core.estimate import Estimate
from lepidos.core.fish.species import Species
from lepidos.core.limits import require_weight


def round_from_gutted(gutted_kg: float, species: Species, level: float = LEVEL) -> Estimate:
    """Round weight of a fish that was weighed gutted: gutted × the landed-to-live factor [kg].

    Args:
        gutted_kg: Within `limits`. level: Of the interval, above 0 and below 1.
    Raises: OutOfRange.
    Source: the species' factor names its own.
    """
    require_weight(gutted_kg, "gutted weight")
    ratio = species.round_per_gutted
    reach = float(ndtri(0.5 + level / 2)) * ratio.sd
    return Estimate(
        gutted_kg * ratio.mean,
        gutted_kg * max(1.0, ratio.mean - reach),
        gutted_kg * (ratio.mean + reach),
        level,
        "kg",
        f"gutted weight × {ratio.mean:g}",
        ratio.source,
    )


def round_from_headed(headed_kg: float, species: Species, level: float = LEVEL) -> Estimate:
    """Round weight of a fish that was weighed without head and gut [kg].

    Divided by what head and gut leave; their two spreads add in squares. National factors for
    fish landed so lie inside (cod 1.70, memory), where the collar went off with the head.

    Args:
        headed_kg: Within `limits`. level: Of the interval, above 0 and below 1.
    Raises: OutOfRange.
    Source: the species' yields name their own.
    """
    require_weight(headed_kg, "headed weight")
    head, gut = species.yields.head, species.yields.gut
    left = 1 - head.mean - gut.mean
    reach = min(float(ndtri(0.5 + level / 2)) * math.hypot(head.sd, gut.sd), 0.9 * left)
    return Estimate(
        headed_kg / left,
        headed_kg / min(1.0, left + reach),
        headed_kg / (left - reach),
        level,
        "kg",
        f"headed and gutted weight ÷ {left:.2f}",
        species.yields.source,
    )


def round_from_share(share_kg: float, species: Species, level: float = LEVEL) -> Estimate:
    """Round weight of one fish of which a share of a weight together is known [kg].

    The sum is known, the one fish is off by what such fish differ at one length.

    Args: share_kg: Within `limits`. level: Of the interval, above 0 and below 1.
    Raises: OutOfRange.
    Source: the spread of the species' `length_weight`, which names its own.
    """
    require_weight(share_kg)
    fit = species.length_weight
    reach = math.exp(float(ndtri(0.5 + level / 2)) * fit.sd_log)
    return Estimate(
        share_kg,
        share_kg / reach,
        share_kg * reach,
        level,
        "kg",
        "its share of a weight of several",
        fit.source,
    )
