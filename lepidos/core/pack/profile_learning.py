"""What weighed portions teach of a piece's profile: where along it the meat really lies.

The guide's profile gives mass per length by anatomy. What a crew weighed of a kind of piece
after cutting corrects it by a smooth factor exp(β1·P1 + β2·P2), P1 and P2 the Legendre polynomials
of first and second degree over the length: more meat towards the tail, more at both ends. β is the
most probable value given all weighed bags (Gauss–Newton), with the guide's uncertainty as prior.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lepidos.core.errors import require
from lepidos.core.fish.anatomy import FilletProfile, Floats
from lepidos.core.pack.portions import PROFILE_SD

# One standard deviation of β1 and β2 around the guide's profile: chosen so that a third of a fillet
# is off by PROFILE_SD (from memory, as that is).
PRIOR_SD = (0.10, 0.08)
CUTTER_SD = (0.05, 0.04)  # of a cutter around the crew (common practice, no source)
# A portion's weight around its marks when the profile is right: the knife strays by some
# millimetres (common practice, no source).
CUT_SD = 0.035
MAX_OFF = 1.4  # a bag that is off by more holds another piece
_GRID = 401  # places along a fillet
_ROUNDS = 12  # of the fit
_STEP = 1e-5  # of a slope
LAST = 10  # bags that say how good it is


@dataclass(frozen=True)
class Stretch:
    """A part of a piece: from, to in shares of its length, 0 to 1, and the piece's weight [kg]."""

    start: float
    end: float
    piece_kg: float


@dataclass(frozen=True)
class WeighedBag:
    """A bag on the scale [kg], and the stretches of pieces that lay in it."""

    kg: float
    inside: tuple[Stretch, ...]


@dataclass(frozen=True)
class LearnedProfile:
    """A corrected profile, what it rests on, and how good it is.

    `sd` is one standard deviation of a portion around it, as a part of its weight. `off_g` are the
    differences of the last bags, what the scale showed less what was foreseen before they taught
    anything new [g], the newest last.
    """

    profile: FilletProfile
    bags: int
    sd: float
    off_g: tuple[float, ...] = ()

    @property
    def typical_g(self) -> float | None:
        """Half of the last bags were off by less [g]; None without any."""
        return float(np.median(np.abs(self.off_g))) if self.off_g else None


def _basis(x: Floats) -> Floats:
    at = 2 * x - 1
    return np.array([at, (3 * at**2 - 1) / 2])


@dataclass(frozen=True)
class _Model:
    """Mass along one profile, for any β."""

    x: Floats
    section: Floats
    basis: Floats

    @classmethod
    def of(cls, profile: FilletProfile) -> "_Model":
        x = np.linspace(0, 1, _GRID)
        width, thick = (np.interp(x, profile.x, p) for p in (profile.width, profile.thickness))
        return cls(x, width * thick, _basis(x))

    def cumulative(self, beta: Floats) -> Floats:
        section = self.section * np.exp(beta @ self.basis)
        steps = (section[1:] + section[:-1]) / 2
        total = np.concatenate([[0.0], np.cumsum(steps)])
        return np.asarray(total / total[-1])

    def logs(self, beta: Floats, bags: "_Bags") -> Floats:
        """ln of the foreseen weight of each bag."""
        share = self.cumulative(beta)
        masses = bags.piece_kg * (
            np.interp(bags.end, self.x, share) - np.interp(bags.start, self.x, share)
        )
        totals = np.bincount(bags.of, masses, len(bags.kg))
        return np.asarray(np.log(np.maximum(totals, 1e-9)))


@dataclass(frozen=True)
class _Bags:
    """Bags as arrays: their weights, and of each stretch its ends, its piece, and its bag."""

    kg: Floats
    start: Floats
    end: Floats
    piece_kg: Floats
    of: NDArray[np.intp]

    @classmethod
    def of_rows(cls, rows: Sequence[WeighedBag]) -> "_Bags":
        parts = [(s.start, s.end, s.piece_kg, n) for n, bag in enumerate(rows) for s in bag.inside]
        start, end, piece_kg, of = np.array(parts).T
        return cls(np.array([b.kg for b in rows]), start, end, piece_kg, of.astype(np.intp))


