"""Where along a piece its meat lies, after what this crew and cutter weighed."""

from itertools import groupby

from lepidos.core.fish.anatomy import FilletProfile, fillet_profile
from lepidos.core.fish.species import Species
from lepidos.core.pack.profile_learning import (
    LearnedProfile,
    Stretch,
    WeighedBag,
    learn_profile,
)
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import landed
from lepidos.store.base import entries
from lepidos.store.pack import portions
from lepidos.store.records import Fish
from lepidos.store.schedule import boards
from lepidos.store.table import sessions

LEARN_FROM = 200  # weighed bags of a kind of piece
MAX_KINDS = 400


def guide_profile(ctx: AppContext, species: Species, zone: str) -> FilletProfile:
    """The guide's profile of a zone of this kind of fish; made once."""
    return ctx.memo.get(
        ("profile", species.key, zone, ctx.guide.edition),
        lambda: fillet_profile(ctx.guide.body_of(species), ctx.guide.plan_of(species), zone),
        most=MAX_KINDS,
    )


def learned_marks(ctx: AppContext) -> tuple[tuple[tuple[str, str], str], ...]:
    """Stands for all that was weighed. In an open transaction."""
    marks = ctx.memo.get(("weighed bags", entries.last_key()), portions.weighed_marks)
    return tuple(sorted(marks.items()))


def learned_mark(ctx: AppContext, species: str, piece: str) -> str:
    """Stands for what was weighed of a kind of piece. In an open transaction."""
    marks = ctx.memo.get(("weighed bags", entries.last_key()), portions.weighed_marks)
    return marks.get((species, piece), "")


def cutter_of(ctx: AppContext, fish: Fish) -> str:
    """Who had a fish on the board; "" when nobody said. In an open transaction."""
    names: dict[str, str] = ctx.memo.get(
        ("cutters", fish.trip_id, entries.last_key()), lambda: _cutters(ctx, fish.trip_id)
    )
    return names.get(fish.id, "")


def _cutters(ctx: AppContext, trip_id: str) -> dict[str, str]:
    names = boards.names()
    return {fish.id: names.get(now.board_id or "", "") for fish, now in landed(ctx, trip_id)}


def _names(fish_ids: list[str]) -> dict[str, str]:
    names = boards.names()
    return {f: names.get(board, "") for f, board in sessions.boards_of(fish_ids).items()}


def learned_profile(
    ctx: AppContext, species: Species, piece: str, zone: str, cutter: str
) -> LearnedProfile:
    """The profile of a kind of piece as this cutter gives it. In an open transaction."""
    mark = learned_mark(ctx, species.key, piece)
    return ctx.memo.get(
        (
            "learned profile",
            species.key,
            piece,
            zone,
            cutter if mark else "",
            mark,
            ctx.guide.edition,
        ),
        lambda: _learn(ctx, species, piece, zone, cutter, mark),
        most=MAX_KINDS,
    )


def _learn(
    ctx: AppContext, species: Species, piece: str, zone: str, cutter: str, mark: str
) -> LearnedProfile:
    profile = guide_profile(ctx, species, zone)
    if not mark:
        return learn_profile(profile, [])
    rows = portions.weighed_stretches(species.key, piece, LEARN_FROM)
    names = _names(sorted({row[5] for row in rows}))
    crew: list[WeighedBag] = []
    own: list[WeighedBag] = []
    for _, of_bag in groupby(rows, key=lambda row: row[0]):
        parts = list(of_bag)
        inside = tuple(Stretch(row[2], min(1.0, row[3]), row[4]) for row in parts)
        bag = WeighedBag(parts[0][1], inside)
        crew.append(bag)
        if cutter and all(names.get(row[5]) == cutter for row in parts):
            own.append(bag)
    return learn_profile(profile, crew, own)
