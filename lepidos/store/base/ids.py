"""ULIDs from the clock and the generator that were handed in, rising also within a millisecond."""

import threading
from datetime import UTC, datetime, timedelta
from random import Random

from ulid import ULID


class IdMaker:
    """Makes keys that sort in the order they were made, even when the clock steps back.

    `after` is the newest key of the file: a machine that starts with an earlier clock than it had
    goes on from there, so that what is done next is also the last.
    """

    def __init__(self, rng: Random, after: str = "") -> None:
        self._rng = rng
        self._lock = threading.Lock()
        newest = read_id(after)
        self._last = int(newest) if newest else 0

    def new(self, at: datetime) -> str:
        """A ULID for something that happens `at`."""
        with self._lock:
            fresh = int(at.timestamp() * 1000) << 80 | self._rng.getrandbits(80)
            # a small step leaves room for more than 2^48 keys in one millisecond
            if fresh <= self._last:
                fresh = self._last + 1 + self._rng.getrandbits(32)
            self._last = fresh
            return str(ULID.from_int(fresh))


def read_id(text: str) -> ULID | None:
    """A key as what it is; None of none, and of one that somebody wrote by hand.

    A key can name a time that no calendar has, up to the year 10 889: then it was not made by us.
    """
    try:
        found = ULID.from_str(text)
        return found if found.datetime else None
    except (ValueError, OverflowError, OSError):
        return None


BEHIND = timedelta(minutes=5)  # less than this is another device's clock


def clock_is_behind(newest_id: str, now: datetime) -> str:
    """A sentence when the newest key of a file is later than it is now; "" when it is not.

    What is done then still comes last, see `IdMaker`, but its times are wrong.
    """
    known = read_id(newest_id)
    newest = known.datetime if known else now
    if newest <= now + BEHIND:
        return ""
    return (
        f"This machine's clock says {now:%Y-%m-%d %H:%M} UTC, but the newest entry is of "
        f"{newest.astimezone(UTC):%Y-%m-%d %H:%M} UTC. Set the clock: times on ice and on labels "
        "come from it."
    )
