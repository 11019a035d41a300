"""The text of a file that somebody hands in, however its letters are written."""

from lepidos.core.errors import BadInput

MAX_BYTES = 64 * 1024 * 1024


def text_of(data: bytes) -> str:
    """A file's text: UTF-8 or UTF-16 by its marks, else Windows' Western letters.

    Raises: BadInput for what is no text, or too much.
    """
    if len(data) > MAX_BYTES:
        raise BadInput(f"The file is over {MAX_BYTES // 1024 // 1024} MB; split it")
    for mark, name in (
        (b"\xef\xbb\xbf", "utf-8-sig"),
        (b"\xff\xfe", "utf-16"),
        (b"\xfe\xff", "utf-16"),
    ):
        if data.startswith(mark):
            return _decode(data, name)
    head = data[:2000]
    for half, name in ((head[1::2], "utf-16-le"), (head[::2], "utf-16-be")):
        if half.count(b"\0") > 0.8 * len(half):
            return _decode(data, name)
    if b"\0" in head:
        raise BadInput("This is no text; export it as CSV where it comes from")
    try:
        return data.decode()
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace")


def _decode(data: bytes, name: str) -> str:
    if name.startswith("utf-16") and len(data) % 2:
        data = data[:-1]  # it broke off in a letter
    try:
        return data.decode(name)
    except UnicodeDecodeError as error:
        raise BadInput("The file's letters cannot be read; save it as UTF-8") from error
