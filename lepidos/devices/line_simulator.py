"""A scale on a TCP line, simulated: what a real one would send, and lines that drive it.

The stand-in's own orders, one JSON object a line: {"load": 0.58}, {"cat": true}, {"drift": 2},
{"unit": "lb"}, {"fault": "battery"}, {"fault": ""}; and {"do": "zero"} as to any scale.
"""

import json
import socketserver
import threading
import time
from random import Random

from lepidos.core.errors import LepidosError
from lepidos.devices.heard_scale import UNITS_KG
from lepidos.devices.indicator import CAPACITY_KG
from lepidos.devices.scale import PER_SECOND, SimulatedScale


class LineSimulator(socketserver.ThreadingTCPServer):
    """Serves readings to everyone who connects. `start` runs it in a thread, `stop` ends it."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, port: int = 0, per_second: float = PER_SECOND, seed: int = 1) -> None:
        super().__init__(("127.0.0.1", port), _Line)
        self.scale = SimulatedScale(time.monotonic, Random(seed))  # noqa: S311 - noise
        self.per_second = per_second
        self.unit = "g"
        self.fault = ""
        self.zero_kg = 0.0
        self.ending = threading.Event()

    @property
    def port(self) -> int:
        """Where it listens."""
        return int(self.server_address[1])

    def start(self) -> None:
        """Serve in a thread."""
        threading.Thread(target=self.serve_forever, daemon=True).start()

    def stop(self) -> None:
        """Hang up on everyone."""
        self.ending.set()
        self.shutdown()
        self.server_close()

    def line(self) -> bytes:
        """What the scale says now."""
        kg = self.scale.gross() - self.zero_kg
        if self.fault:
            said: dict[str, object] = {"fault": self.fault}
        elif kg > CAPACITY_KG:
            said = {"fault": "overload"}
        else:
            said = {"gross": round(kg / UNITS_KG[self.unit], 4), "unit": self.unit}
        return json.dumps(said).encode() + b"\n"

    def obey(self, text: bytes) -> None:
        """An order from the line; what is none is left."""
        try:
            said = json.loads(text)
            if "load" in said:
                self.scale.put_on(float(said["load"]))
            if "cat" in said:
                self.scale.cat(bool(said["cat"]))
            if "drift" in said:
                self.scale.drift(float(said["drift"]))
            if said.get("unit") in UNITS_KG:
                self.unit = said["unit"]
            if "fault" in said:
                self.fault = str(said["fault"])
            if said.get("do") == "zero":
                self.zero_kg = self.scale.gross()
        except (ValueError, TypeError, LepidosError):
            return


class _Line(socketserver.StreamRequestHandler):
    server: LineSimulator

    def handle(self) -> None:
        """Say readings until the other side goes; listen beside it."""
        threading.Thread(target=self._listen, daemon=True).start()
        try:
            while not self.server.ending.is_set():
                self.wfile.write(self.server.line())
                self.server.ending.wait(1 / self.server.per_second)
        except OSError:
            return

    def _listen(self) -> None:
        try:
            for text in self.rfile:
                self.server.obey(text)
        except OSError:
            return
