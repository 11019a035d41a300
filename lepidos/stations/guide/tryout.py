"""Trying a fish or body plan of the crew's own out before it is taken in: all that a page asks."""

from collections.abc import Iterable

import numpy as np

from lepidos.core.catch.length_weight import LENGTH_SLACK, weight_from_length
from lepidos.core.cold.cooling_body import cooling_body
from lepidos.core.cutting.differences import differences
from lepidos.core.cutting.model import FishToCut, Skin
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.cutting.worth_filleting import fillet_thickness, not_worth
from lepidos.core.errors import LepidosError
from lepidos.core.fish.anatomy import Body, fillet_profile
from lepidos.core.fish.section import section
from lepidos.core.fish.species import Species
from lepidos.core.pack.portions import equal_portions, least_serving
from lepidos.core.yields.balance import expected_fillet, expected_slots
from lepidos.core.yields.frame_meat import contact_area
from lepidos.exchange import svg
from lepidos.guide.library import Guide

SKINS: tuple[Skin, ...] = ("on", "off")
STATIONS = np.linspace(0.3, 2.9, 14)


def try_out(guide: Guide, species: Iterable[Species]) -> None:
    """Draw, weigh, cool and plan each fish over all sizes that can be landed.

    Raises: ValueError naming the fish and the size at which something does not hold.
    """
    for one in species:
        try:
            _draw(guide, one)
        except (LepidosError, ValueError, ArithmeticError, IndexError, KeyError) as error:
            raise ValueError(f"{one.key}: it cannot be drawn: {error}") from error
        fit = one.length_weight
        longest = one.longest_cm * LENGTH_SLACK
        # every purpose at a usual size, and every size for the freezer
        sizes: dict[float, tuple[str, ...]] = dict.fromkeys(
            (1.0, min(longest, fit.largest_cm), longest), ("freezer",)
        )
        sizes[min(longest, (fit.smallest_cm + fit.largest_cm) / 2)] = tuple(guide.methods.purposes)
        for cm, purposes in sizes.items():
            try:
                _cut(guide, one, cm / 100, purposes)
            except (LepidosError, ValueError, ArithmeticError, KeyError) as error:
                raise ValueError(f"{one.key}, {cm:g} cm long: {error}") from error


def _draw(guide: Guide, one: Species) -> None:
    body, plan = guide.body_of(one), guide.plan_of(one)
    depth = body.depth(np.linspace(0.02, body.root, 200))
    if not np.isfinite(depth).all() or depth.min() <= 0 or depth.max() > 1.5:
        raise ValueError("its back must lie above its belly all the way to the tail")
    svg.frame(body)
    svg.fish_group(one, body)
    svg.bones(body, plan)
    for station in STATIONS:
        section(body, plan, float(station))


def _cut(guide: Guide, one: Species, length_m: float, purposes: Iterable[str]) -> None:
    body, plan = guide.body_of(one), guide.plan_of(one)
    weight = weight_from_length(length_m, one.length_weight.length_type, one)
    cooling_body(body, length_m, weight.value)
    fillet_thickness(body, plan, length_m, weight.value)
    for purpose in purposes:
        for skin in SKINS:
            fish = FishToCut(weight.value, length_m, skin, purpose=purpose)
            cut = plan_cut(fish, one, plan, guide.pieces, guide.methods)
            if not cut.steps:
                raise ValueError(f"no step is left for a fish for {purpose}")
            expected_fillet(weight, one, skin)
            expected = expected_slots(weight, one, plan, cut, guide.pieces)
            not_worth(fish, one, plan, cut, guide.pieces)
            contact_area(body, plan, cut, guide.pieces, length_m)
    differences(FishToCut(weight.value, length_m), one, plan, guide.pieces, guide.methods)
    for piece in cut.pieces:
        if piece.zone and f"{piece.piece}.A" in expected:
            _mark(body, guide, one, piece.zone, expected[f"{piece.piece}.A"].value)


def _mark(body: Body, guide: Guide, one: Species, zone: str, kg: float) -> None:
    profile = fillet_profile(body, guide.plan_of(one), zone)
    equal_portions(profile, max(0.0001, kg), 0.3, max(0.2, least_serving(kg)))
