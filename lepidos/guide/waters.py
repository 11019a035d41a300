"""Home waters: which fish are met where."""

from collections.abc import Mapping
from pathlib import Path

from lepidos.core.fish.species import Known, Species
from lepidos.guide.problems import made
from lepidos.guide.reading import read


class Waters(Known):
    """A coast or fresh waters, and the fish of the guide that are met there (from memory).

    `often` are those of them that are landed most, in that order.
    """

    name: str
    often: tuple[str, ...]
    species: frozenset[str]


def waters_in(folder: Path, species: Mapping[str, Species]) -> dict[str, Waters]:
    """All waters, by key; each fish says where it is met. Raises ValueError for unknown ones."""
    raws = read(folder / "waters.toml")["waters"]
    for key, one in species.items():
        if unknown := sorted(set(one.waters) - set(raws)):
            raise ValueError(f"{key}.toml: waters has {unknown}: write one of {', '.join(raws)}")
    found: dict[str, Waters] = {}
    for name, raw in raws.items():
        met = frozenset(key for key, one in species.items() if name in one.waters)
        found[name] = made("waters.toml", Waters, raw, species=met)
        if lost := sorted(set(found[name].often) - met):
            raise ValueError(f"waters.toml, {name}: landed often, but not met there {lost}")
    return found
