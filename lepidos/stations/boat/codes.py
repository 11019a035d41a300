"""Codes that let a device in: shown on a device of the crew, good once and for a short while.

They are kept in memory only: after a new start nobody has one.
"""

import secrets
import threading
from collections import Counter, deque
from dataclasses import dataclass
from datetime import datetime, timedelta

from lepidos.core.errors import Refused

ALPHABET = "23456789ABCDEFGHJKMNPQRSTUVWXYZ"  # no letter that looks like a number
# 31^8 codes: 40 bits. Whoever asks a thousand times a second while one is good, from ever new
# addresses, finds it once in three million times: nobody else need be stopped for that.
LETTERS = 8
GOOD_FOR = timedelta(minutes=5)  # a code read out on deck is typed in within minutes (practice)
# OWASP ASVS 5, 6.1.1 and 6.3.1: guessing is slowed down
TRIES = 8  # wrong codes from one address before it waits
WAIT = timedelta(minutes=10)  # after too many wrong codes (practice)
MAX_REMEMBERED = 5000  # wrong codes: a stranger can make up many addresses


@dataclass(frozen=True)
class Offer:
    """What a code lets a device become, until when."""

    code: str
    role: str
    party_id: str | None
    until: datetime

    @property
    def shown(self) -> str:
        """The code as people read it out: two groups of four."""
        return f"{self.code[:4]} {self.code[4:]}"


class Codes:
    """The codes that are good now, and the wrong ones that were tried. From any thread."""

    def __init__(self) -> None:
        self._offers: dict[str, Offer] = {}
        self._wrong: deque[tuple[datetime, str]] = deque()  # the oldest first
        self._tries: Counter[str] = Counter()  # of them, by address
        self._lock = threading.Lock()

    def offer(self, role: str, party_id: str | None, now: datetime) -> Offer:
        """A new code."""
        with self._lock:
            self._forget(now)
            code = "".join(secrets.choice(ALPHABET) for _ in range(LETTERS))
            made = self._offers[code] = Offer(code, role, party_id, now + GOOD_FOR)
            return made

    def good(self, now: datetime) -> list[Offer]:
        """Those that can be used now, the newest last."""
        with self._lock:
            self._forget(now)
            return list(self._offers.values())

    def take_back(self, code: str) -> None:
        """It lets nobody in any more."""
        with self._lock:
            self._offers.pop(_plain(code), None)

    def use(self, code: str, address: str, now: datetime) -> Offer:
        """What a code lets its device become; it is used up. Raises Refused.

        After some wrong codes an address waits for a while, also with right ones.
        """
        with self._lock:
            self._forget(now)
            if self._tries[address] >= TRIES:
                minutes = int(WAIT.total_seconds() // 60)
                raise Refused({"code": f"Too many wrong codes. Try again in {minutes} minutes"})
            found = self._offers.pop(_plain(code), None)
            if found is None:
                self._remember(now, address)
                raise Refused({"code": "That code is not good, or no longer. Ask for a new one"})
            return found

    def _forget(self, now: datetime) -> None:
        self._offers = {c: o for c, o in self._offers.items() if o.until > now}
        while self._wrong and self._wrong[0][0] <= now - WAIT:
            self._drop_oldest()

    def _remember(self, now: datetime, address: str) -> None:
        if len(self._wrong) == MAX_REMEMBERED:
            self._drop_oldest()
        self._wrong.append((now, address))
        self._tries[address] += 1

    def _drop_oldest(self) -> None:
        _, address = self._wrong.popleft()
        self._tries[address] -= 1
        if not self._tries[address]:
            del self._tries[address]


def _plain(code: str) -> str:
    return "".join(code.upper().split()).replace("-", "")[:20]
