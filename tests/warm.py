"""`lepidos` in a process of its own that has read the program already: the half of a test's time.

A process that has imported the app and done nothing else is forked for each start (the standard
library's fork server); what is forked can be killed, asked to stop and read like any other. That the
command starts from nothing is tested in `test_cli` with a plain subprocess.
"""

import multiprocessing
import os
import sys
from multiprocessing.context import ForkServerProcess
from pathlib import Path

from lepidos.cli import main as command

_FORKS = multiprocessing.get_context("forkserver")
# imported there, from the folder that tests run in, and not here
_FORKS.set_forkserver_preload(["tests.warmed"])


def start(
    words: list[str], env: dict[str, str], out: str = os.devnull, errors: str = os.devnull
) -> ForkServerProcess:
    """Begin `lepidos WORDS` with this environment; its output goes to these files."""
    process = _FORKS.Process(target=_run, args=(words, env, out, errors))
    process.start()
    return process


def _run(words: list[str], env: dict[str, str], out: str, errors: str) -> None:
    for path, number in ((out, 1), (errors, 2)):
        os.dup2(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC), number)
    os.environ.clear()
    os.environ.update(env)
    sys.argv = [str(Path(command.__file__)), *words]
    command.main()
