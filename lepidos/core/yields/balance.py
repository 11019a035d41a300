"""Where a fish went: the mass balance, yields with both their names, and what to expect."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from scipy.special import ndtri

from lepidos.core.cutting.model import CuttingPlan, Skin, Slot
from lepidos.core.errors import require
from lepidos.core.estimate import Estimate
from lepidos.core.fish.bodyplan import BodyPlan, Piece
from lepidos.core.fish.species import Fraction, Species
from lepidos.core.limits import MAX_PIECE_KG, require_weight
from lepidos.core.units import format_percent

LEVEL = 0.80  # of the intervals that are told: four of five
# Below this the rest is scale noise and drip, not a missing piece (practice).
CLOSED_WITHIN = 0.02


@dataclass(frozen=True)
class BalancePart:
    """One weighed part of a fish [kg]."""

    slot: Slot
    kg: float


@dataclass(frozen=True)
class Balance:
    """round = parts + rest, exactly. `rest_kg` is negative when more was weighed than the fish.

    `rest_low_kg` and `rest_high_kg` carry the interval of an estimated round weight through.
    """

    round_kg: float
    round_measured: bool
    parts: tuple[BalancePart, ...]
    weighed_kg: float
    rest_kg: float
    rest_low_kg: float
    rest_high_kg: float

    @property
    def over(self) -> bool:
        """More has been weighed than the fish can have held."""
        return self.rest_high_kg < 0

    @property
    def rest_share(self) -> float:
        """The rest as a part of the round weight."""
        return self.rest_kg / self.round_kg


def balance(
    round_kg: float,
    parts: Sequence[BalancePart],
    round_interval_kg: tuple[float, float] | None = None,
) -> Balance:
    """Mass balance of one fish.

    Args:
        round_kg: Whole, ungutted mass [kg] within `limits`, measured or estimated.
        parts: Everything weighed off it, each 0 to 5000 kg.
        round_interval_kg: Interval of an estimated round weight; None when it was measured.
    Raises:
        OutOfRange: a mass cannot be.
    Example:
        >>> balance(2.91, [BalancePart(Slot("fillet", "A"), 0.58)]).rest_kg.__round__(2)
        2.33
    """
    require_weight(round_kg)
    for part in parts:
        require(part.slot.key, part.kg, 0, MAX_PIECE_KG, "kg")
    weighed = math.fsum(p.kg for p in parts)
    low, high = round_interval_kg or (round_kg, round_kg)
    return Balance(
        round_kg,
        round_interval_kg is None,
        tuple(parts),
        weighed,
        round_kg - weighed,
        low - weighed,
        high - weighed,
    )


@dataclass(frozen=True)
class YieldFigure:
    """A yield always says what of what."""

    fraction: float
    numerator: str
    denominator: str
    measured: bool


Skins = Skin | Literal["mixed", "rough", "eye"]
NUMERATORS = {
    "on": "fillets, skin on",
    "off": "fillets, skinless",
    "mixed": "fillets, some with their skin",
    "rough": "fillets, weighed before they were trimmed",
    "eye": "fillets, judged by eye",
}


def fillet_yield(
    weighed: Balance, skin: Skins, catalogue: Mapping[str, Piece], trusted: bool = True
) -> YieldFigure | None:
    """Fillet per round weight, the skin named; None while no fillet is weighed.

    `skin` is "mixed" when some pieces kept theirs, "rough" when they were weighed untrimmed, and
    "eye" when they were judged by eye.
    `trusted` is False when the round weight was calculated from a gutted one.
    """
    kg = math.fsum(p.kg for p in weighed.parts if catalogue[p.slot.piece].counts_as == "fillet")
    if kg == 0:
        return None
    known = weighed.round_measured and trusted
    how = "measured" if known else "estimated"
    return YieldFigure(
        kg / weighed.round_kg,
        NUMERATORS[skin],
        f"round weight ({how})",
        known and skin not in ("rough", "eye"),
    )


def expected_fraction(fraction: Fraction, level: float = LEVEL) -> tuple[float, float, float]:
    """Mean and interval of a part's fraction, the interval symmetric on the logit scale.

    On the logit scale so that no interval leaves 0 to 1; the guide's SD is carried there by the
    delta method, sd / (p(1−p)).

    Args: level 0.5 to 0.999.
    Raises: OutOfRange.
    """
    require("level", level, 0.5, 0.999, "")
    logit = math.log(fraction.mean / (1 - fraction.mean))
    sd = fraction.sd / (fraction.mean * (1 - fraction.mean))
    reach = float(ndtri(0.5 + level / 2)) * sd

    def back(z: float) -> float:
        return 1 / (1 + math.exp(-z))

    return fraction.mean, back(logit - reach), back(logit + reach)


def expected_fillet(
    round_weight: Estimate | float,
    species: Species,
    skin: Skin,
    level: float = LEVEL,
    otherwise: float = 0.0,
) -> Estimate:
    """Fillet to expect from a whole fish [kg], both sides with their bellies.

    `otherwise` is the part of its fillets, 0 to 1, whose skin is the other way (`odd_skins`).
    The interval is the guide's spread of the fraction; an estimated round weight widens it, the
    two spreads adding in squares on the log scale.
    """
    rows = (species.yields.fillet_skin_on, species.yields.fillet_skinless)
    row, other = rows if skin == "on" else rows[::-1]
    what = f"fillet, skin {skin}, per round weight"
    if otherwise:
        row = Fraction(
            mean=row.mean * (1 - otherwise) + other.mean * otherwise,
            sd=row.sd * (1 - otherwise) + other.sd * otherwise,
        )
        what = f"fillet, skin {skin} but for {format_percent(otherwise)}, per round weight"
    return _share(round_weight, row, species, what, level)


def odd_skins(cut: CuttingPlan, plan: BodyPlan, catalogue: Mapping[str, Piece]) -> float:
    """The part of a plan's fillets, 0 to 1, whose own purpose leaves their skin the other way."""
    shares = {p.piece: p.share for p in plan.pieces if p.share_of == "fillet"}
    fillets = [
        slot
        for slot in cut.slots
        if catalogue[slot.piece].counts_as == "fillet" and not catalogue[slot.piece].yield_key
    ]
    weights = {slot.key: shares.get(slot.piece, 1.0) for slot in fillets}
    odd = sum(weight for key, weight in weights.items() if key in cut.skins)
    return odd / sum(weights.values()) if odd else 0.0


