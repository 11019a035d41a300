"""Bags and pieces as the pack page shows them, each kept as long as it is the same.

A trip has a hundred bags, of which a weighing changes a few. Parts and pieces that did not change
are the same objects as before; what was made of them is kept together with them, so that as long as
it is kept no other object can have the same `id`.
"""

from fastapi import Request
from markupsafe import Markup

from lepidos.stations.base.wishes import meant_for
from lepidos.stations.pack import columns
from lepidos.stations.pack.planned import PackTable, PlannedBag
from lepidos.stations.pack.portioning import PieceRow
from lepidos.web.drawings import bag as bag_drawing
from lepidos.web.shell.forms import system_of
from lepidos.web.shell.render import context_of, fragment

MOST_LINES = 1500  # of each kind that are kept: some large trips


def planned_bag(request: Request, found: PackTable, bag: PlannedBag, by: str) -> Markup:
    """A bag of the plan in its column: a trip has a hundred, of which a weighing changes a few."""
    ctx, system = context_of(request), system_of(request)
    at_hand = found.next_bag is not None and bag.key == found.next_bag.key
    party_id = found.party_of(bag)
    party_name = "" if by == columns.PARTY else found.name_of(bag)

    def make() -> tuple[object, Markup]:
        shown = fragment(
            "_planned_bag.html",
            system,
            bag=bag,
            at_hand=at_hand,
            party_id=party_id,
            party_name=party_name,
            draw=bag_drawing.bag,
            meant=lambda row: meant_for(ctx, row.purpose),
        )
        return bag.rows, shown

    known = (ctx.guide.edition, system, at_hand, party_id, party_name, bag.laid)
    key = ("planned bag", *known, *map(id, bag.rows))
    return ctx.memo.get(key, make, most=MOST_LINES)[1]


def piece_line(request: Request, row: PieceRow) -> Markup:
    """A piece in the list of all that lie there."""
    ctx, system = context_of(request), system_of(request)

    def make() -> tuple[object, Markup]:
        meant = meant_for(ctx, row.purpose)
        return row, fragment("_piece_line.html", system, r=row, meant=meant)

    key = ("piece line", ctx.guide.edition, system, id(row))
    return ctx.memo.get(key, make, most=MOST_LINES)[1]
