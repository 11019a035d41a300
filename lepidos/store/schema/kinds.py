"""What a column may hold, beside what SQLite asks of it: lengths, ranges, the words that are meant.

An entry is held to its own limits at the door, which are narrower. These are for rows that come
from elsewhere, in a bundle or a restored file, see `store.row_checks`.
"""

import json
import re
import unicodedata
from collections.abc import Callable
from datetime import UTC, date, datetime
from functools import cache
from typing import Annotated, Any

from pydantic import AfterValidator, BeforeValidator, Field, StringConstraints, TypeAdapter
from ulid import ULID

from lepidos.core.fish.lengths import LENGTHS
from lepidos.core.limits import (
    MAX_BOX_W_PER_K,
    MAX_FISH_KG,
    MAX_FISH_M,
    MAX_PIECE_KG,
    MIN_BOX_W_PER_K,
)
from lepidos.core.pack.costs import MAX_COINS

# Logs of loggers go back further than Lepidos does; fish that keep for ten years do not.
FIRST, LAST = datetime(2000, 1, 1, tzinfo=UTC), datetime(2100, 1, 1, tzinfo=UTC)
_IN_TEXT = {"\n", "\r", "\t"}


def _of_our_time(key: str) -> str:
    """A key that tells a time tells one of this century: later ones could follow on no other."""
    try:
        milliseconds = ULID.from_str(key).milliseconds
    except ValueError:
        return key  # written by hand
    if not FIRST.timestamp() * 1000 <= milliseconds < LAST.timestamp() * 1000:
        raise ValueError("it was not made in this century")
    return key


def _plain(text: str) -> str:
    """Letters and line ends: nothing else that controls, no half letter (surrogate)."""
    for sign in text:
        if sign not in _IN_TEXT and unicodedata.category(sign) in {"Cc", "Cs", "Cn"}:
            raise ValueError(f"it has a sign that is no letter (U+{ord(sign):04X})")
    return text


def _day_of_a_year(text: str) -> str:
    """Month and day as in "06-15", or nothing; 29 February may end a season."""
    if text and not re.fullmatch(r"\d\d-\d\d", text, re.ASCII):
        raise ValueError("it is no month and day")
    if text:
        date.fromisoformat(f"2024-{text}")
    return text


def _of_json(shape: Any, empty: bool = False) -> Callable[[str], str]:
    @cache
    def adapter() -> TypeAdapter[Any]:
        return TypeAdapter(shape)

    def check(text: str) -> str:
        if text or not empty:
            try:
                found = json.loads(text)
            except (ValueError, RecursionError) as error:  # too many digits, or brackets
                raise ValueError("it is no JSON") from error
            adapter().validate_python(found, strict=True)
        return text

    return check


def _written(pattern: str, what: str) -> Any:
    """As we write a moment or a day, and no other way: by this text they are sorted."""

    def check(text: object) -> object:
        if not isinstance(text, str) or not re.fullmatch(pattern, text, re.ASCII):
            raise ValueError(f"it is no {what} as Lepidos writes it")
        return text

    return BeforeValidator(check)


