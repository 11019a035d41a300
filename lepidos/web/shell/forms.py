"""Forms as people fill them in: text to SI values, each slip with its sentence and its field."""

import math
from datetime import UTC, date, datetime, time
from typing import Annotated
from zoneinfo import ZoneInfo

from fastapi import Depends, Request
from starlette.datastructures import UploadFile

from lepidos.core.errors import BadInput, Refused
from lepidos.core.units import System, parse_length_m, parse_mass_kg, parse_temperature_c
from lepidos.stations.base.fish import EARLIEST, LATEST, MAX_WAIT

MAX_LENGTH = 200
POUNDS = frozenset({"US", "LR", "MM"})  # regions whose fish are weighed in pounds (memory)
MAX_FIELDS = 600
MAX_WAIT_MS = int(MAX_WAIT.total_seconds() * 1000)


class FormData:
    """Field values of one request. Reading collects problems; `done` raises them together."""

    def __init__(
        self, values: dict[str, list[str]], files: dict[str, bytes], system: System
    ) -> None:
        self.values = values
        self.files = files
        self.system = system
        self.problems: dict[str, str] = {}
        self.file_names: dict[str, str] = {}

    def text(self, name: str, longest: int = MAX_LENGTH) -> str:
        """The field as text, "" when missing."""
        value = self.values.get(name, [""])[0].strip()
        if len(value) > longest:
            self.problems[name] = f"That is too long; keep it under {longest} characters"
            return ""
        return value

    def all(self, name: str) -> tuple[str, ...]:
        """Every value of a repeated field."""
        values = self.values.get(name, [])
        if any(len(v) > MAX_LENGTH for v in values):
            self.problems[name] = f"That is too long; keep it under {MAX_LENGTH} characters"
            return ()
        return tuple(values)

    def flag(self, name: str) -> bool:
        """A ticked box."""
        return name in self.values

    def mass_kg(self, name: str) -> float | None:
        """A mass, or None when the field is empty."""
        text = self.text(name)
        if not text:
            return None
        try:
            return parse_mass_kg(text, self.system)
        except BadInput as error:
            self.problems[name] = str(error)
            return None

    def temperature_c(self, name: str) -> float | None:
        """A temperature, or None when the field is empty."""
        text = self.text(name)
        if not text:
            return None
        try:
            return parse_temperature_c(text, self.system)
        except BadInput as error:
            self.problems[name] = str(error)
            return None

    def waited_s(self) -> float:
        """How long the page kept an entry before it could reach us [s]."""
        text = self.text("waited_ms")
        if not (text.isascii() and text.isdecimal()):
            if text:
                self.problems["waited_ms"] = "A whole number of milliseconds"
            return 0.0
        # a phone whose own clock jumped says anything: its entry counts all the same
        return min(MAX_WAIT_MS, int(text[: len(str(MAX_WAIT_MS)) + 1])) / 1000

    def number(self, name: str) -> float | None:
        """A plain number, or None when the field is empty."""
        text = self.text(name)
        if not text:
            return None
        try:
            found = float(text.replace(",", "."))
        except ValueError:
            found = math.nan
        if not math.isfinite(found):
            self.problems[name] = f"“{text[:40]}” is not a number"
            return None
        return found

    def length_m(self, name: str, needed: bool = True) -> float:
        """A length; 0 when empty or wrong."""
        text = self.text(name)
        if not text and not needed and name not in self.problems:
            return 0.0
        try:
            if name not in self.problems:
                return parse_length_m(text, self.system)
        except BadInput as error:
            self.problems[name] = str(error)
        return 0.0

    def whole(self, name: str, default: int, low: int, high: int) -> int:
        """A whole number."""
        text = self.text(name)
        if not text:
            return default
        if (
            not (text.isascii() and text.isdecimal())
            or len(text) > 9
            or not low <= int(text) <= high
        ):
            self.problems[name] = f"A whole number from {low} to {high}"
            return default
        return int(text)

    def day(self, name: str) -> date:
        """A date as the browser's date field sends it."""
        text = self.text(name)
        try:
            return date.fromisoformat(text)
        except ValueError:
            self.problems[name] = "Give a date"
            return date(2000, 1, 1)

    def moment(self, name: str, zone: ZoneInfo) -> datetime | None:
        """A local date and time, or None when empty."""
        text = self.text(name)
        if not text:
            return None
        try:
            found = datetime.fromisoformat(text).replace(tzinfo=zone)
        except ValueError:
            self.problems[name] = "Give a date and a time"
            return None
        return self._there(name, found)

    def time_of_day(self, name: str, day: date, zone: ZoneInfo) -> datetime | None:
        """A time of a day, or None when empty."""
        text = self.text(name)
        if not text:
            return None
        try:
            found = datetime.combine(day, time.fromisoformat(text).replace(tzinfo=None), zone)
        except ValueError:
            self.problems[name] = "Give a time, as in 13:50"
            return None
        return self._there(name, found)

    def _there(self, name: str, moment: datetime) -> datetime | None:
        """A local moment, when the calendar has it."""
        if not EARLIEST.year <= moment.year < LATEST.year:
            self.problems[name] = "Check the date: it is out of reach"
            return None
        if moment.astimezone(UTC).astimezone(moment.tzinfo).replace(fold=0) != moment:
            self.problems[name] = "The clocks go forward then: there is no such time"
            return None
        return moment

    def done(self) -> None:
        """Raises Refused when any field read so far was wrong."""
        if self.problems:
            raise Refused(self.problems)


def system_of(request: Request) -> System:
    """The crew's units: as the device chose them, else as the browser's own language has them."""
    chosen = request.cookies.get("units", "")
    if chosen in {"metric", "imperial"}:
        return "imperial" if chosen == "imperial" else "metric"
    first = request.headers.get("accept-language", "").split(",")[0].split(";")[0].strip()
    region = first.rpartition("-")[2].upper()
    return "imperial" if region in POUNDS else "metric"


def _system_of_page(values: dict[str, list[str]], otherwise: System) -> System:
    """The units in which a form was filled in: since then they may have been switched."""
    said = values.get("units", [""])[0]
    return "imperial" if said == "imperial" else "metric" if said == "metric" else otherwise


async def read_form(request: Request) -> FormData:
    """The request's form, kept on its state so that an error page can show it again."""
    values: dict[str, list[str]] = {}
    files: dict[str, bytes] = {}
    names: dict[str, str] = {}
    async with request.form(max_fields=MAX_FIELDS, max_files=2) as form:
        for name, value in form.multi_items():
            if isinstance(value, UploadFile):
                files[name] = await value.read()
                names[name] = value.filename or ""
            else:
                values.setdefault(name, []).append(value)
    data = FormData(values, files, _system_of_page(values, system_of(request)))
    data.file_names = names
    request.state.form = data
    return data


Form = Annotated[FormData, Depends(read_form)]
