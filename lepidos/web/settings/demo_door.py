"""The demo from inside the app: a process of its own on a folder of its own, so no data is mixed.

It is started by the first touch and ends with the app.
"""

import os
import shutil
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.core.errors import Refused
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form
from lepidos.web.shell.render import page, shows_again

router = APIRouter(include_in_schema=False)

MAX_SECONDS = 120
EVERY_S = 0.2


class DemoDoor:
    """At most one demo beside the app. Safe to be asked by several requests at once."""

    def __init__(self, host: str, allowed_hosts: str) -> None:
        self._host, self._allowed_hosts = host, allowed_hosts
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._folder = ""
        self._port = 0

    def port(self) -> int:
        """The port where the demo answers, started if need be. Raises Refused when it does not."""
        with self._lock:
            if self._process is None or self._process.poll() is not None:
                self._start()
            self._wait()
            return self._port

    def close(self) -> None:
        """End the demo and throw its folder away."""
        with self._lock:
            if self._process is not None:
                self._process.terminate()
                self._process.wait()
                self._process = None
            if self._folder:
                shutil.rmtree(self._folder, ignore_errors=True)

    def _start(self) -> None:
        self._folder = self._folder or tempfile.mkdtemp(prefix="lepidos-demo-")
        with socket.socket() as free:
            free.bind((self._host, 0))
            self._port = free.getsockname()[1]
        self._process = subprocess.Popen(  # noqa: S603 - our own command with our own words
            [sys.executable, "-m", "lepidos", "demo", "--data-dir",
             str(Path(self._folder) / "data"), "--host", self._host, "--port", str(self._port)],
            env=_environment(self._allowed_hosts),
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip

    def _wait(self) -> None:
        local = "127.0.0.1" if self._host in {"0.0.0.0", "::"} else self._host  # noqa: S104
        address = f"http://{local}:{self._port}/api/v1/health"
        for _ in range(int(MAX_SECONDS / EVERY_S)):
            if self._process is None or self._process.poll() is not None:
                break
            try:
                urllib.request.urlopen(address, timeout=2).read()
            except (urllib.error.URLError, OSError):
                time.sleep(EVERY_S)
            else:
                return
        raise Refused({"": "The demo did not start. Try “make demo” instead."})


def _environment(allowed_hosts: str) -> dict[str, str]:
    kept = {k: v for k, v in os.environ.items() if not k.startswith("LEPIDOS_")}
    return kept | {"LEPIDOS_ALLOWED_HOSTS": allowed_hosts, "LEPIDOS_LOG_LEVEL": "error"}


@router.get("/demo")
def show_demo(request: Request) -> Response:
    """What the demo is; and, once it runs, the way there."""
    return page(request, "settings/demo.html", current_view(request), here="settings", port=0)


@router.post("/demo")
@shows_again(show_demo)
def open_demo(request: Request, form: Form) -> Response:
    """Start it, and show the way."""
    form.done()
    if request.app.state.settings.demo:
        return RedirectResponse("/", 303)
    door: DemoDoor = request.app.state.demo_door
    return page(
        request, "settings/demo.html", current_view(request), here="settings", port=door.port()
    )
