"""The open licences of all that comes with the app, with their texts."""

import importlib.metadata
import re
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import PlainTextResponse, Response

from lepidos.core.errors import Unknown
from lepidos.web.shell.current import current_view
from lepidos.web.shell.render import page
from lepidos.web.shell.static_files import STATIC

router = APIRouter(include_in_schema=False)

VENDOR = STATIC / "vendor"
LABEL_FONTS = Path(__file__).parents[2] / "exchange/fonts"
_ROW = re.compile(r"\| ([\w-]+) \| (\S+) \| (\d\S*) \| (\S+) \|")
_TEXT = re.compile(r"(^|/)(LICEN[CS]E|COPYING|NOTICE)[^/]*$", re.IGNORECASE)
_MAX_NAME_LENGTH = 60  # some packages put the whole text where its name belongs


@dataclass(frozen=True)
class Licensed:
    """A package, its version, the licence by name, and the files with its text."""

    name: str
    version: str
    licence: str
    texts: tuple[Path, ...]


@router.get("/licences")
def list_licences(request: Request) -> Response:
    """Every package, with what it is used under."""
    parts = {"In the browser": shipped(), "On this machine": installed()}
    return page(
        request, "health/licences.html", current_view(request), here="licences", parts_used=parts
    )


@router.get("/licences/{name:path}")
def show_licence(name: str) -> PlainTextResponse:
    """The texts of one package's licence. Raises Unknown."""
    one = {p.name: p for p in (*shipped(), *installed())}.get(name)
    if one is None or not one.texts:
        raise Unknown("licence", name[:60])
    texts = [path.read_text("utf-8", errors="replace") for path in one.texts]
    return PlainTextResponse("\n\n".join(texts))


@cache
def shipped() -> tuple[Licensed, ...]:
    """Styles, scripts and fonts that are part of the app, after the list beside them."""
    rows = _ROW.findall((VENDOR / "VENDORED.md").read_text("utf-8"))
    found = [
        Licensed(package, version, licence, _texts_of(folder, package))
        for folder, package, version, licence in rows
    ]
    fonts = tuple(LABEL_FONTS.glob("LICENSE-dejavu*.txt"))
    return (*found, Licensed("dejavu-sans", "2.37", "Bitstream Vera and Arev", fonts))


def _texts_of(folder: str, package: str) -> tuple[Path, ...]:
    texts = sorted(p for p in (VENDOR / folder).iterdir() if _TEXT.search(p.name))
    if folder == "fonts":  # one folder for two packages
        texts = [p for p in texts if package.rsplit("/", 1)[1] in p.name]
    return tuple(texts)


@cache
def installed() -> tuple[Licensed, ...]:
    """The Python packages that the app runs with. Empty when it was not installed as a package."""
    try:
        needed = importlib.metadata.requires("lepidos") or []
    except importlib.metadata.PackageNotFoundError:
        return ()
    names = sorted({re.split(r"[^\w.-]", line)[0] for line in needed if "extra ==" not in line})
    return tuple(one for name in names if (one := _package(name)))


def _package(name: str) -> Licensed | None:
    try:
        found = importlib.metadata.distribution(name)
    except importlib.metadata.PackageNotFoundError:  # of another platform
        return None
    about = found.metadata
    classes = [c for c in about.get_all("Classifier") or [] if c.startswith("License")]
    said = next((about[n] for n in ("License-Expression", "License") if about[n]), "")
    if not said or len(said) > _MAX_NAME_LENGTH:
        said = classes[0].rsplit(" :: ", 1)[1] if classes else "see its text"
    texts = [f for f in found.files or [] if _TEXT.search(str(f)) and not str(f).endswith(".py")]
    return Licensed(name, found.version, said, tuple(Path(str(f.locate())) for f in texts))
