"""Tells the simulated devices that ship with the app from real ones."""

from typing import Any

from lepidos.devices.freezer_logger import SimulatedLogger
from lepidos.devices.printer import SimulatedPrinter
from lepidos.devices.probe import SimulatedProbe
from lepidos.devices.scale import SimulatedScale


def simulated_scale(device: Any) -> SimulatedScale | None:
    """The controls of a simulated scale; None for a real one."""
    return device if isinstance(device, SimulatedScale) else None


def simulated_probe(device: Any) -> SimulatedProbe | None:
    """The controls of a simulated probe; None for a real one."""
    return device if isinstance(device, SimulatedProbe) else None


def simulated_logger(device: Any) -> SimulatedLogger | None:
    """The controls of a simulated logger; None for a real one."""
    return device if isinstance(device, SimulatedLogger) else None


def simulated_printer(device: Any) -> SimulatedPrinter | None:
    """The controls of a simulated printer; None for a real one."""
    return device if isinstance(device, SimulatedPrinter) else None
