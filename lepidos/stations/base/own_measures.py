"""A species as a crew's own fish have it: length–weight constants and ratios of lengths."""

from typing import cast

from lepidos.core.catch.own_length_weight import MAX_FISH, updated, updated_ratio
from lepidos.core.errors import OutOfRange
from lepidos.core.fish.lengths import to_length_type
from lepidos.core.fish.species import LengthType, Ratio, Species
from lepidos.stations.base.context import AppContext
from lepidos.store.base import entries
from lepidos.store.deck import fishes

KEPT = 60


def as_measured(ctx: AppContext, species: Species) -> tuple[Species, int]:
    """The species with the crew's own constants, and how many weighed fish are behind them.

    Called in an open transaction.
    """
    key = ("as measured", species, entries.last_key(), ctx.guide.edition)
    return ctx.memo.get(key, lambda: _as_measured(species), most=KEPT)


def _as_measured(species: Species) -> tuple[Species, int]:
    species = _with_own_ratios(species)
    fit = species.length_weight
    lengths, weights = [], []
    for length_m, have, kg in fishes.weighed_whole(species.key, MAX_FISH):
        try:
            metres = to_length_type(
                length_m, cast(LengthType, have), fit.length_type, species.total_per
            )
        except OutOfRange:
            continue  # a length of a kind that has no ratio yet
        lengths.append(metres * 100)
        weights.append(kg)
    if not lengths:
        return species, 0
    own = updated(fit, lengths, weights)
    return species.model_copy(update={"length_weight": own}), len(lengths)


def _with_own_ratios(species: Species) -> Species:
    """The species with its ratios of lengths as they are of the crew's own fish.

    A fish of which no total length was taken still tells one length from another: what it would be
    in all is calculated from the type that comes first in `total_per`.
    """
    taken = fishes.lengths_taken(species.key, MAX_FISH)
    guides, own = species.total_per, dict[str, Ratio]()
    for kind, guide in guides.items():
        seen = []
        for lengths in taken:
            total = lengths.get("total")
            if total is None and (first := next((k for k in own if k in lengths), None)):
                total = lengths[first] * own[first].mean
            if total is not None and kind in lengths and 0.5 <= total / lengths[kind] <= 3.0:
                seen.append(total / lengths[kind])
        own[kind] = updated_ratio(guide, seen)
    changed = {f"total_per_{k}": own[k] for k, guide in guides.items() if own[k] is not guide}
    return species.model_copy(update=changed)
