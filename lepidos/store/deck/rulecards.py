"""The crew's rule cards."""

from collections.abc import Sequence
from datetime import datetime

from peewee import fn

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import change as change_row
from lepidos.store.base.rows import find, first, read
from lepidos.store.schema.fish import FishNowTable, FishTable
from lepidos.store.schema.own import RuleCardRowTable
from lepidos.store.schema.trips import PersonTable

_OF_SPECIES: Ready[records.RuleCardRow] = Ready(
    lambda species: RuleCardRowTable.select().where(RuleCardRowTable.species == species)
)


def add(ids: IdMaker, at: datetime, **values: object) -> records.RuleCardRow:
    """A new card."""
    return add_row(RuleCardRowTable, id=ids.new(at), **values)


def get(card_id: str) -> records.RuleCardRow:
    """Raises Unknown."""
    found: records.RuleCardRow = find(RuleCardRowTable, card_id, "rule card")
    return found


def change(card: records.RuleCardRow, **values: object) -> records.RuleCardRow:
    """Write new values into a card."""
    found: records.RuleCardRow = change_row(RuleCardRowTable, card, **values)
    return found


def every() -> list[records.RuleCardRow]:
    """All cards, by species and water."""
    return read(RuleCardRowTable.select().order_by(RuleCardRowTable.species, RuleCardRowTable.area))


def of_species(species: str) -> list[records.RuleCardRow]:
    """The cards of one species."""
    return _OF_SPECIES(species)


def other_id(species: str, area: str) -> str | None:
    """The card that a species has for a water already."""
    query = RuleCardRowTable.select().where(
        RuleCardRowTable.species == species, RuleCardRowTable.area == area
    )
    row = first(query)
    return row.id if row else None


def remove(card_id: str) -> None:
    """Throw a card away."""
    RuleCardRowTable.delete().where(RuleCardRowTable.id == card_id).execute()


def caught_by_name(trip_ids: Sequence[str], species: str) -> dict[str, int]:
    """Fish of a species that stand, over several trips, by the name of who caught them."""
    rows = (
        FishTable.select(PersonTable.name, fn.COUNT(FishTable.id))
        .join(FishNowTable, on=(FishNowTable.fish == FishTable.id))
        .switch(FishTable)
        .join(PersonTable, on=(PersonTable.id == FishTable.caught_by))
        .where(FishTable.trip.in_(list(trip_ids)), FishTable.species == species,
               FishNowTable.stage != "withdrawn")
        .group_by(PersonTable.name)
    )  # fmt: skip
    return dict(rows.tuples())
