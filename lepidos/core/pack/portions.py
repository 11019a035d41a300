"""Where to cut a fillet so that every plate gets the same, and which portions share a bag."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq

from lepidos.core.errors import require
from lepidos.core.estimate import Z_80
from lepidos.core.fish.anatomy import MUSCLE_DENSITY, FilletProfile, Floats
from lepidos.core.limits import MAX_FISH_M, MAX_PIECE_KG, MIN_PIECE_KG

# The thin end cooks faster: it begins where thickness falls below this part of the thickest
# (common practice, no source).
TAIL_BELOW = 0.55
# One standard deviation of a portion's weight around the profile's (from memory, to be learned
# from portions that were weighed).
PROFILE_SD = 0.07
MAX_PORTIONS = 60
# A portion or a bag feeds somebody from this part of a serving on; less is a part of one
# (common practice, no source).
ENOUGH = 0.75
PACKED = 0.999  # a piece is packed when this share of it is in bags: the rest is rounding


@dataclass(frozen=True)
class Portion:
    """A stretch of the fillet [m from the head end] with its expected mass [kg] and interval."""

    index: int
    from_m: float
    to_m: float
    kg: float
    low_kg: float
    high_kg: float
    tail: bool


@dataclass(frozen=True)
class PortionPlan:
    """Marks and portions of one fillet, thickness at both ends and the serving asked for."""

    length_m: float
    kg: float
    serving_kg: float
    portions: tuple[Portion, ...]
    thickest_m: float
    thinnest_m: float

    @property
    def marks_m(self) -> tuple[float, ...]:
        """Where to cut, in metres from the head end."""
        return tuple(p.to_m for p in self.portions[:-1])


def mass_before(profile: FilletProfile, x: float) -> float:
    """Share of the fillet's mass between the head end and x (0 to 1).

    ∫ width · thickness dx; both are linear between knots, so the integrand is a parabola on
    each stretch and Simpson's rule is exact on it.

    Raises: OutOfRange.
    """
    require("x", x, 0, 1, "")
    return _integral(profile, x) / _integral(profile, 1.0)


def least_serving(kg: float) -> float:
    """The smallest serving [kg] that a piece can be marked into, so that `MAX_PORTIONS` holds."""
    # a thick part and a tail are each rounded to whole portions: two to spare
    return kg / (MAX_PORTIONS - 2)


def equal_portions(
    profile: FilletProfile,
    kg: float,
    length_m: float,
    serving_kg: float,
    tail_apart: bool = True,
    sd: float = PROFILE_SD,
) -> PortionPlan:
    """Equal-portion marks for a serving weight.

    The thick part is cut into as many equal portions as come nearest to the serving; the tail,
    from where the meat is thinner than `TAIL_BELOW` of its thickest, is portioned on its own, so
    that thick and thin are cooked apart. With `tail_apart` False the whole is cut equally.

    Args:
        profile: Relative width and thickness, head end first.
        kg: Fillet mass [kg], 0.0001 to 5000.
        length_m: Fillet length [m], 0.001 to 20.
        serving_kg: Serving asked for [kg], 0.02 to 200.
        sd: of a portion around the profile, as a part of its weight.
    Returns: At least one portion; the portions' masses add up to `kg`.
    Raises: OutOfRange, also when more than 60 portions would come out.
    """
    require("weight", kg, MIN_PIECE_KG, MAX_PIECE_KG, "kg")
    require("length", length_m, 0.001, MAX_FISH_M, "m")
    require("serving", serving_kg, 0.02, 200, "kg")
    tail_x = _tail_start(profile) if tail_apart else 1.0
    thick_share = mass_before(profile, tail_x)
    pieces: list[tuple[float, float, bool]] = []
    if tail_x < 1 and (1 - thick_share) * kg < serving_kg / 4:
        tail_x, thick_share = 1.0, 1.0  # a scrap of tail is not worth a bag of its own
    for start, share, tail in ((0.0, thick_share, False), (thick_share, 1 - thick_share, True)):
        if share <= 1e-9:
            continue
        count = max(1, round(share * kg / serving_kg))
        require("number of portions", count, 1, MAX_PORTIONS, "")
        for k in range(count):
            pieces.append((start + share * k / count, start + share * (k + 1) / count, tail))
    cuts = [0.0, *(at_share(profile, end) for _, end, _ in pieces[:-1]), 1.0]
    portions = tuple(
        Portion(
            index,
            cuts[index] * length_m,
            cuts[index + 1] * length_m,
            (end - start) * kg,
            *interval((end - start) * kg, len(pieces), sd),
            tail,
        )
        for index, (start, end, tail) in enumerate(pieces)
    )
    scale = thickness_scale(profile, kg, length_m)
    return PortionPlan(
        length_m,
        kg,
        serving_kg,
        portions,
        max(profile.thickness) * scale,
        profile.thickness[-1] * scale,
    )


def servings_of(kg: float, serving_kg: float, marked: bool) -> float:
    """How many servings [kg each] a portion or a whole piece is.

    A `marked` portion is one, as it was meant, unless it is so small that it is a part of one. A
    whole piece counts by its weight.

    >>> servings_of(0.141, 0.15, True), servings_of(0.3, 0.15, False)
    (1.0, 2.0)
    >>> round(servings_of(0.038, 0.15, True), 2)
    0.25
    """
    parts = kg / serving_kg
    return 1.0 if marked and parts >= ENOUGH else parts


def servings_in_bag(parts: float) -> float:
    """Servings as a bag is labelled and counted: whole ones, or the part of one [0.1] that it is.

    >>> servings_in_bag(1.87), servings_in_bag(0.8), servings_in_bag(0.253)
    (2.0, 1.0, 0.3)
    """
    return float(round(parts)) if parts >= ENOUGH else round(parts, 1)


@dataclass(frozen=True)
class BagPlan:
    """Portions that go into one bag: never thick and tail together."""

    index: int
    portions: tuple[Portion, ...]

    @property
    def kg(self) -> float:
        """Expected mass in the bag [kg]."""
        return math.fsum(p.kg for p in self.portions)

    @property
    def tail(self) -> bool:
        """It holds the thin end."""
        return self.portions[0].tail


def into_bags(portions: Sequence[Portion], per_bag: int) -> tuple[BagPlan, ...]:
    """Neighbouring portions bag by bag, thick with thick and tail with tail.

    Args: per_bag: portions in a bag, 1 to 12. Raises: OutOfRange.
    """
    require("portions in a bag", per_bag, 1, 12, "")
    bags: list[list[Portion]] = []
    for portion in portions:
        last = bags[-1] if bags else None
        if last and len(last) < per_bag and last[0].tail == portion.tail:
            last.append(portion)
        else:
            bags.append([portion])
    return tuple(BagPlan(i, tuple(b)) for i, b in enumerate(bags))


def simple_profile(
    plateau: float = 0.45, tail_width: float = 0.45, tail_thickness: float = 0.28
) -> FilletProfile:
    """A fillet profile from three figures, for when no species is known.

    Full width and thickness from 6 % to `plateau` of the length, then straight down to the tail's
    shares.

    Args: plateau 0.1 to 0.95; tail_width and tail_thickness 0.02 to 1, shares of the greatest.
    Raises: OutOfRange.
    Source: shape from memory.
    """
    require("plateau", plateau, 0.1, 0.95, "")
    require("tail width", tail_width, 0.02, 1, "")
    require("tail thickness", tail_thickness, 0.02, 1, "")
    return FilletProfile(
        (0.0, 0.06, plateau, 1.0), (0.6, 1.0, 1.0, tail_width), (0.85, 1.0, 1.0, tail_thickness)
    )


def _integral(profile: FilletProfile, x: float) -> float:
    knots = np.asarray(profile.x)
    edges = np.append(knots[knots < x], x)
    if len(edges) < 2:
        return 0.0
    middles = (edges[1:] + edges[:-1]) / 2

    def section(at: Floats) -> Floats:
        width = np.interp(at, knots, profile.width)
        return np.asarray(width * np.interp(at, knots, profile.thickness))

    simpson = section(edges[:-1]) + 4 * section(middles) + section(edges[1:])
    return float(np.sum(simpson * np.diff(edges)) / 6)


def at_share(profile: FilletProfile, share: float) -> float:
    """Where, from 0 to 1, this share of the mass lies before, 0 to 1."""
    whole = _integral(profile, 1.0)
    return float(brentq(lambda x: _integral(profile, x) / whole - share, 0.0, 1.0, xtol=1e-10))


def _tail_start(profile: FilletProfile) -> float:
    xs = np.linspace(0, 1, 401)
    thickness = np.interp(xs, profile.x, profile.thickness)
    thick = np.nonzero(thickness >= TAIL_BELOW * thickness.max())[0]
    return float(xs[thick[-1]])


def interval(kg: float, count: int, sd: float = PROFILE_SD) -> tuple[float, float]:
    """80 % interval of a portion [kg], one of `count` of its piece."""
    # a fillet cut once only has the scale's error; its parts share the profile's
    spread = 0.0 if count == 1 else sd * Z_80 * math.sqrt(1 - 1 / count)
    return kg * (1 - spread), kg * (1 + spread)


def thickness_scale(profile: FilletProfile, kg: float, length_m: float) -> float:
    """Metres per unit of relative thickness.

    Width and thickness are in the same relative unit, so one unit u [m] solves
    kg = ρ · L · u² · ∫ width · thickness dx.
    """
    return math.sqrt(kg / (MUSCLE_DENSITY * length_m * _integral(profile, 1.0)))
