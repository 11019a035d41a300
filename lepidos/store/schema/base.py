"""What every table has: a key, and moments and days as ISO 8601 text."""

from datetime import UTC, date, datetime
from typing import Any, ClassVar

from peewee import Field, Model, TextField


class Instant(Field):
    """A moment: aware datetime outside, UTC ISO 8601 with milliseconds in the file."""

    field_type = "TEXT"

    def db_value(self, value: datetime | None) -> str | None:
        """To the file. A naive time is refused: nobody knows which zone it was in."""
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a time without a zone cannot be stored")
        utc = value.astimezone(UTC)
        return utc.strftime("%Y-%m-%dT%H:%M:%S.") + f"{utc.microsecond // 1000:03d}Z"

    def python_value(self, value: str | None) -> datetime | None:
        """From the file."""
        return None if value is None else datetime.fromisoformat(value)


class Day(Field):
    """A calendar date as ISO 8601."""

    field_type = "TEXT"

    def db_value(self, value: date | None) -> str | None:
        """To the file."""
        return None if value is None else value.isoformat()

    def python_value(self, value: str | None) -> date | None:
        """From the file."""
        return None if value is None else date.fromisoformat(value)


class Table(Model):
    """A table; `record` is what the store hands out of it."""

    record: ClassVar[Any]


class Row(Table):
    """A table whose key is a ULID."""

    id = TextField(primary_key=True)
