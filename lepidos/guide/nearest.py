"""A fish that the guide lacks, as the nearest kind that it has: what is taken over, what is not."""

from collections.abc import Mapping
from typing import Any

from lepidos.core.fish.species import Species, Yields

# How much less is known of such a fish than of its nearest kind (practice): its weight and its
# yields scatter so much more, and it may grow so much longer.
WIDER, LONGER = 1.5, 1.5
MIN_SD_LOG = 0.2
CAUTION = "not_known"


def name_of(called: str, near: Species) -> str:
    """What such a fish is called everywhere, so that nobody takes it for the nearest kind."""
    return f"{called} (like {near.name})"


def as_nearest(raw: Mapping[str, Any], species: Mapping[str, Species]) -> dict[str, Any]:
    """The values of a fish whose text says little more than `nearest`, a key, its name and code.

    Everything of the nearest kind but its names, with the spreads of weight and yields widened and
    a caution of its own. Raises ValueError when the guide has no such kind.
    """
    near = species.get(str(raw["nearest"]))
    if near is None:
        raise ValueError(f"no fish “{raw['nearest']}” to be nearest to")
    fit = near.length_weight
    wide = {
        "sd_log": min(0.9, max(MIN_SD_LOG, WIDER * fit.sd_log)),
        "n": None,
        "note": f"of {near.name}, with a wider spread",
    }
    return {
        **near.model_dump(exclude={"key", "counted"}),
        "plural": raw.get("name", ""),
        "scientific": "",
        "other_names": (),
        "summary": f"Not in the guide. It is cut like {near.name}, the kind nearest to it.",
        "longest_cm": min(499.0, near.longest_cm * LONGER),
        "cautions": tuple(dict.fromkeys((*near.cautions, CAUTION))),
        "length_weight": fit.model_dump() | wide,
        "yields": _widened(near.yields),
        **raw,
    }


def _widened(yields: Yields) -> dict[str, Any]:
    found = yields.model_dump()
    for part in found.values():
        if isinstance(part, dict):
            part["sd"] = min(0.5, part["sd"] * WIDER)
    return found
