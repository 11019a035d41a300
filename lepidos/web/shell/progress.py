"""How far a long piece of work is, for the page that waits for it. In memory only."""

import threading
from collections import OrderedDict
from collections.abc import Callable

from fastapi import APIRouter, Request

from lepidos.web.shell.render import context_of

router = APIRouter(include_in_schema=False)

MAX_KEPT = 20


class WriteProgress:
    """By the key of a request: how many of how many are done."""

    def __init__(self) -> None:
        self._kept: OrderedDict[str, tuple[int, int]] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, key: str) -> tuple[int, int]:
        """Done, and of how many; (0, 0) for what is not known."""
        with self._lock:
            return self._kept.get(key, (0, 0))

    def teller(self, key: str) -> Callable[[int, int], None]:
        """What the work tells how far it is."""

        def tell(done: int, of: int) -> None:
            with self._lock:
                self._kept[key] = (done, of)
                while len(self._kept) > MAX_KEPT:
                    self._kept.popitem(last=False)

        return tell


def progress_of(request: Request) -> WriteProgress:
    """The app's."""
    return context_of(request).memo.get(("progress",), WriteProgress)


@router.get("/live/progress/{key}")
def live_progress(request: Request, key: str) -> dict[str, int]:
    """How far the request with this key is."""
    done, of = progress_of(request).of(key)
    return {"done": done, "of": of}
