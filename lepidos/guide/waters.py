"""Home waters: which fish are met where."""

from collections.abc import Container
from pathlib import Path

from lepidos.core.fish.species import Known
from lepidos.guide.reading import read


class Waters(Known):
    """A coast or fresh waters, and the fish of the guide that are met there (from memory).

    `often` are those of them that are landed most, in that order.
    """

    name: str
    often: tuple[str, ...]
    species: frozenset[str]


def waters_in(folder: Path, species: Container[str]) -> dict[str, Waters]:
    """All waters, by key. Raises ValueError for a fish that is not among `species`."""
    found = {k: Waters(**v) for k, v in read(folder / "waters.toml")["waters"].items()}
    for key, one in found.items():
        if lost := sorted(s for s in one.species if s not in species):
            raise ValueError(f"waters.toml, {key}: no such fish {lost}")
        if lost := sorted(set(one.often) - one.species):
            raise ValueError(f"waters.toml, {key}: landed often, but not met there {lost}")
    return found
