"""Every scale of a crew by its name: on lines, stand-ins, and those plugged into other devices."""

import re
import threading
from collections.abc import Callable, Iterable, Mapping

from lepidos.devices.line_scale import LineScale
from lepidos.devices.pushed_scale import PushedScale
from lepidos.devices.scale import DeviceError, Scale

STAND_IN = "stand-in"
MAX_PUSHED = 12
FORGET_AFTER_S = 600.0  # a device that sent nothing for so long took its scale away
_NAMED = re.compile(r"\s*([^=:/]{1,40}?)\s*=\s*(\S+)\s*")
_OWN = re.compile(r"own-[0-9a-f]{8,32}")

UNNAMED = "Scale"  # what one is called that nobody named


def named_lines(text: str) -> dict[str, str]:
    """The lines of a setting, by name: "Ines=/dev/ttyUSB0, Tobias=socket://10.0.0.4:7878".

    One without a name is a scale called Scale, Scale 2 and so on. Raises ValueError for one twice.

    >>> named_lines("/dev/ttyUSB0")
    {'Scale': '/dev/ttyUSB0'}
    """
    found: dict[str, str] = {}
    for number, part in enumerate(filter(None, (p.strip() for p in text.split(","))), start=1):
        named = _NAMED.fullmatch(part)
        name = named[1] if named else UNNAMED if number == 1 else f"{UNNAMED} {number}"
        if name in found:
            raise ValueError(f"two are called {name}")
        found[name] = named[2] if named else part
    return found


class Scales:
    """Scales by name, in their order; the first is that of who names none."""

    def __init__(
        self,
        named: Mapping[str, Scale] | None = None,
        make: Callable[[], PushedScale] = PushedScale,
    ) -> None:
        self._named = dict(named or {})
        self._make = make
        self._pushed: dict[str, PushedScale] = {}
        self._lock = threading.Lock()

    @property
    def named(self) -> Mapping[str, Scale]:
        """Those that were attached when the app started."""
        return self._named

    def find(self, name: str) -> Scale | None:
        """A scale by its name, or by the key of the device that it is plugged into."""
        return self._named.get(name) or self._pushed.get(name)

    def take(self, own: str, lines: Iterable[str], wrote: int = 0) -> tuple[list[str], int]:
        """Lines of a scale that is plugged into a device, as `PushedScale.take`.

        `own` is the device's key for it, "own-" and hex digits. Raises DeviceError for another, or
        when there are too many.
        """
        if not _OWN.fullmatch(own):
            raise DeviceError("That is no key of a device's own scale.")
        with self._lock:
            for key in [k for k, s in self._pushed.items() if s.silent_s > FORGET_AFTER_S]:
                if key != own:
                    del self._pushed[key]
            if own not in self._pushed and len(self._pushed) >= MAX_PUSHED:
                raise DeviceError("Too many devices have a scale of their own already.")
            scale = self._pushed.setdefault(own, self._make())
        return scale.take(lines, wrote)

    def close(self) -> None:
        """Stop listening on lines."""
        for scale in self._named.values():
            if isinstance(scale, LineScale):
                scale.close()
