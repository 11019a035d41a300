"""A piece that somebody chose at the board: one that there is, of a side, and no poison."""

from lepidos.core.errors import Refused, Unknown
from lepidos.core.fish.bodyplan import Piece
from lepidos.core.pack.labels import sentence
from lepidos.stations.base.context import AppContext
from lepidos.store.records import Fish


def chosen_piece(ctx: AppContext, fish: Fish, key: str, side: str) -> Piece:
    """A piece of a fish, by its key and side. Raises Refused at the piece or the side."""
    try:
        piece = ctx.guide.piece(key)
    except Unknown as error:
        raise Refused({"piece": sentence(str(error))}) from error
    if side not in ({"A", "B"} if piece.sided else {""}):
        raise Refused(
            {"side": f"A {piece.name} is of side A or B" if piece.sided
             else f"A {piece.name} has no side"}
        )  # fmt: skip
    # nothing poisonous is booked as food
    if key in ctx.guide.never_used(ctx.guide.one(fish.species)) and piece.counts_as != "rest":
        raise Refused(
            {"piece": f"The {piece.name} of this fish is poisonous: into the bin with it"}
        )
    return piece
