"""QR codes: made for labels, and read back from a photo."""

import io

import segno
import zxingcpp
from PIL import Image, UnidentifiedImageError

from lepidos.core.errors import BadInput

# A photo of more pixels than this is a decompression bomb and no label.
MOST_PIXELS = 50_000_000
LONGEST_EDGE = 2000


def matrix(text: str) -> list[list[bool]]:
    """Rows of dark and light modules, error correction M, without the quiet zone."""
    return [[bool(cell) for cell in row] for row in segno.make(text, error="m", micro=False).matrix]


def read_photo(data: bytes) -> str:
    """The text of the first QR code in a photo. Raises BadInput."""
    try:
        with Image.open(io.BytesIO(data)) as photo:
            if photo.width * photo.height > MOST_PIXELS:
                raise BadInput("That picture is too large; take it again at a lower resolution")
            photo.thumbnail((LONGEST_EDGE, LONGEST_EDGE))
            grey = photo.convert("L")
    except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError) as error:
        if isinstance(error, BadInput):
            raise
        raise BadInput("That file is not a picture") from error
    found = zxingcpp.read_barcodes(grey, formats=zxingcpp.BarcodeFormat.QRCode)
    if not found:
        raise BadInput("No QR code to be seen in that picture; hold the label flat and close")
    return str(found[0].text)
