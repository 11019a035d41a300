"""When blades were sharpened."""

from datetime import datetime

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import find
from lepidos.store.base.standing import in_order, standing
from lepidos.store.schema.trials import SharpeningTable


def sharpened(ids: IdMaker, at: datetime, cutter: str, blade: str) -> records.Sharpening:
    """A cutter's blade was sharpened, or another one taken up."""
    return add_row(SharpeningTable, id=ids.new(at), at=at, cutter=cutter, blade=blade)


def get(row_id: str) -> records.Sharpening:
    """Raises Unknown."""
    found: records.Sharpening = find(SharpeningTable, row_id, "sharpening")
    return found


def every() -> dict[str, list[records.Sharpening]]:
    """By cutter: all that stand, the oldest first."""
    found: dict[str, list[records.Sharpening]] = {}
    for row in standing(in_order(SharpeningTable.select()), SharpeningTable):
        found.setdefault(row.cutter, []).append(row)
    return found
