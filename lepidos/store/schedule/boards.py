"""The cutters' boards of a trip, and the fish that a person put at a place of a board's row."""

import json
from collections.abc import Sequence
from datetime import datetime

from peewee import fn

from lepidos.store import records
from lepidos.store.base.earlier import Act
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import change as change_row
from lepidos.store.base.rows import find, plain_sql
from lepidos.store.schedule.work import BOARD
from lepidos.store.schema.boards import BoardTable, HoldTable
from lepidos.store.schema.fish import FactTable

_OF_TRIP: Ready[records.Board] = Ready(
    lambda trip: BoardTable.select().where(BoardTable.trip == trip).order_by(BoardTable.id)
)


def add(ids: IdMaker, at: datetime, trip_id: str, name: str) -> records.Board:
    """A board that opens now; its cutter's hand is as on the trip before."""
    before = BoardTable.select().where(fn.lower(BoardTable.name) == name.lower())
    last = before.order_by(BoardTable.id.desc()).first()
    hand = last.hand if last else ""
    return add_row(BoardTable, id=ids.new(at), trip=trip_id, name=name, opens_at=at, hand=hand)


def get(board_id: str) -> records.Board:
    """Raises Unknown."""
    found: records.Board = find(BoardTable, board_id, "board")
    return found


def change(board: records.Board, **values: object) -> records.Board:
    """Write when a board opens, its break, whose hands cut there, whether it is closed."""
    found: records.Board = change_row(BoardTable, board, **values)
    return found


def of_trip(trip_id: str) -> list[records.Board]:
    """The boards of a trip, closed ones too, in the order they were added."""
    return _OF_TRIP(trip_id)


def names() -> dict[str, str]:
    """Every board's cutter, by id."""
    return dict(plain_sql("SELECT id, name FROM board"))


def holds_of(board_ids: Sequence[str]) -> dict[str, list[str]]:
    """By board: the fish held there, in their order."""
    found: dict[str, list[str]] = {board_id: [] for board_id in board_ids}
    query = """
        SELECT board_id, fish_id FROM hold WHERE board_id IN (SELECT value FROM json_each(?))
        ORDER BY position
    """
    for board_id, fish_id in plain_sql(query, json.dumps(list(board_ids))):
        found[board_id].append(fish_id)
    return found


def held_on_trip(trip_id: str) -> set[str]:
    """The fish that a person put at any of a trip's boards."""
    rows = HoldTable.select(HoldTable.fish).join(BoardTable).where(BoardTable.trip == trip_id)
    return {row.fish_id for row in rows}


def hold(act: Act, board_id: str, fish_ids: Sequence[str]) -> None:
    """Hold these fish at a board in this order, and no others there. `act` keeps how it was."""
    before = (HoldTable.board == board_id) | (HoldTable.fish.in_(list(fish_ids)))
    held = [row.fish_id for row in HoldTable.select(HoldTable.fish).where(before)]
    act.keep("hold", held)
    HoldTable.delete().where(before).execute()
    for position, fish_id in enumerate(fish_ids):
        HoldTable.create(fish=fish_id, board=board_id, position=position)
    act.made("hold", [fish_id for fish_id in fish_ids if fish_id not in held])


def let_go(act: Act, board_ids: Sequence[str]) -> int:
    """Hold nothing at these boards; how many were held. `act` keeps how it was."""
    held = HoldTable.board.in_(list(board_ids))
    act.keep("hold", [row.fish_id for row in HoldTable.select(HoldTable.fish).where(held)])
    return HoldTable.delete().where(held).execute()


def is_used(board_id: str) -> bool:
    """Whether a fish ever came to a board, undone or not."""
    facts = FactTable.select().where(FactTable.kind == BOARD, FactTable.name == board_id)
    return facts.exists()
