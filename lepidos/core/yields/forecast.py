"""What a fish will give, before the first cut: the guide's yields corrected by the crew's own fish.

Each part of the fish is pooled on the logit scale of its share of the round weight, by cutter, with
ln(round weight) as covariate (see `pooling`). The result is the species with yields of its own, so
that everything that asks a species for its yields can ask this one instead.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from scipy.special import ndtri

from lepidos.core.cutting.model import Skin
from lepidos.core.fish.species import Fraction, Species
from lepidos.core.yields.partial_pooling import Observation, Pooled, PoolPrior, pool

# How the guide's spread of a share is made up: not knowing the crew's mean, cutters, single fish.
# The squares add up to about one (common practice, no source).
MEAN_PART, CUTTER_PART, FISH_PART = 0.7, 0.4, 0.6
SLOPE_SD = 0.10  # of the logit, by a factor e of weight (memory: yields hardly move with size)
MIN_SHARE, MAX_SHARE = 0.002, 0.95  # a share outside is a slip of the scale, not a fish

PARTS = ("gut", "head", "frame", "collar", "cheek", "belly", "fin_muscle")
FILLET: dict[Skin, str] = {"on": "fillet_skin_on", "off": "fillet_skinless"}


@dataclass(frozen=True)
class Finished:
    """A finished fish that was weighed whole: who cut it, its weight, and its parts [kg].

    `parts` are named as the rows of `Yields`; only those that were wholly weighed are there.
    """

    cutter: str
    round_kg: float
    parts: Mapping[str, float]


@dataclass(frozen=True)
class Learned:
    """What finished fish of a species have taught, part by part. Build it with `learn`."""

    species: Species
    middle_kg: float
    _pools: Mapping[str, Pooled]

    @property
    def learned_from(self) -> int:
        """Fish behind the part that was weighed most often."""
        return max((p.learned_from for p in self._pools.values()), default=0)

    def of_cutter(self, cutter: str) -> int:
        """How many of them this cutter cut."""
        return max((p.of_group.get(cutter, 0) for p in self._pools.values()), default=0)

    def prior_of_part(self, name: str) -> PoolPrior | None:
        """The guide's prior of a part; None: the species has no such part."""
        row: Fraction | None = getattr(self.species.yields, name)
        return prior_of(row) if row is not None else None

    def species_for(self, cutter: str, round_kg: float) -> Species:
        """The species as it comes off this cutter's board at this weight.

        Its means and spreads give back the pooled prediction's interval at 80 %.
        """
        if not self._pools:
            return self.species
        x = math.log(round_kg / self.middle_kg)
        yields = self.species.yields
        shares = {name: _fraction(found, cutter, x) for name, found in self._pools.items()}
        # skin cannot weigh less than nothing, whatever was learned of the one without the other
        on = shares.get("fillet_skin_on", yields.fillet_skin_on)
        off = shares.get("fillet_skinless", yields.fillet_skinless)
        if off.mean >= on.mean:
            usual = yields.fillet_skinless.mean / yields.fillet_skin_on.mean
            if "fillet_skin_on" in shares:
                shares["fillet_skinless"] = Fraction(mean=on.mean * usual, sd=off.sd)
            else:
                shares["fillet_skin_on"] = Fraction(mean=min(0.95, off.mean / usual), sd=on.sd)
        own = self.of_cutter(cutter)
        note = f"learned from {self.learned_from} finished fish, {own} of them this cutter's"
        # copied unchecked: parts pooled one by one need not add up to less than a whole fish
        return self.species.model_copy(
            update={"yields": yields.model_copy(update={**shares, "note": note})}
        )


def learn(species: Species, fish: Sequence[Finished]) -> Learned:
    """Pool every part that some fish has weighed."""
    if not fish:
        return Learned(species, 1.0, {})
    middle = math.exp(sum(math.log(f.round_kg) for f in fish) / len(fish))
    pools = {}
    for name in (*PARTS, *FILLET.values()):
        row: Fraction | None = getattr(species.yields, name)
        seen = [
            Observation(f.cutter, _logit(share), math.log(f.round_kg / middle))
            for f in fish
            if name in f.parts and MIN_SHARE < (share := f.parts[name] / f.round_kg) < MAX_SHARE
        ]
        if row is not None and seen:
            pools[name] = pool(seen, prior_of(row))
    return Learned(species, middle, pools)


def prior_of(row: Fraction) -> PoolPrior:
    """The guide's share and spread as a prior on the logit scale (delta method)."""
    sd = row.sd / (row.mean * (1 - row.mean))
    return PoolPrior(_logit(row.mean), MEAN_PART * sd, SLOPE_SD, CUTTER_PART * sd, FISH_PART * sd)


def _fraction(found: Pooled, cutter: str, x: float) -> Fraction:
    at = found.predict(cutter, x)
    mean = 1 / (1 + math.exp(-at.median))
    sd = (at.high - at.low) / (2 * float(ndtri(0.5 + at.level / 2)))
    return Fraction(mean=mean, sd=min(0.45, sd * mean * (1 - mean)))


def _logit(share: float) -> float:
    return math.log(share / (1 - share))
