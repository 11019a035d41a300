"""Meals that are planned from the freezer."""

from datetime import datetime

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import find, read
from lepidos.store.base.standing import those_standing
from lepidos.store.schema.places import MealTable


def add(ids: IdMaker, at: datetime, **values: object) -> records.Meal:
    """A meal."""
    return add_row(MealTable, id=ids.new(at), at=at, **values)


def get(row_id: str) -> records.Meal:
    """Raises Unknown."""
    found: records.Meal = find(MealTable, row_id, "meal")
    return found


def meals(since: datetime) -> list[records.Meal]:
    """Those that stand and are eaten from then on, the next first."""
    query = those_standing(MealTable.select().where(MealTable.eaten_at >= since), MealTable)
    found: list[records.Meal] = read(query.order_by(MealTable.eaten_at, MealTable.id))
    return found
