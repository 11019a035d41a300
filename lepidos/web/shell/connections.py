"""How many connections others may have: so many an address, so many in all.

A connection is known once a device that was let in has asked for something on it. Of those that are
not, the oldest of the address with most of them makes room for a new one when there are too many.
The numbers are far above what people need: a browser opens six to one place. Common practice, no
source.
"""

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

OF_ADDRESS = 40
IN_ALL = 400


@dataclass(eq=False)
class Connection:
    """One connection: whose it is, since when, and how it is closed."""

    address: str
    port: int
    close: Callable[[], None]
    known: bool = field(default=False)


class Connections:
    """Those that are open, the oldest first. For one thread."""

    def __init__(self, of_address: int = OF_ADDRESS, in_all: int = IN_ALL) -> None:
        self._of_address, self._in_all = of_address, in_all
        self._open: dict[tuple[str, int], Connection] = {}

    def __len__(self) -> int:
        """How many are open."""
        return len(self._open)

    def admit(self, address: str, port: int, close: Callable[[], None]) -> bool:
        """Whether one more may come in; `leave` when it ends. One that must go for it is closed."""
        if sum(one.address == address for one in self._open.values()) >= self._of_address:
            return False
        if len(self._open) >= self._in_all:
            unknown = [one for one in self._open.values() if not one.known]
            if not unknown:
                return False
            most = Counter(one.address for one in unknown).most_common(1)[0][0]
            oldest = next(one for one in unknown if one.address == most)
            self.leave(oldest.address, oldest.port)
            oldest.close()
        self._open[address, port] = Connection(address, port, close)
        return True

    def leave(self, address: str, port: int) -> None:
        """A connection ended."""
        self._open.pop((address, port), None)

    def know(self, address: str, port: int) -> None:
        """A device that was let in has asked on this connection."""
        if one := self._open.get((address, port)):
            one.known = True
