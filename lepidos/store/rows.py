"""What every repository does with a row: find it, and write new values into it."""

from collections.abc import Mapping
from typing import TypeVar

from lepidos.core.errors import Unknown
from lepidos.store.models import Row

R = TypeVar("R", bound=Row)


def find(model: type[R], row_id: str, what: str) -> R:
    """The row of that id, taken back or not. Raises Unknown, which names `what`."""
    row = model.get_or_none(model.id == row_id)
    if row is None:
        raise Unknown(what, row_id)
    return row


def save(row: Row, values: Mapping[str, object]) -> None:
    """Write values into a row. Raises ValueError for a name that is not one of its columns."""
    for name, value in values.items():
        if not hasattr(type(row), name):
            raise ValueError(f"{type(row).__name__} has no column {name}")
        setattr(row, name, value)
    row.save()
