"""What a crew chose for all its devices."""

from datetime import datetime

from lepidos.store import records
from lepidos.store.ids import IdMaker
from lepidos.store.rows import add as add_row
from lepidos.store.rows import first
from lepidos.store.tables.settings import SettingTable

WATERS = "home waters"
LABEL = "label size"
LABEL_WITHOUT = "label without"
LABEL_LANGUAGE = "label language"
LABEL_DATES = "label dates"
CURRENCY = "currency"
LOG_WRITTEN = "log written "  # and the place's id
HOLD_RULE = "raw hold rule"
PACK = "bags closed"
HOUSEHOLD = "household"
MEALS_A_WEEK = "meals a week"


def value(name: str) -> str | None:
    """What was chosen; None when nothing was."""
    row: records.Setting | None = first(SettingTable.select().where(SettingTable.name == name))
    return row.value if row else None


def put(ids: IdMaker, at: datetime, name: str, text: str) -> records.Setting:
    """Choose, in the place of an earlier choice."""
    SettingTable.delete().where(SettingTable.name == name).execute()
    return add_row(SettingTable, id=ids.new(at), name=name, value=text, at=at)
