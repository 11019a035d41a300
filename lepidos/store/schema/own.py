"""What the crew wrote themselves: rule cards, fish and body plans."""

from typing import NamedTuple

from peewee import BooleanField, FloatField, IntegerField, TextField

from lepidos.store.schema.base import Day, Instant, Row
from lepidos.store.schema.kinds import (
    Amount,
    Count,
    Date,
    Flag,
    Key,
    LengthName,
    Moment,
    MonthDay,
    Name,
    Page,
    Revision,
    Text,
    Word,
    YesNo,
)


class RuleCardRow(NamedTuple):
    """A rule card as it was written down; seasons as "MM-DD"."""

    id: Key
    species: Word
    area: Name
    source: Text
    checked_on: Date
    season_from: MonthDay
    season_to: MonthDay
    length_type: LengthName
    min_cm: Amount | None
    max_cm: Amount | None
    per_person: Count | None
    per_boat: Count | None
    possession: Count | None
    fillet_at_sea: YesNo
    skin_patch: Flag
    keep_carcass: Flag
    note: Text
    revision: Revision = 0


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

    id: Key
    kind: Word
    key: Word
    toml: Page
    at: Moment


class OwnGuideTable(Row):
    record = OwnGuide

    kind = TextField()
    key = TextField()
    toml = TextField()
    at = Instant()

    class Meta:
        table_name = "own_guide"
