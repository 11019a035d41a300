"""How values are written on a page: measures in the crew's units, times in its zone."""

from collections.abc import Callable
from datetime import date, datetime
from zoneinfo import ZoneInfo

from markupsafe import Markup, escape

from lepidos.core.units import (
    System,
    format_coarse,
    format_length,
    format_mass,
    format_range,
    format_temperature,
)


def _weight(mass: str, estimated: bool) -> Markup:
    """A weight, marked as measured or as an estimate."""
    kind = "est" if estimated else "measured"
    return Markup(f'<span class="{kind}">{escape(mass)}</span>')  # noqa: S704


def _length(length: str, about: bool) -> str:
    """A length, with ≈ where nobody measured the fish."""
    return Markup('<span class="est">{}</span>').format(length) if about else length


def measures(system: System) -> dict[str, Callable[..., str]]:
    """How masses, lengths and temperatures are written in these units."""
    return {
        "mass": lambda kg: format_mass(kg, system),
        "weight": lambda w: _weight(format_mass(w.kg, system), bool(w.estimate)),
        "coarse": lambda kg: format_coarse(kg, system),
        "mass_range": lambda low, high: format_range(low, high, system),
        "degrees": lambda c: format_temperature(c, system),
        "length": lambda m, places=1: format_length(m, system, places),
        "length_of": lambda now, places=1: _length(
            format_length(now.length_m, system, places), now.length_about
        ),
    }


def more_minutes(minutes: float) -> str:
    """How much longer another way takes."""
    shown = f"{minutes:+.1f} min".replace("-", "−")
    return "same time" if shown[1:] == "0.0 min" else shown


def capitalised(text: str) -> str:
    """With a capital first letter, the rest as it is."""
    return text[:1].upper() + text[1:]


def clock(at: datetime, zone: ZoneInfo) -> str:
    """A time of this day."""
    return f"{at.astimezone(zone):%H:%M}"


def when(at: datetime, now: datetime, zone: ZoneInfo) -> str:
    """A time that may be of another day."""
    there, here = at.astimezone(zone), now.astimezone(zone)
    return f"{there:%H:%M}" if there.date() == here.date() else f"{there:%a %H:%M}"


def day(value: date | datetime, zone: ZoneInfo) -> str:
    """A date with its weekday."""
    if isinstance(value, datetime):
        value = value.astimezone(zone).date()
    return f"{value:%a} {value.day} {value:%b %Y}"
