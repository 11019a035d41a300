"""The code on a label."""

from markupsafe import Markup

from lepidos.exchange import qr, svg


def label_qr(text: str) -> Markup:
    """A label's QR code with its quiet zone."""
    rows = qr.matrix(text)
    size = len(rows) + 8
    return Markup(  # noqa: S704 - made of numbers only
        f'<svg viewBox="-4 -4 {size} {size}" role="img" aria-label="QR code">'
        f'<path d="{svg.qr_path(rows)}"/></svg>'
    )
