"""QR codes: made for labels, and read back from a photo."""

import io
import threading
import warnings

import segno
import zxingcpp
from PIL import Image, UnidentifiedImageError

from lepidos.core.errors import BadInput

# A picture of more pixels than this is a decompression bomb and no photo of a label. A JPEG is read
# at a fraction of its size, other kinds whole.
MAX_PIXELS = {"JPEG": 120_000_000, "PNG": 25_000_000, "WEBP": 25_000_000}
MAX_EDGE = 2000
_ONE_AT_A_TIME = threading.Lock()  # six large pictures at once would take a small machine's memory


def matrix(text: str) -> list[list[bool]]:
    """Rows of dark and light modules, error correction M, without the quiet zone."""
    return [[bool(cell) for cell in row] for row in segno.make(text, error="m", micro=False).matrix]


def read_photo(data: bytes) -> str:
    """The text of the first QR code in a photo: JPEG, PNG or WebP. Raises BadInput."""
    with _ONE_AT_A_TIME:
        grey = _grey(data)
    found = zxingcpp.read_barcodes(grey, formats=zxingcpp.BarcodeFormat.QRCode)
    if not found:
        raise BadInput("No QR code to be seen in that picture; hold the label flat and close")
    return str(found[0].text)


def _grey(data: bytes) -> Image.Image:
    try:
        with warnings.catch_warnings():
            # our own limit holds, and says so
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=tuple(MAX_PIXELS)) as photo:
                if photo.width * photo.height > MAX_PIXELS[photo.format or "PNG"]:
                    raise BadInput("That picture is too large; take it again at a lower resolution")
                photo.draft("L", (MAX_EDGE, MAX_EDGE))
                photo.thumbnail((MAX_EDGE, MAX_EDGE))
                return photo.convert("L")
    except BadInput:
        raise
    except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError) as error:
        raise BadInput("That file is not a picture in JPEG, PNG or WebP") from error
