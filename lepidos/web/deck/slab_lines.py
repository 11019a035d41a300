"""The fish on the slab as the deck shows them, each kept as long as it shows the same.

Sixty fish lie there, and a landing changes one: their lines were a third of the page's time.
"""

from collections.abc import Callable

from fastapi import Request
from markupsafe import Markup

from lepidos.stations.deck.slab import Slab, SlabFish
from lepidos.web.drawings.slab import OnSlab
from lepidos.web.shell import values
from lepidos.web.shell.forms import system_of
from lepidos.web.shell.render import context_of, fragment

MAX_LINES = 1000  # kept: some large trips


def slab_lines(request: Request, found: Slab, by: str) -> Callable[[OnSlab], Markup]:
    """What is shown of a fish at its place on the slab."""
    ctx, system = context_of(request), system_of(request)
    zone, now = found.view.zone, ctx.clock()
    degrees = values.measures(system)["degrees"]

    def due(row: SlabFish) -> tuple[object, ...]:
        if row.place is None or row.place.in_hand:
            return (row.place is None,)
        due_at = row.place.due_at and values.when(row.place.due_at, now, zone)
        return (due_at, row.place.late_s > 0, row.place.held)

    def line(one: OnSlab) -> Markup:
        row = one.row
        key = (
            "slab fish", ctx.guide.edition, system, by, one.width, row.fish, row.now, row.weight,
            degrees(row.cold.core_c) if row.cold else "", bool(row.cold and row.cold.probed),
            due(row), row.party, *(a.text for a in row.handled.advice if a.urgency == "now"),
        )  # fmt: skip
        return ctx.memo.get(
            key,
            lambda: fragment(
                "deck/_slab_fish.html",
                system,
                f=one,
                row=row,
                by=by,
                when=lambda at: values.when(at, now, zone),
            ),
            most=MAX_LINES,
        )

    return line
