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

MAX_LINES = 1500  # of each kind that are kept: some large trips


class Lines:
    """What is shown of a trip's bags and pieces, asked for one by one by the template."""

    def __init__(self, request: Request, found: PackTable, by: str) -> None:
        self._ctx, self._system = context_of(request), system_of(request)
        self._found, self._by = found, by
        self._known = (self._ctx.guide.edition, self._system)

    def planned_bag(self, bag: PlannedBag) -> Markup:
        """A bag of the plan in its column."""
        found = self._found
        at_hand = found.next_bag is not None and bag.key == found.next_bag.key
        party_id = found.party_of(bag)
        party_name = "" if self._by == columns.PARTY else found.name_of(bag)

        def make() -> tuple[object, Markup]:
            shown = fragment(
                "pack/_planned_bag.html",
                self._system,
                bag=bag,
                at_hand=at_hand,
                party_id=party_id,
                party_name=party_name,
                draw=bag_drawing.bag,
                meant=lambda row: meant_for(self._ctx, row.purpose),
            )
            return bag.rows, shown

        known = (*self._known, at_hand, party_id, party_name, bag.laid)
        key = ("planned bag", *known, *map(id, bag.rows))
        return self._ctx.memo.get(key, make, most=MAX_LINES)[1]

    def piece_line(self, row: PieceRow) -> Markup:
        """A piece in the list of all that lie there."""

        def make() -> tuple[object, Markup]:
            meant = meant_for(self._ctx, row.purpose)
            return row, fragment("pack/_piece_line.html", self._system, r=row, meant=meant)

        return self._ctx.memo.get(("piece line", *self._known, id(row)), make, most=MAX_LINES)[1]
