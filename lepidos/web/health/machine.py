"""What of the machine itself the app needs besides its file: fonts, a browser, a certificate."""

import webbrowser
from datetime import timedelta
from pathlib import Path

from cryptography import x509
from fontTools.ttLib import TTFont, TTLibError

from lepidos.settings import Settings
from lepidos.stations.health.checks import Check
from lepidos.web.shell.certificates import MACHINE, machine_now
from lepidos.web.shell.static_files import STATIC

FACES = STATIC / "vendor/fonts"
LABEL_FACES = Path(__file__).parents[2] / "exchange/fonts"
_WANTED = (3, 4)  # faces of the pages, and of labels
_SOON = timedelta(days=7)  # the app renews it thirty days before its end


def check_machine(settings: Settings) -> list[Check]:
    """Fonts, browser and, where the app is shared, its certificate."""
    found = [_fonts(), _browser()]
    return [*found, _certificate(settings)] if settings.share else found


def _fonts() -> Check:
    faces = [sorted(FACES.glob("*.woff2")), sorted(LABEL_FACES.glob("*.ttf"))]
    if tuple(map(len, faces)) != _WANTED:
        return Check("Fonts", False, "Some are missing from the app. Install it again.")
    try:
        for path in faces[1]:
            with TTFont(path, lazy=True) as font:
                font["cmap"]
        for path in faces[0]:
            if path.read_bytes()[:4] != b"wOF2":
                raise TTLibError(path.name)
    except (OSError, TTLibError, KeyError) as error:
        return Check("Fonts", False, f"One cannot be read: {error}. Install the app again.")
    return Check("Fonts", True, "Those of the pages and of the labels are there.")


def _browser() -> Check:
    try:
        name = getattr(webbrowser.get(), "name", "") or "a browser"
    except webbrowser.Error:
        said = "None was found on this machine: open the app from a phone or a tablet."
        return Check("Browser", True, said)
    return Check("Browser", True, f"This machine opens pages with {Path(str(name)).name}.")


def _certificate(settings: Settings) -> Check:
    path = settings.data_dir / "tls" / MACHINE
    try:
        end = x509.load_pem_x509_certificate(path.read_bytes()).not_valid_after_utc
    except FileNotFoundError:
        return Check("Certificate", True, "None yet; it is made at the first start.")
    except (OSError, ValueError) as error:
        said = f"It cannot be read: {error}. Stop the app, delete {path}, and start it again."
        return Check("Certificate", False, said)
    said = f"Good until {end:%Y-%m-%d}; it is renewed by itself."
    if end - machine_now() < _SOON:
        return Check("Certificate", False, f"It ends on {end:%Y-%m-%d}: restart the app.")
    return Check("Certificate", True, said)
