"""The crew's rule cards."""

from collections.abc import Sequence
from datetime import datetime

from peewee import fn

from lepidos.store import records
from lepidos.store.ids import IdMaker
from lepidos.store.models import Fish, FishNow, Person, RuleCardRow
from lepidos.store.ready import Ready
from lepidos.store.rows import add as add_row
from lepidos.store.rows import change as change_row
from lepidos.store.rows import find, first, read

_OF_SPECIES: Ready[records.RuleCardRow] = Ready(
    lambda species: RuleCardRow.select().where(RuleCardRow.species == species)
)


def add(ids: IdMaker, at: datetime, **values: object) -> records.RuleCardRow:
    """A new card."""
    return add_row(RuleCardRow, id=ids.new(at), **values)


def get(card_id: str) -> records.RuleCardRow:
    """Raises Unknown."""
    found: records.RuleCardRow = find(RuleCardRow, card_id, "rule card")
    return found


def change(card: records.RuleCardRow, **values: object) -> records.RuleCardRow:
    """Write new values into a card."""
    found: records.RuleCardRow = change_row(RuleCardRow, card, **values)
    return found


def every() -> list[records.RuleCardRow]:
    """All cards, by species and water."""
    return read(RuleCardRow.select().order_by(RuleCardRow.species, RuleCardRow.area))


def of_species(species: str) -> list[records.RuleCardRow]:
    """The cards of one species."""
    return _OF_SPECIES(species)


def other_id(species: str, area: str) -> str | None:
    """The card that a species has for a water already."""
    query = RuleCardRow.select().where(RuleCardRow.species == species, RuleCardRow.area == area)
    row = first(query)
    return row.id if row else None


def remove(card_id: str) -> None:
    """Throw a card away."""
    RuleCardRow.delete().where(RuleCardRow.id == card_id).execute()


def caught_by_name(trip_ids: Sequence[str], species: str) -> dict[str, int]:
    """Fish of a species that stand, over several trips, by the name of who caught them."""
    rows = (
        Fish.select(Person.name, fn.COUNT(Fish.id))
        .join(FishNow, on=(FishNow.fish == Fish.id))
        .switch(Fish)
        .join(Person, on=(Person.id == Fish.caught_by))
        .where(Fish.trip.in_(list(trip_ids)), Fish.species == species,
               FishNow.stage != "withdrawn")
        .group_by(Person.name)
    )  # fmt: skip
    return dict(rows.tuples())
