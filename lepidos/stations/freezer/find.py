"""Finding a bag: by its code, by a photo of its label, or by words, over all trips and years."""

from dataclasses import dataclass
from datetime import date

from lepidos.core.errors import BadInput, Refused, Unknown
from lepidos.core.pack.labels import read_code, show_code
from lepidos.exchange import qr
from lepidos.guide.freezing import usual_freezing
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.wishes import meant_for
from lepidos.store.freezer import places as place_store
from lepidos.store.pack import bags
from lepidos.store.records import Bag, BagNow
from lepidos.store.trips import trips

MAX_FOUND = 200
SMALL_WORDS = frozenset({"for", "the", "of", "a", "with", "from", "anything", "something"})
MAX_TRIPS = 10_000
PLACED = {"in": "", "sealed": "not yet in a freezer", "out": "taken out"}


@dataclass(frozen=True)
class Hit:
    """A bag that words found."""

    bag: Bag
    now: BagNow
    name: str
    where: str
    party: str
    trip: str

    @property
    def code(self) -> str:
        """As it stands on the label."""
        return show_code(self.bag.code)


def code_of(ctx: AppContext, text: str) -> str:
    """The code of a bag that was typed or scanned, a label's address included.

    Raises Refused where that is no code, Unknown where no bag has it.
    """
    try:
        code = read_code(text)
    except BadInput as error:
        raise Refused({"code": str(error)}) from error
    with ctx.store.reading():
        return bags.by_code(code).code


def code_on_photo(ctx: AppContext, photo: bytes) -> str:
    """The code of a bag whose label is on a photo. Raises Refused, or Unknown."""
    try:
        text = qr.read_photo(photo)
    except BadInput as error:
        raise Refused({"photo": str(error)}) from error
    return code_of(ctx, text)


def looks_like_words(ctx: AppContext, text: str) -> bool:
    """Whether a text is no code, and words of it find some bag."""
    try:
        code_of(ctx, text)
    except (Refused, Unknown):
        return bool(text.strip()) and find_bags(ctx, text, gone=True)[1] > 0
    return False


def find_bags(ctx: AppContext, text: str, gone: bool = False) -> tuple[list[Hit], int]:
    """Bags by words, due first: kind of fish, cut, party, trip, place, purpose, month or year.

    Every word must fit. `gone`: also those that were taken out. At most 200, and how many in all.
    """
    words = [w for w in text.casefold().replace(",", " ").split() if w not in SMALL_WORDS]
    with ctx.store.reading():
        names = {p.id: p.name for p, _ in place_store.places()}
        trip_names = {t.id: t.name for t in trips.newest(MAX_TRIPS)}
        rows = bags.in_states(("in", "sealed", "out") if gone else ("in", "sealed"))
        parties = bags.party_names({bag.party_id for bag, _ in rows if bag.party_id})
    texts: dict[tuple[str, str], str] = {}
    found = []
    for bag, now in rows:
        kind = texts.get((bag.species, bag.piece))
        if kind is None:
            kind = texts[bag.species, bag.piece] = _words_of(ctx, bag)
        where = names.get(now.place_id or "", "") if now.state == "in" else PLACED[now.state]
        party, trip = parties.get(bag.party_id or "", ""), trip_names.get(bag.trip_id, "")
        said = (
            f"{kind} {party} {trip} {where} {meant_for(ctx, bag.purpose)} {_dates(bag.caught_on)}"
        )
        said = f"{said} {bag.code} skin {bag.skin}".casefold()
        if all(_fits(word, said, bag) for word in words):
            name = f"{ctx.guide.known_or_named(bag.species).name} {ctx.guide.piece(bag.piece).name}"
            found.append(Hit(bag, now, name, where, party, trip))
    return found[:MAX_FOUND], len(found)


def _words_of(ctx: AppContext, bag: Bag) -> str:
    species = ctx.guide.known_or_named(bag.species)
    names = [species.name, *species.other_names, species.scientific]
    return " ".join([*names, ctx.guide.piece(bag.piece).name])


def _dates(day: date) -> str:
    return f"{day:%Y-%m-%d %B %b %Y}"


def _fits(word: str, said: str, bag: Bag) -> bool:
    if dish := usual_freezing().dishes.get(word):
        return bag.piece in dish
    # the beginning of a word is enough, and "fillets" finds a fillet, too
    said = f" {said}"
    return f" {word}" in said or (word.endswith("s") and len(word) > 3 and f" {word[:-1]}" in said)
