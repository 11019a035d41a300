"""What every page says of itself, and the round through the demo."""

import tomllib
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple

from fastapi import Request

FOLDER = Path(__file__).parents[1]
ROUND_COOKIE = "round"


class Stop(NamedTuple):
    """A station on the round, its number from 1, and what is said there."""

    number: int
    station: str
    say: str


def _read(name: str) -> dict[str, Any]:
    return tomllib.loads((FOLDER / name).read_text("utf-8"))


@cache
def help_texts() -> dict[str, list[str]]:
    """A few sentences for each page, by its template's name without its ending."""
    return _read("help.toml")


@cache
def stops() -> tuple[Stop, ...]:
    """The round's stops, in order."""
    return tuple(Stop(n, **one) for n, one in enumerate(_read("round.toml")["stops"], 1))


def stop_of(request: Request) -> Stop | None:
    """Where a device is on the round; None when it is not, and outside the demo."""
    number = request.cookies.get(ROUND_COOKIE, "")
    if not request.app.state.settings.demo:
        return None
    return next((stop for stop in stops() if str(stop.number) == number), None)
