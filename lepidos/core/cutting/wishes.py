"""What was said of how to cut: by the crew for a kind of fish, by a party, of one fish."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from lepidos.core.cutting.methods import Methods

SkinAsked = Literal["", "on", "off"]


@dataclass(frozen=True)
class Wish:
    """One saying. What is empty says nothing.

    `methods` by question; `tools` those to hand, by key; `pieces`: by slot, such as "belly.A", the
    purpose of that piece alone; `keeps` the pieces that are asked for.
    """

    purpose: str = ""
    skin: SkinAsked = ""
    methods: Mapping[str, str] = field(default_factory=dict)
    tools: frozenset[str] = frozenset()
    pieces: Mapping[str, str] = field(default_factory=dict)
    keeps: tuple[str, ...] = ()


@dataclass(frozen=True)
class Choice(Wish):
    """What all sayings come to; `said_by`: by field, or by method, whose word it is."""

    said_by: Mapping[str, str] = field(default_factory=dict)


def chosen(sayings: Iterable[tuple[str, Wish]]) -> Choice:
    """All sayings as one, from the widest to the narrowest: each goes before those ahead of it.

    Field by field: a party that says nothing of the skin leaves the crew's word on it. What is
    asked for is kept from all of them.

    >>> crew = Wish(purpose="freezer", methods={"head": "off"})
    >>> chosen([("crew", crew), ("Dunn", Wish(purpose="raw"))]).purpose
    'raw'
    """
    purpose = ""
    skin: SkinAsked = ""
    tools: frozenset[str] = frozenset()
    methods: dict[str, str] = {}
    pieces: dict[str, str] = {}
    keeps: dict[str, None] = {}
    said: dict[str, str] = {}
    for who, wish in sayings:
        if wish.purpose:
            purpose, said["purpose"] = wish.purpose, who
        if wish.skin:
            skin, said["skin"] = wish.skin, who
        if wish.tools:
            tools, said["tools"] = wish.tools, who
        methods |= wish.methods
        pieces |= wish.pieces
        keeps |= dict.fromkeys(wish.keeps)
        said |= dict.fromkeys(wish.methods, who) | dict.fromkeys(wish.keeps, who)
    return Choice(purpose, skin, methods, tools, pieces, tuple(keeps), said)


def fitting(wish: Wish, methods: Methods, traits: Collection[str]) -> Wish:
    """A saying as it holds for a fish with these traits.

    Without what the guide no longer has: an own method or purpose may have been thrown away. And no
    piece is for what such a fish is never for.
    """
    by_key, purposes = methods.by_key(), methods.purposes
    return Wish(
        wish.purpose if wish.purpose in purposes else "",
        wish.skin,
        {k: way for k, way in wish.methods.items() if k in by_key and way in by_key[k].options},
        wish.tools,
        {
            slot: methods.purpose_of(one, 0.0, traits)
            for slot, one in wish.pieces.items()
            if one in purposes and not purposes[one].whole
        },
        wish.keeps,
    )
