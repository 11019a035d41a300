"""The load on a scale: read before the file is written to, each load taken once, a tray by
what came on it.
"""

from dataclasses import dataclass

from lepidos.core.errors import Refused
from lepidos.core.units import System, format_mass
from lepidos.devices.scale import CAPACITY_KG, DeviceError, Reading
from lepidos.stations.base.context import AppContext, read_first
from lepidos.stations.schedule.scales import scale_of
from lepidos.store.deck import fishes
from lepidos.store.records import Weighing
from lepidos.store.schedule import work
from lepidos.store.table import sessions

MIN_KG = 0.002  # the pan holds nothing worth a line in the book below this (practice)
SAME_KG = 0.002  # a display that moved less than this since the last take shows the same load

# How the weight of a piece is known, as its row has it and in words.
HOW_KNOWN = {
    "scale": "on the scale",
    "typed": "typed",
    "corrected": "corrected",
    work.BY_EYE: "by eye",
}


@dataclass(frozen=True)
class Taken:
    """What was on the display when a person touched: net [kg] and the load's mark."""

    kg: float
    mark: str


@dataclass(frozen=True)
class Mass:
    """What a piece weighs, how that is known, and what the pan showed with the mark of its load."""

    kg: float
    method: str
    pan_kg: float | None = None
    mark: str = ""


def shown_for(
    ctx: AppContext, key: str, fish_id: str, kg: float | None, shown: Taken | None
) -> Taken | None:
    """What lies on the scale of a fish's board, where an order leaves it to us. Raises Refused."""
    if kg is not None or shown:
        return shown
    return read_first(ctx, key, lambda: _from_scale(ctx, fish_id))


def mass_of(
    ctx: AppContext, typed_kg: float | None, shown: Taken | None, in_tray: bool, system: System
) -> Mass:
    """The mass to book: as typed, or of a load that was not taken yet; of a tray what came on.

    Raises Refused at the weight. In an open transaction.
    """
    if typed_kg is not None:
        if not typed_kg > 0:
            raise Refused({"weight": "A weight must be more than nothing"})
        return Mass(typed_kg, "typed")
    if shown is None or not shown.kg >= MIN_KG:
        raise Refused({"weight": "Nothing lies on the scale"})
    if shown.kg > CAPACITY_KG:
        raise Refused({"weight": f"More than {CAPACITY_KG:g} kg on the scale. Take something off."})
    if earlier := sessions.taken_of_load(shown.mark):
        raise Refused({"weight": _taken_already(ctx, earlier, system)})
    kg = shown.kg
    if in_tray and (last := sessions.on_the_pan(shown.mark.rpartition(".")[0])):
        base = last.pan_kg or 0.0
        if abs(kg - base) < SAME_KG:
            raise Refused({"weight": "Nothing came on the tray since the last piece"})
        # a lighter tray was emptied meanwhile: then all that lies there is new
        kg = kg - base if kg > base else kg
    return Mass(kg, "scale", shown.kg, shown.mark)


def _from_scale(ctx: AppContext, fish_id: str) -> Taken:
    with ctx.store.reading():
        board = work.last_board(fishes.facts_of(fish_id))
    scale = ctx.scale_at(scale_of(ctx, board.name if board else ""))
    try:
        reading: Reading = scale.settled()
    except DeviceError as error:
        raise Refused({"weight": str(error)}) from error
    return Taken(reading.kg, reading.mark)


def _taken_already(ctx: AppContext, earlier: Weighing, system: System) -> str:
    fish = fishes.get(earlier.fish_id)
    plan = ctx.guide.plan_of(ctx.guide.known_or_named(fish.species))
    name = plan.call(ctx.guide.piece(earlier.piece).name, earlier.side)
    kg = format_mass(earlier.pan_kg or earlier.kg, system)
    return f"This load, {kg}, was taken as {fish.code} {name}. Lift it off, then lay the next on."
