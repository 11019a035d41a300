"""Fish by their names: own ones, other regions', and those that only resemble."""

import difflib
import unicodedata
from collections.abc import Iterable

from rapidfuzz import fuzz

from lepidos.core.errors import Unknown
from lepidos.core.fish.species import Species

IS, FITS = 300.0, 180.0  # of 300: the name itself; the name or a word of it begins so
ALIKE = 78.0  # of 100: names that resemble less are not what was meant (tried on common slips)


def own_names(one: Species) -> set[str]:
    """What a fish is called here, in small letters: key, name, plural, scientific name."""
    names = {one.key.replace("_", " "), one.name, one.plural, one.scientific}
    return {name.lower() for name in names}


def every_name(one: Species) -> set[str]:
    """Those, and what it is called elsewhere."""
    return {*own_names(one), *(name.lower() for name in one.other_names)}


def find(species: Iterable[Species], name: str) -> Species:
    """A species by key, common name, other name or scientific name, in any case.

    Its own name goes before what another fish is called somewhere: ling is ling, though cobia
    is called so too. Raises Unknown with suggestions.
    """
    wanted = " ".join(name.replace("_", " ").lower().split())
    known = list(species)
    fitting = [one for one in known if wanted in own_names(one)]
    fitting = fitting or [one for one in known if wanted in every_name(one)]
    if len(fitting) == 1:
        return fitting[0]
    # a name that two fish bear somewhere is no answer: it is given back with both
    suggested = tuple(one.name for one in fitting) or near(known, wanted)
    raise Unknown("species", name, suggested)


def called(species: Iterable[Species], text: str) -> tuple[Species, ...]:
    """The fish that bear exactly this name anywhere, that whose own name it is first."""
    wanted = " ".join(text.lower().split())
    bearers = [one for one in species if wanted in every_name(one)]
    return tuple(sorted(bearers, key=lambda one: (wanted not in own_names(one), one.name)))


def search(species: Iterable[Species], text: str, most: int = 30) -> list[Species]:
    """Fish by any name in any region, typos forgiven; best first.

    A name that holds the text comes before one that only resembles it.
    """
    wanted = " ".join(text.lower().split())[:60]
    if not wanted:
        return []
    by_key = {one.key: one for one in species}
    scored: dict[str, float] = {}
    for one in by_key.values():
        best = max(likeness(wanted, name) for name in every_name(one))
        if best >= ALIKE:
            scored[one.key] = best
    ranked = sorted(
        scored,
        key=lambda key: (
            -scored[key],
            wanted not in own_names(by_key[key]),
            by_key[key].name.lower(),
        ),
    )
    return [by_key[key] for key in ranked[:most]]


def near(species: Iterable[Species], name: str) -> tuple[str, ...]:
    """The names of up to three fish that this one may have been meant for."""
    by_name = {n: one.name for one in species for n in every_name(one)}
    close = difflib.get_close_matches(name.lower()[:60], by_name, 3, 0.6)
    return tuple(dict.fromkeys(by_name[n] for n in close))


def nearest(species: Iterable[Species], name: str) -> float:
    """How much the name that is most like this one resembles it, 0 to 100."""
    wanted = " ".join(name.lower().split())[:60]
    return max(resemblance(wanted, known) for one in species for known in every_name(one))


def likeness(wanted: str, name: str) -> float:
    """0 to 300: the name itself, a name that begins so or holds it, a name that resembles it."""
    if wanted == name:
        return IS
    if name.startswith(wanted):
        return 200.0
    if f" {wanted}" in name:
        return FITS
    if wanted in name:
        return 150.0
    return resemblance(wanted, name)


def resemblance(wanted: str, name: str) -> float:
    """0 to 100: how much a name, or a word of it, is written like this one.

    >>> resemblance("gar", "alligator gar"), resemblance("gar", "garfish")
    (100.0, 60.0)
    """
    return max(fuzz.ratio(wanted, part) for part in (name, *name.split()))


def folded(name: str) -> str:
    """A name as it is typed on any keyboard: small letters, no accents, single spaces.

    >>> folded("Balon  balığı")
    'balon baligi'
    """
    apart = unicodedata.normalize("NFKD", name.lower().translate(_NO_ACCENT_APART))
    return " ".join("".join(c for c in apart if not unicodedata.combining(c)).split())


# letters that Unicode takes for letters of their own, though people write them without the stroke
_NO_ACCENT_APART = str.maketrans({"ø": "o", "ł": "l", "ı": "i", "đ": "d", "æ": "ae", "œ": "oe"})
