"""What each step does to the fish: the checker of plans goes by it (`guide/checks.toml`)."""

from collections.abc import Mapping

from pydantic import Field

from lepidos.core.fish.species import Known


class Deed(Known):
    """What one step does to the fish; see `guide/checks.toml`."""

    takes: tuple[str, ...] = ()
    wants: tuple[str, ...] = ()
    leaves: tuple[str, ...] = ()
    cuts: tuple[str, ...] = ()
    opens: bool = False
    wets: bool = False
    dries: bool = False
    looks: bool = False
    hands: bool = True
    trims: bool = False
    brings: tuple[str, ...] = ()


class Words(Known):
    """A word in a step's sentences that is true only of fish with one of these traits."""

    text: str
    of: tuple[str, ...] = Field(min_length=1)


class Checks(Known):
    """Everything the checker knows of steps and words."""

    steps: Mapping[str, Deed]
    words: tuple[Words, ...]
