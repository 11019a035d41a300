"""How much a long test does: all of it at night (`make nightly`), a sample of it at each commit.

Which sample goes with what is committed: the same files are tested alike here and elsewhere, and the next
commit's sample is another.
"""

import hashlib
import os
import subprocess
from collections.abc import Sequence
from pathlib import Path
from random import Random
from typing import TypeVar

Some = TypeVar("Some")
WHOLE = "LEPIDOS_LONG" in os.environ


def much(at_night: int, at_each_commit: int) -> int:
    """How often to do what may be done more or less often."""
    return at_night if WHOLE else at_each_commit


def some(of: Sequence[Some], share: int, always: Sequence[Some] = ()) -> list[Some]:
    """One in so many, in their order, and those that are always wanted; at night all."""
    if WHOLE:
        return list(of)
    drawn = Random(_committed()).sample(range(len(of)), -(-len(of) // share))
    return [one for n, one in enumerate(of) if n in drawn or one in always]


def _committed() -> int:
    """A number that goes with the files of the last commit; 7 where there is no git."""
    told = subprocess.run(
        ["git", "rev-parse", "HEAD^{tree}"],
        cwd=Path(__file__).parent,
        capture_output=True,
        check=False,
    ).stdout
    return int(hashlib.sha256(told).hexdigest()[:8], 16) if told else 7
