"""What the pack page shows: bags to come, by party, and what the box of bags holds."""

from dataclasses import dataclass
from functools import cached_property

from lepidos.core.fish.bodyplan import Piece
from lepidos.core.fish.species import Species
from lepidos.core.pack.bag_plan import BagOf
from lepidos.core.pack.bag_sizes import BagSize, Laid
from lepidos.core.pack.portions import servings_in_bag
from lepidos.stations.pack.parts import PartRow
from lepidos.stations.pack.party_wishes import not_for, not_taken
from lepidos.stations.pack.portioning import Marks, PieceRow
from lepidos.stations.pack.sharing import PartyShare, Shared
from lepidos.stations.trips.trips import TripView
from lepidos.store.records import Bag, PartyWish, ShareRule


@dataclass(frozen=True)
class PlannedBag:
    """A bag to come: what goes in, how it lies, and whose it is."""

    bag: BagOf
    rows: tuple[PartRow, ...]
    laid: Laid | None
    party_id: str
    pooled: bool

    @property
    def key(self) -> str:
        """Names it in links and forms."""
        return self.bag.key

    @property
    def species(self) -> Species:
        """Of all of it."""
        return self.rows[0].row.species

    @property
    def piece(self) -> Piece:
        """Of all of it."""
        return self.rows[0].row.piece

    @property
    def tail(self) -> bool:
        """It holds thin ends."""
        return self.rows[0].portion.tail and not self.rows[0].whole

    @property
    def name(self) -> str:
        """Such as "cod fillet, tail", "cod cheeks"."""
        several = len(self.rows) > 1 and all(row.whole for row in self.rows)
        piece = self.piece.plural if several else self.piece.name
        return f"{self.species.name} {piece}" + (", tail" if self.tail else "")

    @property
    def servings(self) -> float:
        """Servings to print: whole ones, or the part of one that it is."""
        return servings_in_bag(self.bag.servings)

    @property
    def codes(self) -> tuple[str, ...]:
        """The fish that it is of."""
        return tuple(dict.fromkeys(str(row.row.fish.code) for row in self.rows))


@dataclass(frozen=True)
class ToCome:
    """Bags of one name that fish still carry: how many, of which fish, and one as it would lie."""

    number: int
    codes: tuple[str, ...]
    example: PlannedBag


@dataclass(frozen=True)
class Column:
    """One party's bags: to come (the next ones first), sealed, and what fish should still give."""

    party_id: str
    name: str
    planned: tuple[PlannedBag, ...]
    sealed: tuple[Bag, ...]
    to_come: tuple[ToCome, ...]
    marks: Marks

    @property
    def to_come_number(self) -> int:
        """Bags that its fish still carry."""
        return sum(row.number for row in self.to_come)


@dataclass(frozen=True)
class SupplyLine:
    """A size of bag: how many are left (None: nobody counted), how many this plan takes, and lacks.

    In metres for a roll.
    """

    size: BagSize
    left: float | None
    takes: float
    short: float


@dataclass(frozen=True)
class PackTable:
    """The pack page. `fewest`: fewer bags are proven impossible by these rules."""

    view: TripView
    columns: tuple[Column, ...]
    next_bag: PlannedBag | None
    least: int
    fewest: bool
    supplies: tuple[SupplyLine, ...]
    shared: Shared
    rule: ShareRule | None
    pieces: tuple[PieceRow, ...]
    wishes: dict[str, PartyWish]
    guests: dict[str, list[PartyWish]]

    @property
    def planned(self) -> tuple[PlannedBag, ...]:
        """Every bag to come, in the order of the work."""
        return tuple(bag for column in self.columns for bag in column.planned)

    @cached_property
    def _columns_of(self) -> dict[str, Column]:
        # asked for each bag of a page several times
        return {bag.key: column for column in self.columns for bag in column.planned}

    def party_of(self, bag: PlannedBag) -> str:
        """Whose it is, by id; "" as long as it is nobody's."""
        column = self._columns_of.get(bag.key)
        return column.party_id if column else ""

    def name_of(self, bag: PlannedBag) -> str:
        """Whose it is, by name; "" as long as it is nobody's."""
        column = self._columns_of.get(bag.key)
        return column.name if column and column.party_id else ""

    def unwanted(self, bag: PlannedBag) -> str:
        """Why whose bag it is does not take it: the key of a caution or of a fish; else ""."""
        return not_taken(self.wishes, self.party_of(bag), bag.species)

    def not_for(self, bag: PlannedBag) -> tuple[str, ...]:
        """Names of guests of whose bag it is who do not take it."""
        return not_for(self.guests.get(self.party_of(bag), ()), bag.species)

    def share_of(self, party_id: str) -> PartyShare | None:
        """What a party gets of the pool; None when it takes no part."""
        return next((p for p in self.shared.parties if p.party_id == party_id), None)

    @property
    def to_come(self) -> int:
        """Bags that fish which are not finished should still give."""
        return sum(row.number for column in self.columns for row in column.to_come)
