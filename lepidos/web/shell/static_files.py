"""The app's own styles and scripts, each packed once as small as it goes.

Answers that differ from page to page are packed lightly (see `app`); these are always the same, and
a phone on a quay's network waits for every kilobyte of them.
"""

import gzip
from functools import lru_cache
from pathlib import Path

from starlette.datastructures import Headers
from starlette.responses import FileResponse, Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

PACKED = (".css", ".js", ".svg")


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
