"""What is newly said of how to cut: put onto what was said before, and in words."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from lepidos.core.cutting.wishes import SkinAsked, Wish, fitting
from lepidos.stations.base.context import AppContext


@dataclass(frozen=True)
class Said:
    """What is newly said. None leaves a thing as it was said before, "" takes it back.

    `ways` as "head:off", `pieces` as "belly.A:smoke": nothing behind the colon takes it back.
    `tools` and `keeps` are whole lists.
    """

    purpose: str | None = None
    skin: SkinAsked | None = None
    ways: tuple[str, ...] = ()
    tools: tuple[str, ...] | None = None
    pieces: tuple[str, ...] = ()
    keeps: tuple[str, ...] | None = None


def said_onto(before: Wish, said: Said) -> Wish:
    """The earlier saying with what is newly said."""

    def merged(old: Mapping[str, str], new: tuple[str, ...]) -> dict[str, str]:
        return {key: value for key, value in {**old, **pairs_of(new)}.items() if value}

    return Wish(
        before.purpose if said.purpose is None else said.purpose,
        before.skin if said.skin is None else said.skin,
        merged(before.methods, said.ways),
        before.tools if said.tools is None else frozenset(said.tools),
        merged(before.pieces, said.pieces),
        before.keeps if said.keeps is None else said.keeps,
    )


def only_new(before: Wish, said: Said) -> Said:
    """What is said without what had been said before."""

    def changed(pairs: tuple[str, ...], earlier: Mapping[str, str]) -> tuple[str, ...]:
        return tuple(f"{k}:{v}" for k, v in pairs_of(pairs).items() if v != earlier.get(k, ""))

    return Said(
        None if said.purpose == before.purpose else said.purpose,
        None if said.skin == before.skin else said.skin,
        changed(said.ways, before.methods),
        None if frozenset(said.tools or ()) == before.tools else said.tools,
        changed(said.pieces, before.pieces),
        None if (said.keeps or ()) == before.keeps else said.keeps,
    )


def wish_words(ctx: AppContext, wish: Wish) -> str:
    """What a saying comes to, in a line's words; "" when it says nothing."""
    wish = fitting(wish, ctx.guide.methods, ())
    methods = tuple(f"{key}:{way}" for key, way in wish.methods.items())
    pieces = tuple(f"{slot}:{purpose}" for slot, purpose in wish.pieces.items())
    if wish == Wish():
        return ""
    tools = tuple(sorted(wish.tools)) or None
    return words(
        ctx,
        Said(wish.purpose or None, wish.skin or None, methods, tools, pieces, wish.keeps or None),
    )


def words(ctx: AppContext, said: Said) -> str:
    """What was said, in a line's words."""
    methods = ctx.guide.methods
    found = []
    if said.purpose is not None:
        found.append(methods.purposes[said.purpose].text if said.purpose else "purpose as usual")
    if said.skin is not None:
        found.append(f"skin {said.skin}" if said.skin else "skin as usual")
    by_key = methods.by_key()
    for key, way in pairs_of(said.ways).items():
        option = by_key[key].options[way].split(":")[0] if way else "as usual"
        found.append(f"{by_key[key].question.rstrip('?').lower()} {option}")
    for slot, purpose in pairs_of(said.pieces).items():
        for_what = methods.purposes[purpose].text if purpose else "as the rest"
        piece, _, side = slot.partition(".")
        found.append(f"{ctx.guide.piece(piece).name} {side} {for_what}".replace("  ", " "))
    if said.keeps is not None:
        names = [ctx.guide.piece(key).plural for key in said.keeps]
        found.append(f"asks for {', '.join(names)}" if names else "asks for nothing more")
    if said.tools is not None:
        names = [ctx.guide.tools[key].name for key in said.tools]
        found.append(f"with {', '.join(names)}" if names else "with every tool")
    return "; ".join(found) or "as before"


def first_field(said: Said) -> str:
    return next((name for name, value in vars(said).items() if value not in {None, ()}), "")


def pairs_of(given: Iterable[str]) -> dict[str, str]:
    return {key: value for key, _, value in (text.partition(":") for text in given)}
