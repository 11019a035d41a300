"""All that was done to one fish or one bag, with the device that did it, in its order."""

from lepidos.store import records
from lepidos.store.base.rows import MAKERS, plain_sql
from lepidos.store.schema import EntryTable

_OF_FISH = ("fact", "weighing", "measurement", "reading", "look", "sight", "fate", "wish")
_FISHS = " UNION ".join(f"SELECT id FROM {table} WHERE fish_id = ?1" for table in _OF_FISH)  # noqa: S608
_FISH = f"""
SELECT * FROM entry WHERE subject_id IN (
  SELECT ?1 UNION {_FISHS}
  UNION SELECT act FROM earlier WHERE of_table IN ('fish', 'hold') AND row_id = ?1
  UNION SELECT portion.bag_id FROM portion JOIN weighing ON weighing.id = portion.weighing_id
    WHERE weighing.fish_id = ?1
) ORDER BY rowid
"""  # noqa: S608 - names of tables written out above
# an act on several bags has the first one's move as its subject; the others' moves have its time
_BAG = """
SELECT * FROM entry WHERE subject_id IN (
  SELECT ?1 UNION SELECT id FROM move WHERE bag_id = ?1
  UNION SELECT entry.subject_id FROM move
    JOIN entry ON entry.at = move.at AND entry.subject_kind = 'moves' WHERE move.bag_id = ?1
) ORDER BY rowid
"""


def of_fish(fish_id: str) -> list[records.Entry]:
    """What was done to a fish, its pieces and the bags that they went into, oldest first."""
    return _read(_FISH, fish_id)


def of_bag(bag_id: str) -> list[records.Entry]:
    """What was done to a bag, oldest first."""
    return _read(_BAG, bag_id)


def _read(query: str, row_id: str) -> list[records.Entry]:
    make = MAKERS[EntryTable]
    return [make(row) for row in plain_sql(query, row_id)]
