"""How soon a weighing is answered while strangers hold connections open, and what they write to the log.

`python -m bench.strangers`: 1,100 silent TLS connections, 300 half heads, 300 half bodies of one address,
then the same spread over thirty. Weighings come from the machine itself and from a phone that was let in,
each on a connection of its own; the phone's with its handshake.
"""

import re
import statistics
import tempfile
import time
from pathlib import Path

from tests.server import Server, free_port
from tests.strangers import Asking, Crowd, many_handles
from tests.web.test_strangers import HALF_BODY, HALF_HEAD

WEIGHINGS = 30


def times(asking: Asking, fish: str, name: str) -> str:
    """Median and worst of some weighings [ms]."""
    found = []
    for n in range(WEIGHINGS):
        began = time.perf_counter()
        status, text, _ = asking.ask(
            "POST", f"{fish}/weighings", key=f"{name}-{n:06d}", slot="trim", weight="0.1"
        )
        found.append((time.perf_counter() - began) * 1000)
        if status != 303:
            raise RuntimeError(text[-300:])
    return f"{statistics.median(found):6.0f} {max(found):6.0f}"


def main() -> None:
    """Print a line for each crowd."""
    with tempfile.TemporaryDirectory() as name, many_handles():
        port = free_port()
        more = {"LEPIDOS_SHARE": "1", "LEPIDOS_SHARE_PORT": str(port), "LEPIDOS_LOG_LEVEL": "info"}
        server = Server(Path(name), searches=False, **more)
        server.start()
        here, phone = Asking(server), Asking(server, port)
        phone.join(here)
        _, _, headers = here.ask(
            "POST", "/trips", key="the-trip-itself", kind="boat", on_date="2026-07-14"
        )
        trip = headers["location"].split("/deck")[0]
        here.ask(
            "POST", f"{trip}/fish", key="the-fish-itself", species="ling", length="110", bled="on"
        )
        _, page, _ = here.ask("GET", f"{trip}/table")
        fish = re.findall(r"/fish/[0-9A-Z]{26}", page)[0]
        print(f"{'':24}   machine [ms]    phone [ms]   turned away")
        crowd = Crowd(port)
        for addresses in (1, 30):
            for what, count, said in (
                ("nobody", 0, b""), ("silent", 1100, b""), ("half heads", 300, HALF_HEAD), ("half bodies", 300, HALF_BODY)
            ):  # fmt: skip
                crowd.come(count, said, addresses)
                label = f"{count} {what} of {addresses}"
                key = f"{what}-{addresses}".replace(" ", "-")
                print(
                    f"{label:24} {times(here, fish, f'here-{key}')} {times(phone, fish, f'phone-{key}')} {crowd.turned_away:8}"
                )
                crowd.leave()
                crowd.turned_away = 0
        print(f"log: {server.errors.stat().st_size / 1000:.0f} kB")
        server.kill()


if __name__ == "__main__":
    main()
