"""Days and moments as an iCalendar feed (RFC 5545), for whatever calendar a household keeps."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, date, datetime

from icalendar import Calendar, Event


@dataclass(frozen=True)
class CalendarEntry:
    """Something on a day, or at a moment with its zone. `uid` stays the same from feed to feed."""

    uid: str
    at: date | datetime
    title: str
    text: str = ""


def write_calendar(name: str, entries: Iterable[CalendarEntry], now: datetime) -> bytes:
    """A calendar of entries, written at `now`."""
    calendar = Calendar()
    calendar.add("prodid", "-//Lepidos//Freezer//EN")
    calendar.add("version", "2.0")
    calendar.add("name", name)
    for entry in entries:
        event = Event()
        event.add("uid", f"{entry.uid}@lepidos")
        event.add("dtstamp", now.astimezone(UTC))
        at = entry.at.astimezone(UTC) if isinstance(entry.at, datetime) else entry.at
        event.add("dtstart", at)
        event.add("summary", entry.title)
        if entry.text:
            event.add("description", entry.text)
        event.add("transp", "TRANSPARENT")
        calendar.add_component(event)
    written: bytes = calendar.to_ical()
    return written
