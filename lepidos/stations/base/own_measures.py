"""A species as a crew's own fish have it: length–weight constants, total to fork length."""

from typing import cast

from lepidos.core.catch.length_weight import to_length_type
from lepidos.core.catch.own_length_weight import MOST_FISH, updated, updated_ratio
from lepidos.core.errors import OutOfRange
from lepidos.core.fish.species import LengthType, Species
from lepidos.stations.base.context import AppContext
from lepidos.store import entries, fishes

KEPT = 60


def as_measured(ctx: AppContext, species: Species) -> tuple[Species, int]:
    """The species with the crew's own constants, and how many weighed fish are behind them.

    Called in an open transaction.
    """
    key = ("as measured", species, entries.last_key(), ctx.guide.edition)
    return ctx.memo.get(key, lambda: _as_measured(species), most=KEPT)


def _as_measured(species: Species) -> tuple[Species, int]:
    ratios = [
        total / fork
        for total, fork in fishes.both_lengths(species.key, MOST_FISH)
        if 0.5 <= total / fork <= 3.0
    ]
    species = species.model_copy(
        update={"total_per_fork": updated_ratio(species.total_per_fork, ratios)}
    )
    fit = species.length_weight
    lengths, weights = [], []
    for length_m, have, kg in fishes.weighed_whole(species.key, MOST_FISH):
        try:
            metres = to_length_type(
                length_m, cast(LengthType, have), fit.length_type, species.total_per_fork
            )
        except OutOfRange:
            continue  # a length of a kind that has no ratio yet
        lengths.append(metres * 100)
        weights.append(kg)
    if not lengths:
        return species, 0
    own = updated(fit, lengths, weights)
    return species.model_copy(update={"length_weight": own}), len(lengths)
