"""The crew's rule cards."""

from collections.abc import Sequence
from datetime import datetime

from peewee import fn

from lepidos.core.errors import Unknown
from lepidos.store.ids import IdMaker
from lepidos.store.models import Fish, FishNow, Person, RuleCardRow
from lepidos.store.ready import Ready
from lepidos.store.rows import save

_OF_SPECIES: Ready[RuleCardRow] = Ready(
    lambda species: RuleCardRow.select().where(RuleCardRow.species == species)
)


def add(ids: IdMaker, at: datetime, **values: object) -> RuleCardRow:
    """A new card."""
    return RuleCardRow.create(id=ids.new(at), force_insert=True, **values)


def get(card_id: str) -> RuleCardRow:
    """Raises Unknown."""
    row = RuleCardRow.get_or_none(RuleCardRow.id == card_id)
    if row is None:
        raise Unknown("rule card", card_id)
    return row


def change(card: RuleCardRow, **values: object) -> None:
    """Write a card anew with these values."""
    save(card, values)


def every() -> list[RuleCardRow]:
    """All cards, by species and water."""
    return list(RuleCardRow.select().order_by(RuleCardRow.species, RuleCardRow.area))


def of_species(species: str) -> list[RuleCardRow]:
    """The cards of one species."""
    return _OF_SPECIES(species)


def other_id(species: str, area: str) -> str | None:
    """The card that a species has for a water already."""
    row = RuleCardRow.get_or_none(RuleCardRow.species == species, RuleCardRow.area == area)
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
