"""Skin on or off: of the fish, and of a piece whose own purpose wants it otherwise."""

from collections.abc import Collection, Mapping, Sequence

from lepidos.core.cutting.methods import Methods, Purpose
from lepidos.core.cutting.model import FishToCut, Skin, Slot
from lepidos.core.errors import BadInput
from lepidos.core.fish.bodyplan import BodyPlan, Piece, Step
from lepidos.core.fish.species import Species


def skin_of(
    fish: FishToCut, species: Species, plan: BodyPlan, purpose: Purpose, *, whole: bool
) -> Skin:
    """Cooked whole it keeps its skin; else skin that is not eaten comes off whatever was asked."""
    if whole:
        return "on"
    if plan.skinned or not species.skin_eaten:
        return "off"
    return purpose.skin or fish.skin


def skins_of(
    fish: FishToCut,
    species: Species,
    plan: BodyPlan,
    methods: Methods,
    skin: Skin,
    planned: Collection[str],
) -> dict[str, Skin]:
    """By slot: the skin of the planned pieces whose own purpose wants it otherwise.

    A piece for a whole fish's purpose is cooked as a piece: it only says nothing of the skin.
    Raises: BadInput for an unknown purpose.
    """
    if methods.is_whole(fish.purpose, plan, fish.round_kg):
        return {}
    found: dict[str, Skin] = {}
    for slot, key in fish.pieces.items():
        if key not in methods.purposes:
            raise BadInput(f"“{key[:40]}” is not a purpose; use {', '.join(methods.purposes)}")
        wanted = skin_of(fish, species, plan, methods.purposes[key], whole=False)
        if wanted != skin and slot.partition(".")[0] in planned:
            found[slot] = wanted
    return found


def which_pieces(
    step: Step,
    skin: Skin,
    skins: Mapping[str, Skin],
    slots: Sequence[Slot],
    plan: BodyPlan,
    catalogue: Mapping[str, Piece],
) -> Step:
    """A step about the skin, with the pieces that it is about; a closed fish is scaled all over."""
    if not step.skin or step.phase == "surface":
        return step
    of = [s for s in slots if s.key in skins]
    names = " and ".join(plan.call(catalogue[s.piece].name, s.side) for s in of)
    which = f"not of {names}" if step.skin == skin else f"of {names} only"
    return step.model_copy(update={"title": f"{step.title}: {which}"})
