"""Which devices are stand-ins that ship with the app, and their own controls."""

from typing import Any

from lepidos.devices.freezer_logger import SimulatedLogger
from lepidos.devices.printer import SimulatedPrinter
from lepidos.devices.probe import SimulatedProbe
from lepidos.devices.scale import SimulatedScale


def simulated_scale(device: Any) -> SimulatedScale | None:
    """The stand-in's own controls; None of a real scale."""
    return device if isinstance(device, SimulatedScale) else None


def simulated_probe(device: Any) -> SimulatedProbe | None:
    """The stand-in's own controls; None of a real probe."""
    return device if isinstance(device, SimulatedProbe) else None


def simulated_logger(device: Any) -> SimulatedLogger | None:
    """The stand-in's own controls; None of a real logger."""
    return device if isinstance(device, SimulatedLogger) else None


def simulated_printer(device: Any) -> SimulatedPrinter | None:
    """The stand-in's own controls; None of a real printer."""
    return device if isinstance(device, SimulatedPrinter) else None
