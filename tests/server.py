"""The real app in a process of its own, for the tests that kill it or look at it in a browser."""

import fcntl
import os
import random
import shutil
import signal
import socket
import tempfile
import time
import urllib.request
from contextlib import suppress
from functools import cache
from multiprocessing.context import ForkServerProcess
from pathlib import Path

from tests import warm

CLOCK = "2026-07-14T12:10:00+00:00"
SHARED = "LEPIDOS_TESTS_FOLDER"  # of what the processes of a run share, see `run_tests`
ENV = {"LEPIDOS_TIMEZONE": "Etc/GMT-1", "LEPIDOS_LOG_LEVEL": "error"}


def free_port() -> int:
    """A port that nobody listens on now, and that no call of a test beside it is given meanwhile."""
    while True:
        # the kernel gives callers ports from 32768 on: one of those may be gone before the app binds
        port = random.SystemRandom().randrange(10240, 32768)
        with socket.socket() as probe, suppress(OSError):
            probe.bind(("0.0.0.0", port))
            return port


@cache
def _own_folder() -> tempfile.TemporaryDirectory[str]:
    return tempfile.TemporaryDirectory()


@cache
def _demo_day() -> Path:
    """The demo's folder, made by its own command, once for all processes of a run of the tests.

    Each server has a copy.
    """
    folder = Path(os.environ.get(SHARED) or _own_folder().name)
    day, new = folder / "demo", folder / "demo.new"
    with (folder / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)  # whoever comes first makes it, the others wait
        if not day.exists():
            env = {**os.environ, **ENV, "LEPIDOS_CLOCK_AT": CLOCK}
            made = warm.start(["demo", "--only-data", "--data-dir", str(new)], env)
            made.join()
            if made.exitcode:
                raise RuntimeError(f"the demo day was not made: {made.exitcode}")
            new.rename(day)
    return day


class Server:
    """`lepidos run` on a folder; start it, stop it, kill it, start it again.

    `searches`: whether a better order of work is looked for in the background, for five seconds
    after each change, as the app does unless it is told not to. `settings` by their LEPIDOS_ names.
    """

    def __init__(
        self,
        folder: Path,
        demo: bool = False,
        searches: bool = True,
        errors: Path | None = None,
        **settings: str,
    ) -> None:
        self.folder = folder
        self.port = free_port()
        self.base = f"http://127.0.0.1:{self.port}"
        self.errors = errors or folder / "errors.txt"  # what the app says on the terminal
        self._settings = settings
        self._demo, self._searches = demo, searches
        self._process: ForkServerProcess | None = None

    def start(self, at: str = CLOCK) -> None:
        """Start and wait until it answers."""
        if self._demo and not any(self.folder.glob("*")):
            shutil.copytree(_demo_day(), self.folder, dirs_exist_ok=True)
        words = ["demo" if self._demo else "run", "--data-dir", str(self.folder)]
        env = {**os.environ, **ENV, "LEPIDOS_CLOCK_AT": at, **self._settings}
        if not self._searches:
            env["LEPIDOS_SEARCH_SECONDS"] = "0"
        words += ["--port", str(self.port)]
        self._process = warm.start(words, env, errors=str(self.errors))
        for _ in range(600):
            if not self._process.is_alive():
                raise RuntimeError(f"the app ended with {self._process.exitcode}")
            try:
                urllib.request.urlopen(f"{self.base}/api/v1/health", timeout=1).read()
            except OSError:
                time.sleep(0.05)
            else:
                return
        raise RuntimeError("the app does not answer")

    def answers(self) -> bool:
        """Whether it answers now."""
        try:
            urllib.request.urlopen(f"{self.base}/api/v1/health", timeout=2).read()
        except OSError:
            return False
        return True

    @property
    def pid(self) -> int:
        """Of the process that answers."""
        assert self._process
        assert self._process.pid
        return self._process.pid

    def kill(self) -> None:
        """SIGKILL: no goodbye."""
        assert self._process
        self._process.kill()
        self._process.join()

    def stop(self) -> int:
        """SIGTERM, and the exit code."""
        os.kill(self.pid, signal.SIGTERM)
        assert self._process
        self._process.join(timeout=20)
        assert self._process.exitcode is not None, "the app does not stop"
        return self._process.exitcode