def expected_slots(
    round_weight: Estimate | float,
    species: Species,
    plan: BodyPlan,
    cut: CuttingPlan,
    catalogue: Mapping[str, Piece],
    level: float = LEVEL,
) -> dict[str, Estimate]:
    """What each slot of a plan should weigh [kg], by slot key; slots without a figure are left out.

    A sided piece is half of both sides' fraction. Fillets are what is left of the fillet
    fraction once a belly that is taken off on its own has been taken from it, each with its own
    skin on or off.
    """
    fillets = {"on": species.yields.fillet_skin_on, "off": species.yields.fillet_skinless}
    apart = {s.piece for s in cut.slots}
    belly = species.yields.belly if "belly" in apart else None
    if belly:
        fillets = {
            key: Fraction(mean=f.mean - belly.mean, sd=math.hypot(f.sd, belly.sd))
            for key, f in fillets.items()
        }
    shares = {p.piece: p.share for p in plan.pieces if p.share_of == "fillet"}
    expected: dict[str, Estimate] = {}
    for slot in cut.slots:
        piece = catalogue[slot.piece]
        row: Fraction | None
        if piece.counts_as == "fillet" and not piece.yield_key:
            row = fillets[cut.skin_of(slot.key)]
            share = shares.get(slot.piece, 1.0)
        else:
            row, share = getattr(species.yields, piece.yield_key or "-", None), 1.0
        if row is None:
            continue
        part = share / 2 if piece.sided else share
        if piece.counts_as == "fillet":
            part *= cut.fillet_factor
        whole = _share(round_weight, row, species, f"{piece.name} per round weight", level)
        expected[slot.key] = whole.scaled(part)
    return expected


def _share(
    round_weight: Estimate | float, row: Fraction, species: Species, what: str, level: float
) -> Estimate:
    mean, low, high = expected_fraction(row, level)
    shown = [format_percent(share) for share in (mean, low, high)]
    formula = f"{what}: {shown[0]}, {shown[1]} to {shown[2]} (symmetric on the logit scale)"
    if not isinstance(round_weight, Estimate):
        kg = require_weight(round_weight)
        source = species.yields.source
        return Estimate(kg * mean, kg * low, kg * high, level, "kg", formula, source)
    kg = round_weight.value
    widen = float(ndtri(0.5 + level / 2) / ndtri(0.5 + round_weight.level / 2))

    def reach(edge: float, round_edge: float) -> float:
        return math.hypot(math.log(edge / mean), widen * math.log(round_edge / kg))

    return Estimate(
        kg * mean,
        kg * mean * math.exp(-reach(low, round_weight.low)),
        kg * mean * math.exp(reach(high, round_weight.high)),
        level,
        "kg",
        formula,
        species.yields.source,
        ("round weight is an estimate",),
    )
