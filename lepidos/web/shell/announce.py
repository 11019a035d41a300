"""The app's name on the local network (multicast DNS, RFC 6762): nobody need type an address."""

import socket
from collections.abc import Iterator, Sequence
from contextlib import contextmanager

import structlog
from zeroconf import Error, ServiceInfo, Zeroconf

from lepidos.web.shell.addresses import ON_THE_NETWORK

KIND = "_https._tcp.local."


@contextmanager
def announced(port: int, addresses: Sequence[str]) -> Iterator[None]:
    """Announce `lepidos.local` while the app runs. Where a network forbids it, go on without."""
    if not addresses:  # no network yet
        yield
        return
    try:
        radio = Zeroconf(interfaces=list(addresses))
        radio.register_service(
            ServiceInfo(
                KIND,
                f"Lepidos.{KIND}",
                addresses=[socket.inet_aton(text) for text in addresses],
                port=port,
                server=f"{ON_THE_NETWORK}.",
            ),
            allow_name_change=True,
        )
    except (OSError, Error) as error:
        structlog.get_logger().warning("not announced", problem=str(error))
        yield
        return
    try:
        yield
    finally:
        radio.unregister_all_services()
        radio.close()
