"""The core probe: a port, and a stand-in that ships with the app."""

from typing import Protocol

from lepidos.core.errors import require
from lepidos.devices.scale import DeviceError


class Probe(Protocol):
    """A thermometer pushed into the thickest part of a fish."""

    def read_c(self) -> float:
        """What it shows now [°C], however odd. Raises DeviceError when it does not answer."""
        ...


class SimulatedProbe:
    """The stand-in: shows what its panel was set to, or nothing when its cable is out."""

    def __init__(self) -> None:
        self.celsius = 4.0
        self.plugged = False

    def set_to(self, celsius: float) -> None:
        """Put it in something of a temperature, −60 to 150 °C. Raises OutOfRange."""
        self.celsius = require("temperature at the tip", celsius, -60, 150, "°C")
        self.plugged = True

    def read_c(self) -> float:
        if not self.plugged:
            raise DeviceError("The probe does not answer. Is it switched on?")
        return round(self.celsius, 1)
