"""The app's own styles and scripts: where each is found, and packed once as small as it goes.

Answers that differ from page to page are packed lightly (see `app`); these are always the same, and
a phone on a quay's network waits for every kilobyte of them.
"""

import gzip
import hashlib
from functools import cache, lru_cache
from pathlib import Path

from starlette.datastructures import Headers
from starlette.responses import FileResponse, Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

STATIC = Path(__file__).parents[1] / "static"
PACKED = (".css", ".js", ".svg")


@cache
def static_url(name: str) -> str:
    """Address of a shipped file with a hash of its content, so that it can be kept for good."""
    digest = hashlib.sha256((STATIC / name).read_bytes()).hexdigest()[:10]
    return f"/static/{name}?v={digest}"


def font_url(name: str) -> str:
    """Address of a font, just as the style sheet asks for it, so that it is fetched once."""
    return f"/static/vendor/fonts/{name}-normal.woff2"


@cache
def scripts_path() -> str:
    """Where the scripts are served: a path with a hash of them all.

    One script imports another by its bare file name; the hash in the path then goes with it.
    """
    digest = hashlib.sha256()
    for path in sorted((STATIC / "js").glob("*.js")):
        digest.update(path.name.encode() + path.read_bytes())
    return f"/static/js-{digest.hexdigest()[:10]}"


def script_url(name: str) -> str:
    """Address of one of the app's own scripts."""
    return f"{scripts_path()}/{name}"


@lru_cache(maxsize=200)
def _packed(path: str, _changed_ns: int) -> bytes:
    return gzip.compress(Path(path).read_bytes(), 9)


class PackedFiles(StaticFiles):
    """Files of a folder; text ones gzipped for a browser that takes that."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """The file at a path; 404 is raised by the base class."""
        found = await super().get_response(path, scope)
        takes = "gzip" in Headers(scope=scope).get("accept-encoding", "")
        if not takes or not isinstance(found, FileResponse) or not path.endswith(PACKED):
            return found
        file = Path(found.path)
        body = _packed(str(file), file.stat().st_mtime_ns)
        packed = Response(body, found.status_code, media_type=found.media_type)
        for name in ("etag", "last-modified"):
            packed.headers[name] = found.headers[name]
        packed.headers["content-encoding"] = "gzip"
        packed.headers["vary"] = "Accept-Encoding"
        return packed
