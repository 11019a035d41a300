"""Home waters: asked once, and then a crew's own fish come first in every list."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Refused
from lepidos.core.fish.species import Species
from lepidos.guide.names import called, own_names
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.store.base import settings
from lepidos.store.base.earlier import Act


@dataclass(frozen=True)
class ChooseWaters:
    """An order: these are our waters, keys of the guide; none is an answer, too."""

    waters: tuple[str, ...]


def choose_waters(ctx: AppContext, key: str, order: ChooseWaters) -> Receipt:
    """Keep it. Raises Refused for waters that the guide does not know."""

    def do(at: datetime) -> Receipt:
        if unknown := sorted(set(order.waters) - set(ctx.guide.waters)):
            raise Refused({"waters": f"The guide knows no waters “{unknown[0]}”"})
        act = Act(ctx.ids, at)
        settings.put(ctx.ids, at, settings.WATERS, " ".join(order.waters), act)
        names = [ctx.guide.waters[one].name for one in order.waters]
        said = "; ".join(names) if names else "no one's in particular"
        return Receipt("change", act.id, f"Home waters: {said}")

    return run_idempotent(ctx, key, "settings.waters", order, do)


def home_waters(ctx: AppContext) -> tuple[str, ...] | None:
    """What was chosen; None as long as nobody was asked."""
    with ctx.store.reading():
        chosen = settings.value(settings.WATERS)
    return None if chosen is None else tuple(k for k in chosen.split() if k in ctx.guide.waters)


def nearness(ctx: AppContext) -> Callable[[Species], int]:
    """A key to sort by: what is often landed in the home waters, what is met there, all else."""
    home = [ctx.guide.waters[key] for key in home_waters(ctx) or ()]
    often = max((len(waters.often) for waters in home), default=0)
    rank = {key: often for waters in home for key in waters.species}
    for waters in home:
        for place, key in enumerate(waters.often):
            rank[key] = min(rank[key], place)
    return lambda species: rank.get(species.key, often + 1)


def is_at_home(ctx: AppContext) -> Callable[[Species], bool]:
    """Whether a fish is met in the home waters."""
    home = frozenset[str]().union(
        *(ctx.guide.waters[key].species for key in home_waters(ctx) or ())
    )
    return lambda species: species.key in home


def find_here(ctx: AppContext, name: str) -> Species:
    """A fish by any of its names; one that two fish bear somewhere is that of the home waters.

    Raises: Unknown, with suggestions, also where both or neither are at home.
    """
    bearers = called(ctx.guide.species.values(), name)
    at_home = list(filter(is_at_home(ctx), bearers))
    if len(bearers) > 1 and len(at_home) == 1 and name.lower() not in own_names(bearers[0]):
        return at_home[0]
    return ctx.guide.find(name)
