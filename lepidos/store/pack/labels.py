"""All that a label says of a bag, read in one go."""

from dataclasses import dataclass

from lepidos.store.deck import rulecards
from lepidos.store.pack import bags, packing, portions
from lepidos.store.records import Bag, BagNow, Fish, PartyWish, RuleCardRow, Weighing
from lepidos.store.trips import trips


@dataclass(frozen=True)
class OnLabel:
    """A bag, how it stands, what lies in it, whose it is and what they wish, what cards ask.

    `timezone` is its trip's; `party` "" is nobody's; `note` the party's, `guests` those who wish.
    """

    bag: Bag
    now: BagNow
    timezone: str
    inside: tuple[tuple[Weighing, Fish], ...]
    party: str
    note: str
    guests: tuple[PartyWish, ...]
    cards: tuple[RuleCardRow, ...]

    @property
    def fish_ids(self) -> tuple[str, ...]:
        """The fish in it, once each."""
        return tuple(dict.fromkeys(fish.id for _, fish in self.inside))

    @property
    def pieces(self) -> int:
        """How many pieces lie in it."""
        return len({weighing.id for weighing, _ in self.inside})


def on_label(bag: Bag) -> OnLabel:
    """What the label of a bag says. Raises Unknown."""
    party = bag.party_id or ""
    wish = packing.wishes_of(bag.trip_id).get(party)
    return OnLabel(
        bag,
        bags.now(bag.id),
        trips.get(bag.trip_id).timezone,
        tuple((weighing, fish) for _, weighing, fish in portions.of_bag(bag.id)),
        bags.party_names({party}).get(party, "") if party else "",
        wish.note if wish else "",
        tuple(packing.guests_of(bag.trip_id).get(party, ())),
        tuple(rulecards.of_species(bag.species)),
    )