def learn_profile(
    profile: FilletProfile, crew: Sequence[WeighedBag], own: Sequence[WeighedBag] = ()
) -> LearnedProfile:
    """The profile of a kind of piece after what was weighed of it.

    Args:
        profile: the guide's.
        crew: bags of this kind by anyone, oldest first; those far off are left out as slips.
        own: those of them that this cutter cut: they correct the crew's once more.
    Raises: OutOfRange for a stretch outside the piece or a weight that is not positive.
    """
    for bag in (*crew, *own):
        require("bag's weight", bag.kg, 1e-6, 1000, "kg")
        for part in bag.inside:
            require("start of the stretch", part.start, 0, 1, "")
            require("end of the stretch", part.end, part.start, 1 + 1e-9, "")
    model = _Model.of(profile)
    good, mine = (_without_slips(model, bags) for bags in (crew, own))
    nothing = np.zeros(2)
    beta, spread = _fit(model, good, nothing, np.array(PRIOR_SD))
    if mine:
        beta, spread = _fit(model, mine, beta, np.hypot(spread, CUTTER_SD))
    off = _foretold(model, good)
    x = np.asarray(profile.x)
    factor = np.exp(beta @ _basis(x))
    changed = FilletProfile(
        profile.x,
        profile.width,
        tuple(float(t) for t in np.asarray(profile.thickness) * factor),
    )
    # what is not known of the shape, in a third of the piece, and the knife
    shape = math.hypot(*(spread / np.array(PRIOR_SD))) / math.sqrt(2) * PROFILE_SD
    sd = PROFILE_SD if not good else min(PROFILE_SD, math.hypot(shape, CUT_SD))
    return LearnedProfile(changed if good else profile, len(good), sd, off)


def _without_slips(model: _Model, bags: Sequence[WeighedBag]) -> list[WeighedBag]:
    """Bags that could be what they are said to be, and that say something of the shape."""
    some = [bag for bag in bags if any(s.end - s.start < 0.999 for s in bag.inside)]
    if not some:
        return []
    ratio = np.log([bag.kg for bag in some]) - model.logs(np.zeros(2), _Bags.of_rows(some))
    return [bag for bag, off in zip(some, ratio, strict=True) if abs(off) < math.log(MAX_OFF)]


def _fit(
    model: _Model, rows: Sequence[WeighedBag], middle: Floats, sd: Floats
) -> tuple[Floats, Floats]:
    """The most probable β and its standard deviations."""
    if not rows:
        return middle, sd
    bags, beta = _Bags.of_rows(rows), middle.copy()
    observed = np.log(bags.kg)
    prior = np.diag(1 / sd**2)
    information = prior
    for _ in range(_ROUNDS):
        foreseen = model.logs(beta, bags)
        slope = np.column_stack(
            [(model.logs(beta + _STEP * e, bags) - foreseen) / _STEP for e in np.eye(2)]
        )
        information = slope.T @ slope / CUT_SD**2 + prior
        pull = slope.T @ (observed - foreseen) / CUT_SD**2 + prior @ (middle - beta)
        change = np.linalg.solve(information, pull)
        beta = beta + change
        if float(np.abs(change).max()) < 1e-7:
            break
    return beta, np.sqrt(np.diag(np.linalg.inv(information)))


def _foretold(model: _Model, bags: Sequence[WeighedBag]) -> tuple[float, ...]:
    """By how much each of the last bags was off what those before it had taught [g]."""
    off = []
    for n in range(max(0, len(bags) - LAST), len(bags)):
        beta, _ = _fit(model, bags[:n], np.zeros(2), np.array(PRIOR_SD))
        foreseen = math.exp(float(model.logs(beta, _Bags.of_rows(bags[n : n + 1]))[0]))
        off.append((bags[n].kg - foreseen) * 1000)
    return tuple(off)
