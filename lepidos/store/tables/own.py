"""What the crew wrote themselves: rule cards, fish and body plans."""

from datetime import date, datetime
from typing import NamedTuple

from peewee import BooleanField, FloatField, IntegerField, TextField

from lepidos.store.tables.base import Day, Instant, Row


class RuleCardRow(NamedTuple):
    """A rule card as it was written down; seasons as "MM-DD"."""

    id: str
    species: str
    area: str
    source: str
    checked_on: date
    season_from: str
    season_to: str
    length_type: str
    min_cm: float | None
    max_cm: float | None
    per_person: int | None
    per_boat: int | None
    possession: int | None
    fillet_at_sea: str
    skin_patch: bool
    keep_carcass: bool
    note: str
    revision: int = 0


class RuleCardRowTable(Row):
    record = RuleCardRow

    species = TextField()
    area = TextField()
    source = TextField()
    checked_on = Day()
    season_from = TextField(default="")
    season_to = TextField(default="")
    length_type = TextField()
    min_cm = FloatField(null=True)
    max_cm = FloatField(null=True)
    per_person = IntegerField(null=True)
    per_boat = IntegerField(null=True)
    possession = IntegerField(null=True)
    fillet_at_sea = TextField(default="")
    skin_patch = BooleanField(default=False)
    keep_carcass = BooleanField(default=False)
    note = TextField(default="")
    revision = IntegerField(default=0)

    class Meta:
        table_name = "rule_card"


class OwnGuide(NamedTuple):
    """A species or a body plan of the crew's own, as TOML."""

    id: str
    kind: str
    key: str
    toml: str
    at: datetime


class OwnGuideTable(Row):
    record = OwnGuide

    kind = TextField()
    key = TextField()
    toml = TextField()
    at = Instant()

    class Meta:
        table_name = "own_guide"
