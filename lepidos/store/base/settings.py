"""What a crew chose for all its devices."""

from datetime import datetime

from lepidos.store import records
from lepidos.store.base.earlier import Act
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import first, plain_sql
from lepidos.store.schema.settings import SettingTable

WATERS = "home waters"
LABEL = "label size"
LABEL_WITHOUT = "label without"
LABEL_LANGUAGE = "label language"
LABEL_DATES = "label dates"
SCALE_AT = "scale at "  # and the cutter's name in small letters
CURRENCY = "currency"
LOG_WRITTEN = "log written "  # and the place's id
HOLD_RULE = "raw hold rule"
PACK = "bags closed"
HOUSEHOLD = "household"
MEALS_A_WEEK = "meals a week"


def value(name: str) -> str | None:
    """What was chosen; None when nothing was."""
    rows = plain_sql("SELECT value FROM setting WHERE name = ?", name)
    return next((str(text) for (text,) in rows), None)


def _row(name: str) -> records.Setting | None:
    found: records.Setting | None = first(SettingTable.select().where(SettingTable.name == name))
    return found


def put(
    ids: IdMaker, at: datetime, name: str, text: str, act: Act | None = None
) -> records.Setting:
    """Choose, in the place of an earlier choice; `act` keeps that, so that it can come back."""
    if act and (old := _row(name)):
        act.keep("setting", [old.id])
    SettingTable.delete().where(SettingTable.name == name).execute()
    row: records.Setting = add_row(SettingTable, id=ids.new(at), name=name, value=text, at=at)
    if act:
        act.made("setting", [row.id])
    return row
