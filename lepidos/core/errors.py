"""The errors a person can do something about. Each keeps its parts as fields."""

import math
from collections.abc import Mapping


class LepidosError(Exception):
    """Base of every error that Lepidos raises on purpose."""


class OutOfRange(LepidosError, ValueError):
    """A number that cannot be. `name` is the argument; limits and value are in `unit`."""

    def __init__(self, name: str, value: float, low: float, high: float, unit: str) -> None:
        self.name, self.value, self.low, self.high, self.unit = name, value, low, high, unit
        tail = f" {unit}" if unit else ""
        super().__init__(f"{name} must be {low:g} to {high:g}{tail}, got {value:g}")


class BadInput(LepidosError, ValueError):
    """Text that could not be read as what was asked for."""


class Unknown(LepidosError, LookupError):
    """Something that was named and is not there.

    `suggestions` are near names; `warning` takes their place where the name is one to beware of.
    """

    def __init__(
        self, kind: str, key: str, suggestions: tuple[str, ...] = (), warning: str = ""
    ) -> None:
        self.kind, self.key, self.suggestions = kind, key, () if warning else suggestions
        near = f"; did you mean {', '.join(suggestions)}?" if suggestions else ""
        super().__init__(f"no {kind} called “{key[:60]}”" + (f". {warning}" if warning else near))


class CannotWorkOut(LepidosError, ValueError):
    """One fish of a trip for which nothing can be calculated; the others go on.

    `code` is the fish's, `reason` a phrase that goes on from "is set aside: ".
    """

    def __init__(self, fish_id: str, code: str, reason: str) -> None:
        self.fish_id, self.code, self.reason = fish_id, code, reason
        super().__init__(f"{code} is set aside: {reason}")


class Conflict(LepidosError, RuntimeError):
    """It was possible a moment ago, and something has happened since."""


class Refused(LepidosError, ValueError):
    """An order that cannot be carried out. `problems` maps a field to one plain sentence.

    The field "" is the order as a whole.
    """

    def __init__(self, problems: Mapping[str, str]) -> None:
        self.problems = dict(problems)
        super().__init__("; ".join(self.problems.values()))


def require(name: str, value: float, low: float, high: float, unit: str) -> float:
    """`value`, when it is a finite number in [low, high].

    Raises:
        OutOfRange: it is not, or it is not a number. Nothing is clamped.
    """
    if not math.isfinite(value) or not low <= value <= high:
        raise OutOfRange(name, value, low, high, unit)
    return value
