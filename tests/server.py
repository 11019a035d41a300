"""The real app in a process of its own, for the tests that kill it or look at it in a browser."""

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

CLOCK = "2026-07-14T12:10:00+00:00"


def free_port() -> int:
    """A port that nobody listens on now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Server:
    """`lepidos run` on a folder; start it, stop it, kill it, start it again."""

    def __init__(self, folder: Path, demo: bool = False) -> None:
        self.folder = folder
        self.port = free_port()
        self.base = f"http://127.0.0.1:{self.port}"
        self._demo = demo
        self._process: subprocess.Popen[bytes] | None = None

    def start(self, at: str = CLOCK) -> None:
        """Start and wait until it answers."""
        env = {
            **os.environ, "LEPIDOS_TIMEZONE": "Etc/GMT-1", "LEPIDOS_LOG_LEVEL": "error",
            "LEPIDOS_CLOCK_AT": at,
        }  # fmt: skip
        words = [
            "demo" if self._demo else "run",
            "--data-dir",
            str(self.folder),
            "--port",
            str(self.port),
        ]
        self._process = subprocess.Popen(
            [sys.executable, "-m", "lepidos.cli", *words],
            env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        for _ in range(600):
            if self._process.poll() is not None:
                raise RuntimeError(f"the app ended with {self._process.returncode}")
            try:
                urllib.request.urlopen(f"{self.base}/api/v1/health", timeout=1).read()
            except OSError:
                time.sleep(0.05)
            else:
                return
        raise RuntimeError("the app does not answer")

    @property
    def pid(self) -> int:
        """Of the process that answers."""
        assert self._process
        return self._process.pid

    def kill(self) -> None:
        """SIGKILL: no goodbye."""
        assert self._process
        self._process.kill()
        self._process.wait()

    def stop(self) -> int:
        """SIGTERM, and the exit code."""
        assert self._process
        self._process.send_signal(signal.SIGTERM)
        return self._process.wait(timeout=20)
