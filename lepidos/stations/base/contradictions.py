"""What cannot all be true since two logs were merged, each with the ways to settle it."""

from collections.abc import Mapping
from dataclasses import dataclass

from lepidos.core.pack.labels import count, show_code
from lepidos.core.units import System, format_mass
from lepidos.stations.base.context import AppContext
from lepidos.store.base import entries
from lepidos.store.bundle import contradictions
from lepidos.store.deck import fishes
from lepidos.store.pack import bags


@dataclass(frozen=True)
class WayToSettle:
    """One way to settle it: rows to undo, by kind and id, and rows that hold again."""

    label: str
    undo: tuple[tuple[str, str], ...] = ()
    restore: tuple[str, ...] = ()


@dataclass(frozen=True)
class Contradiction:
    """Something that cannot be, in a sentence, and the ways to settle it."""

    key: str
    text: str
    ways: tuple[WayToSettle, ...]


def how_many(ctx: AppContext) -> int:
    """How many there are. In an open transaction; asked for every page."""
    return len(found(ctx, "metric"))


def found(ctx: AppContext, system: System) -> tuple[Contradiction, ...]:
    """All that there are; none in a log that nothing was merged into. In an open transaction."""
    if not contradictions.was_merged():
        return ()
    key = ("contradictions", entries.last_key(), system)
    return ctx.memo.get(key, lambda: _found(ctx, system))


def _found(ctx: AppContext, system: System) -> tuple[Contradiction, ...]:
    return (
        *_packed_twice(ctx),
        *_bags_of_undone(ctx, system),
        *_withdrawn(),
        *_weighed_again(ctx, system),
    )


def _packed_twice(ctx: AppContext) -> list[Contradiction]:
    made = []
    for packed in contradictions.packed_twice():
        code, *others = (show_code(bags.get(b).code) for b in (packed.first, *packed.others))
        theirs = " and ".join(others) or "it again"
        text = f"{_piece(ctx, packed.weighing_id)} was sealed in bag {code} and in {theirs}."
        ways = [WayToSettle(f"Take back {code}", (("bag", packed.first),))]
        if others:
            ways.append(
                WayToSettle(f"Take back {theirs}", tuple(("bag", bag) for bag in packed.others))
            )
        made.append(Contradiction(f"packed.{packed.weighing_id}", text, tuple(ways)))
    return made


def _bags_of_undone(ctx: AppContext, system: System) -> list[Contradiction]:
    made = []
    for bag, weighing in contradictions.bags_of_undone():
        code = show_code(bags.get(bag).code)
        kg = format_mass(contradictions.weight(weighing).kg, system)
        text = f"Bag {code} holds {_piece(ctx, weighing)}, {kg}, but that weight was undone."
        ways = (
            WayToSettle(f"Take back bag {code}", (("bag", bag),)),
            WayToSettle(f"Keep the weight of {kg}", restore=(weighing,)),
        )
        made.append(Contradiction(f"undone.{bag}.{weighing}", text, ways))
    return made


def _withdrawn() -> list[Contradiction]:
    made = []
    for fish_id, weights in contradictions.withdrawn_with_weights().items():
        code = fishes.get(fish_id).code
        in_bags = {bag for key in weights for bag in contradictions.bags_of_piece(key)}
        text = f"The landing of {code} was undone, but it has {count(len(weights), 'weight')}."
        undo = (*(("bag", b) for b in sorted(in_bags)), *(("weighing", w) for w in weights))
        ways = (
            WayToSettle(f"Bring {code} back", restore=(fish_id,)),
            WayToSettle("Undo its weights, too", undo),
        )
        made.append(Contradiction(f"withdrawn.{fish_id}", text, ways))
    return made


def _weighed_again(ctx: AppContext, system: System) -> list[Contradiction]:
    once = [key for key, piece in ctx.guide.pieces.items() if piece.loads == "one"]
    made = []
    for again in contradictions.weighed_again(once):
        kg = {key: format_mass(contradictions.weight(key).kg, system) for key in again.weighing_ids}
        both = " and ".join(kg.values())
        text = f"{_piece(ctx, again.weighing_ids[0])} has {len(kg)} weights: {both}."
        ways = tuple(_keep(key, kg) for key in kg)
        made.append(Contradiction(f"again.{again.fish_id}.{again.piece}.{again.side}", text, ways))
    return made


def _keep(kept: str, kg: Mapping[str, str]) -> WayToSettle:
    """One of several weights stands; the others go, and the bags that hold their pieces."""
    others = [key for key in kg if key != kept]
    in_bags = sorted({bag for key in others for bag in contradictions.bags_of_piece(key)})
    codes = " and ".join(show_code(bags.get(bag).code) for bag in in_bags)
    first = "first " if list(kg).index(kept) == 0 else "last " if kept == list(kg)[-1] else ""
    same = len(set(kg.values())) < len(kg)
    label = f"Keep the {first}{kg[kept]}" if same else f"Keep {kg[kept]}"
    undo = (*(("bag", bag) for bag in in_bags), *(("weighing", key) for key in others))
    return WayToSettle(f"{label}; take back bag {codes}" if codes else label, undo)


def _piece(ctx: AppContext, weighing_id: str) -> str:
    row = contradictions.weight(weighing_id)
    fish = fishes.get(row.fish_id)
    plan = ctx.guide.plan_of(ctx.guide.known_or_named(fish.species))
    return f"{fish.code} {plan.call(ctx.guide.piece(row.piece).name, row.side)}"
