"""The app's name on the local network (multicast DNS, RFC 6762): nobody need type an address."""

import socket
import threading
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress

import structlog
from zeroconf import Error, ServiceInfo, Zeroconf

from lepidos.web.shell.addresses import ON_THE_NETWORK

KIND = "_https._tcp.local."
LOOK_S = 15.0  # a boat's Wi-Fi comes and goes


class Announcer:
    """Announces `lepidos.local` at the addresses that the machine has, and follows them.

    Args:
        port: Of the app.
        addresses: Says what the machine's addresses are now.
        radio: Makes what announces on given addresses.
    """

    def __init__(
        self,
        port: int,
        addresses: Callable[[], Sequence[str]],
        radio: Callable[[list[str]], Zeroconf] = lambda found: Zeroconf(interfaces=list(found)),
    ) -> None:
        self._port, self._addresses, self._make = port, addresses, radio
        self._at: list[str] = []
        self._radio: Zeroconf | None = None

    def look(self) -> None:
        """Announce again when the addresses changed; go on without where a network forbids it."""
        found = sorted(self._addresses())
        if found == self._at:
            return
        self.end()
        self._at = found
        if not found:
            return
        try:
            self._radio = self._make(found)
            self._radio.register_service(
                ServiceInfo(
                    KIND,
                    f"Lepidos.{KIND}",
                    addresses=[socket.inet_aton(text) for text in found],
                    port=self._port,
                    server=f"{ON_THE_NETWORK}.",
                ),
                allow_name_change=True,
            )
        except (OSError, Error) as error:
            structlog.get_logger().warning("not announced", problem=str(error))

    def end(self) -> None:
        """Take the name back."""
        if self._radio:
            with suppress(OSError, Error):  # the network may be gone by now
                self._radio.unregister_all_services()
            self._radio.close()
        self._radio, self._at = None, []


@contextmanager
def announced(announcer: Announcer, every_s: float = LOOK_S) -> Iterator[None]:
    """Announce while the app runs."""
    ended = threading.Event()

    def follow() -> None:
        while not ended.wait(every_s):
            announcer.look()

    announcer.look()
    thread = threading.Thread(target=follow, daemon=True, name="announce")
    thread.start()
    try:
        yield
    finally:
        ended.set()
        thread.join(every_s)
        announcer.end()
