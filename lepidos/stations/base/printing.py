"""Labels on their way to the printer: sealing goes on while one is drawn."""

import logging
import threading
import time
from collections.abc import Callable, Mapping
from concurrent.futures import Executor, Future, wait

FIRST_S = 0.3  # drawing takes a core for a moment: the page that follows the seal goes first

log = logging.getLogger(__name__)


class LabelQueue:
    """Prints in order, beside whoever asked; without an executor at once.

    `unprinted` holds what did not come out, by bag: (code, why), until it is printed again.
    """

    def __init__(self, executor: Executor | None = None) -> None:
        self._executor = executor
        self._waiting: list[Future[None]] = []
        self._lock = threading.Lock()
        self._unprinted: dict[str, tuple[str, str]] = {}
        self.on_news: Callable[[], None] = lambda: None

    @property
    def unprinted(self) -> Mapping[str, tuple[str, str]]:
        """What did not come out."""
        with self._lock:
            return dict(self._unprinted)

    def put(self, bag_id: str, code: str, do: Callable[[], None]) -> None:
        """Draw and print a label. Without an executor what `do` raises is raised here."""
        if self._executor is None:
            do()
            return
        with self._lock:
            self._waiting = [f for f in self._waiting if not f.done()]
            self._waiting.append(self._executor.submit(self._print, bag_id, code, do))

    def printed(self, bag_id: str) -> None:
        """It came out after all."""
        with self._lock:
            found = self._unprinted.pop(bag_id, None)
        if found:
            self.on_news()

    def wait(self, seconds: float = 5.0) -> None:
        """Until all that was put has come out, or failed."""
        with self._lock:
            waiting = list(self._waiting)
        wait(waiting, seconds)

    def close(self) -> None:
        """Print what waits, and no more."""
        if self._executor is not None:
            self._executor.shutdown(wait=True)

    def _print(self, bag_id: str, code: str, do: Callable[[], None]) -> None:
        time.sleep(FIRST_S)
        try:
            do()
        except Exception as error:
            # whatever it is, the bag is sealed and the crew has to know of its label
            log.error("label %s was not printed: %r", code, error)
            with self._lock:
                self._unprinted[bag_id] = (code, str(error))
            self.on_news()
