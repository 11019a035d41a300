"""What to look at before a bag goes into the sealer: only what matters for this bag."""

from lepidos.core.pack.bag_sizes import HEAD_ROOM_M
from lepidos.guide.packing import usual_packing
from lepidos.stations.base.context import AppContext
from lepidos.stations.pack.planned import PlannedBag

TIGHT = 0.75  # of the bag below its head room; common practice, no source
THICK_M = 0.04  # from here on the middle freezes markedly later (practice, no source)
MAX_SHOWN = 4


def seal_checks(ctx: AppContext, bag: PlannedBag) -> tuple[str, ...]:
    """The checks of the guide that matter for a bag, most important first, at most four."""
    usual = usual_packing()
    matter = _matters(ctx, bag)
    return tuple(c.text for c in usual.seal_checks if c.when in matter)[:MAX_SHOWN]


def _matters(ctx: AppContext, bag: PlannedBag) -> set[str]:
    known, piece = usual_packing().pieces, bag.piece
    plan = ctx.guide.plan_of(bag.species)
    found = {
        "tight": filled(bag) > TIGHT,
        "bone_in": piece.key in known.bone_in and not plan.boneless,
        "soft": piece.key in known.soft,
        "wet": bag.rows[0].row.skin == "off" and piece.key not in known.soft,
        "thick": bag.bag.thick_m > THICK_M,
        "several": len(bag.rows) > 1,
        "roll": bool(bag.laid and bag.laid.size.roll),
        "lone": len(bag.rows) == 1,
    }
    return {when for when, so in found.items() if so}


def filled(bag: PlannedBag) -> float:
    """The share of the bag below its head room that the pieces cover; 0 without a bag."""
    if bag.laid is None:
        return 0.0
    room = bag.laid.size.width_m * max(0.01, bag.laid.length_m - HEAD_ROOM_M)
    return sum(spot.width_m * spot.length_m for spot in bag.laid.spots) / room
