"""Who takes which bag: shares in grams, of each kind and of all, as even as bags can be.

The worst deviation of any party, in grams of one kind or of all kinds together, is made as small as
it can be; among the splits that reach it, the one with the least worst deviation of all together.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from lepidos.core.errors import OutOfRange, require

MAX_PARTIES, MAX_BAGS = 12, 600
ALL = ""  # the name of all kinds together
_ROUNDS = 200  # of the polish, each over every pair: it has never come near


@dataclass(frozen=True)
class Bag:
    """A bag to share out: its grams, its kind, and the party's number that it is pinned to.

    `not_for` are parties that do not take it, unless it is pinned to them; never all of them.
    """

    key: str
    kind: str
    grams: int
    pinned: int | None = None
    not_for: frozenset[int] = frozenset()

    def takers(self, parties: int) -> list[int]:
        """Who may get it."""
        if self.pinned is not None:
            return [self.pinned]
        return [p for p in range(parties) if p not in self.not_for]


@dataclass(frozen=True)
class Split:
    """Each bag's party by number, in the order of the bags.

    `worst_g` is the greatest deviation of any party from its share, of a kind or of all;
    `overall_g` that of all kinds together. `least_g`: no split of these bags has a smaller
    `worst_g`, proven; 0 when nothing is proven.
    """

    party_of: tuple[int, ...]
    worst_g: float
    overall_g: float
    least_g: float

    @property
    def proven(self) -> bool:
        """Whether no split can be more even in its worst deviation."""
        return self.worst_g <= self.least_g + 1e-6

    @property
    def rank(self) -> tuple[float, float]:
        """Smaller is better."""
        return (round(self.worst_g, 6), round(self.overall_g, 6))


def entitled(bags: Sequence[Bag], shares: Sequence[int]) -> dict[str, tuple[Fraction, ...]]:
    """Grams that each party should have, by kind, and of all under "".

    A bag is due to those who take its kind, by their shares: what somebody does not eat is no part
    of what is due to him.

    >>> entitled([Bag("a", "cod", 300), Bag("b", "cod", 100)], (1, 3))["cod"]
    (Fraction(100, 1), Fraction(300, 1))
    """
    due: dict[str, list[Fraction]] = {ALL: [Fraction(0)] * len(shares)}
    for bag in bags:
        takers = [p for p in range(len(shares)) if p not in bag.not_for]
        whole = sum(shares[p] for p in takers)
        of_kind = due.setdefault(bag.kind, [Fraction(0)] * len(shares))
        for p in takers:
            part = Fraction(bag.grams * shares[p], whole)
            of_kind[p] += part
            due[ALL][p] += part
    return {kind: tuple(parts) for kind, parts in due.items()}


def deviations(
    bags: Sequence[Bag], shares: Sequence[int], party_of: Sequence[int]
) -> dict[str, tuple[float, ...]]:
    """What each party has over its share [g], by kind, and of all under ""; below 0: too little."""
    # in the order of the bags: a set's order differs from one start of Python to the next
    has = {kind: [Fraction(0)] * len(shares) for kind in (*(b.kind for b in bags), ALL)}
    for bag, party in zip(bags, party_of, strict=True):
        has[bag.kind][party] += bag.grams
        has[ALL][party] += bag.grams
    should = entitled(bags, shares)
    return {
        kind: tuple(float(a - b) for a, b in zip(grams, should[kind], strict=True))
        for kind, grams in has.items()
    }


def split_of(
    bags: Sequence[Bag], shares: Sequence[int], party_of: Sequence[int], least_g: float = 0.0
) -> Split:
    """A split with how even it is."""
    off = deviations(bags, shares, party_of)
    worst = max(abs(g) for grams in off.values() for g in grams)
    return Split(tuple(party_of), worst, max(abs(g) for g in off[ALL]), least_g)


def greedy(bags: Sequence[Bag], shares: Sequence[int]) -> Split:
    """An even split at once: the largest bag of each kind to whom most is missing, then polished.

    Pinned bags stay. Names play no part: the same grams in the same order give the same answer.

    Raises: OutOfRange for no or too many parties or bags, a share that is not positive, or a pin to
    nobody.
    """
    _check(bags, shares)
    party_of = [0 if b.pinned is None else b.pinned for b in bags]
    has: dict[tuple[str, int], int] = {}

    def give(i: int, party: int) -> None:
        party_of[i] = party
        for kind in (bags[i].kind, ALL):
            has[kind, party] = has.get((kind, party), 0) + bags[i].grams

    for i, bag in enumerate(bags):
        if bag.pinned is not None:
            give(i, bag.pinned)
    should = entitled(bags, shares)
    free = [i for i, b in enumerate(bags) if b.pinned is None]
    for i in sorted(free, key=lambda i: (-bags[i].grams, i)):
        kind = bags[i].kind

        def missing(party: int, kind: str = kind) -> tuple[Fraction, Fraction, int]:
            of_kind = should[kind][party] - has.get((kind, party), 0)
            return of_kind, should[ALL][party] - has.get((ALL, party), 0), -party

        give(i, max(bags[i].takers(len(shares)), key=missing))
    return polished(bags, shares, split_of(bags, shares, party_of))


def polished(bags: Sequence[Bag], shares: Sequence[int], split: Split) -> Split:
    """Give a bag away, or swap two of a kind, as long as that makes it more even."""
    free = [i for i, b in enumerate(bags) if b.pinned is None]
    party_of = list(split.party_of)
    off = {kind: list(g) for kind, g in deviations(bags, shares, party_of).items()}
    worst_of = {kind: max(map(abs, grams)) for kind, grams in off.items()}

    def tried(kind: str, moved: Mapping[int, int]) -> tuple[float, float]:
        """How even it would be with these grams more or less, by party."""
        new = [g + moved.get(p, 0) for p, g in enumerate(off[kind])]
        every = [g + moved.get(p, 0) for p, g in enumerate(off[ALL])]
        others = max((w for k, w in worst_of.items() if k not in (kind, ALL)), default=0.0)
        worst_all = max(map(abs, every))
        return round(max(others, worst_all, *map(abs, new)), 6), round(worst_all, 6)

    def take(kind: str, moved: Mapping[int, int]) -> None:
        for name in (kind, ALL):
            for party, grams in moved.items():
                off[name][party] += grams
            worst_of[name] = max(map(abs, off[name]))

    def changes() -> bool:
        now = (round(max(worst_of.values()), 6), round(worst_of[ALL], 6))
        for n, i in enumerate(free):
            here, grams, kind = party_of[i], bags[i].grams, bags[i].kind
            for there in bags[i].takers(len(shares)):
                moved = {here: -grams, there: grams}
                if there != here and tried(kind, moved) < now:
                    take(kind, moved)
                    party_of[i] = there
                    return True
            for j in free[n + 1 :]:
                there, more = party_of[j], bags[j].grams - grams
                if bags[j].kind != kind or there == here or not more:
                    continue
                if there in bags[i].not_for or here in bags[j].not_for:
                    continue
                if tried(kind, {here: more, there: -more}) < now:
                    take(kind, {here: more, there: -more})
                    party_of[i], party_of[j] = there, here
                    return True
        return False

    for _ in range(_ROUNDS):
        if not changes():
            break
    return split_of(bags, shares, party_of, split.least_g)


def in_turn(bags: Sequence[Bag], parties: int) -> tuple[int, ...]:
    """Draw in turn: there and back again, each takes the heaviest bag that is left.

    Pinned bags count as their party's draws.

    >>> in_turn([Bag("a", "cod", 9), Bag("b", "cod", 8), Bag("c", "cod", 7), Bag("d", "cod", 6)], 2)
    (0, 1, 1, 0)
    """
    _check(bags, [1] * parties)
    party_of = [0 if b.pinned is None else b.pinned for b in bags]
    draws = [sum(b.pinned == p for b in bags) for p in range(parties)]
    free = [i for i, b in enumerate(bags) if b.pinned is None]
    for i in sorted(free, key=lambda i: (-bags[i].grams, i)):
        # in every second round the last begins
        party = min(
            bags[i].takers(parties),
            key=lambda p: (draws[p], p if draws[p] % 2 == 0 else parties - 1 - p),
        )
        party_of[i] = party
        draws[party] += 1
    return tuple(party_of)


def _check(bags: Sequence[Bag], shares: Sequence[int]) -> None:
    require("number of parties", len(shares), 1, MAX_PARTIES, "")
    require("number of bags", len(bags), 1, MAX_BAGS, "")
    for share in shares:
        require("share", share, 1, 1000, "")
    for bag in bags:
        require("grams in a bag", bag.grams, 0, 1_000_000, "g")
        if bag.pinned is not None and not 0 <= bag.pinned < len(shares):
            raise OutOfRange("party of a bag", bag.pinned, 0, len(shares) - 1, "")
        require("takers of a bag", len(set(range(len(shares))) - bag.not_for), 1, 12, "")
