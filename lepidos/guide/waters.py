"""Home waters: which fish are met where."""

from lepidos.core.fish.species import Known


class Waters(Known):
    """A coast or fresh waters, and the fish of the guide that are met there (from memory).

    `often` are some of them, those that are landed most, the first first.
    """

    name: str
    often: tuple[str, ...]
    species: frozenset[str]