_day = _written(r"\d{4}-\d\d-\d\d", "day")
_moment = _written(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z", "time")


def _whole_number(value: object) -> object:
    """SQLite knows no yes and no, only 1 and 0."""
    if isinstance(value, bool) or value in (0, 1):
        return value
    raise ValueError("it is neither 0 nor 1")


def _one_of(*words: str) -> Any:
    def check(text: str) -> str:
        if text not in words:
            raise ValueError(f"it is none of {', '.join(word or 'nothing' for word in words)}")
        return text

    return AfterValidator(check)


def _upto(longest: int) -> StringConstraints:
    return StringConstraints(max_length=longest)


def _like(pattern: str) -> StringConstraints:
    return StringConstraints(pattern=pattern)


Key = Annotated[str, _like(r"^[A-Za-z0-9_-]{1,64}$"), AfterValidator(_of_our_time)]
KeyOrNone = Annotated[str, _like(r"^[A-Za-z0-9_-]{0,64}$")]
Name = Annotated[str, _upto(200), AfterValidator(_plain)]
Text = Annotated[str, _upto(8000), AfterValidator(_plain)]
Page = Annotated[str, _upto(60_000), AfterValidator(_plain)]
Word = Annotated[str, _upto(120), _like(r"^[\w.:,+/~ -]*$")]
Words = Annotated[str, _upto(4000), _like(r"^[\w.:,+/~ -]*$")]
Hex = Annotated[str, _like(r"^[0-9a-f]{0,64}$")]
MonthDay = Annotated[str, AfterValidator(_day_of_a_year)]

Side = Annotated[str, _one_of("", "A", "B")]
Skin = Annotated[str, _one_of("", "on", "off")]
LengthName = Annotated[str, _one_of("", *LENGTHS)]
Quantity = Annotated[str, _one_of("length", "whole", "gutted", "headed", "shared")]
FactKind = Annotated[str, _one_of("state", "step", "board", "answer", "work", "lot")]
Action = Annotated[str, _one_of("in", "out")]
YesNo = Annotated[str, _one_of("", "no", "yes")]

Flag = Annotated[bool, BeforeValidator(_whole_number)]
Count = Annotated[int, Field(ge=0, le=1_000_000)]
Few = Annotated[int, Field(ge=0, le=1000)]
Points = Annotated[int, Field(ge=0, le=10)]
Coins = Annotated[int, Field(ge=0, le=MAX_COINS)]
Readings = Annotated[int, Field(ge=0, le=100_000_000)]
DayNumber = Annotated[int, Field(ge=10_957, lt=47_482)]  # days since 1970, of this century
Revision = Annotated[int, Field(ge=0, le=1_000_000)]
People = Annotated[int, Field(ge=1, le=60)]
PerBag = Annotated[int, Field(ge=1, le=100)]
PerTrial = Annotated[int, Field(ge=1, le=1000)]
Servings = Annotated[float, Field(ge=0, le=1000)]  # part of one: a bag that feeds nobody
ServingKg = Annotated[float, Field(ge=0.001, le=MAX_PIECE_KG)]
BagSide = Annotated[float, Field(ge=0, le=2)]  # 0: nobody said
Share = Annotated[float, Field(ge=0, le=1.001)]
PieceKg = Annotated[float, Field(ge=0, le=MAX_PIECE_KG)]
FishKg = Annotated[float, Field(ge=0, le=MAX_FISH_KG)]
Metres = Annotated[float, Field(ge=0, le=MAX_FISH_M)]
Celsius = Annotated[float, Field(ge=-100, le=100)]
Place = Annotated[float, Field(ge=-2, le=3)]
WattsPerKelvin = Annotated[float, Field(ge=MIN_BOX_W_PER_K, le=MAX_BOX_W_PER_K)]
Amount = Annotated[float, Field(ge=0, le=1_000_000)]

Moment = Annotated[datetime, _moment, Field(ge=FIRST, lt=LAST)]
Date = Annotated[date, _day, Field(ge=FIRST.date(), lt=date(2200, 1, 1))]

_MARK = Annotated[float, Field(ge=0, le=MAX_FISH_M)]
_CODE = Annotated[str, _like(r"^[0-9A-Z]{1,12}$")]
_PIECE = Annotated[float, Field(ge=0, le=MAX_PIECE_KG * 1000)]
_PART = Annotated[int, Field(ge=0, le=1000)]
Marks = Annotated[str, _upto(8000), AfterValidator(_of_json(list[_MARK]))]
MarksOrNone = Annotated[str, _upto(8000), AfterValidator(_of_json(list[_MARK], empty=True))]
Codes = Annotated[str, _upto(100_000), AfterValidator(_of_json(list[_CODE]))]
Shares = Annotated[str, _upto(8000), AfterValidator(_of_json(dict[Key, _PART]))]
Pairs = Annotated[str, _upto(8000), AfterValidator(_of_json(dict[Word, Word]))]
Weights = Annotated[str, _upto(60_000), AfterValidator(_of_json(dict[Key, _PIECE]))]
Stage = Annotated[str, _one_of("slab", "table", "done", "withdrawn")]
BagState = Annotated[str, _one_of("sealed", "in", "out", "withdrawn")]
Numbers = Annotated[bytes, Field(max_length=4 * 86_400)]  # a day of a logger at one second
