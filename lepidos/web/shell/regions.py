"""The parts of a page that follow the day: an open page asks for those that changed, and no more.

A region is an element with an id and `data-live`. The page sends the marks that its regions had
when it last asked; what it gets back is the new text of those that differ.
"""

import hashlib
import re

from fastapi import Request
from fastapi.responses import JSONResponse
from selectolax.lexbor import LexborHTMLParser

ASKED = "x-lepidos-live"  # the header an open page asks with: "id:mark id:mark …", or empty
_KEY = re.compile(r'(name="key" value=")[^"]*')


def wants_regions(request: Request) -> bool:
    """Whether an open page asks, and not a reader."""
    return ASKED in request.headers


def changed_regions(request: Request, html: str, mark: str) -> JSONResponse:
    """The regions of a rendered page that are not as the asking page has them."""
    known = dict(part.split(":", 1) for part in request.headers[ASKED].split() if ":" in part)
    regions, marks = {}, {}
    for node in LexborHTMLParser(html).css("[data-live][id]"):
        name, text = str(node.attributes["id"]), str(node.html)
        # every form gets a fresh key each time, which changes nothing
        marks[name] = hashlib.sha256(_KEY.sub(r"\1", text).encode()).hexdigest()[:10]
        if known.get(name) != marks[name]:
            regions[name] = text
    return JSONResponse({"mark": mark, "marks": marks, "regions": regions})
