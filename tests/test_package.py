"""The wheel: all of the app is in it, and it runs from an environment that has no source of ours."""

import re
import shutil
import subprocess
import sys
import sysconfig
import tempfile
import time
import unittest
import urllib.request
import zipfile
from pathlib import Path

from tests.amount import WHOLE
from tests.server import ENV, free_port

ROOT = Path(__file__).parents[1]
SOURCES = ("pyproject.toml", "README.md", "requirements.txt", "lepidos")
LEFT_OUT = shutil.ignore_patterns("__pycache__")


def plain(requirement: str) -> str:
    """A requirement with its name as PEP 503 has it."""
    name, _, version = requirement.partition("==")
    return f"{re.sub(r'[-_.]+', '-', name).lower()}=={version}"


class WheelTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        source = self.folder / "source"
        source.mkdir()
        for name in SOURCES:
            one = ROOT / name
            if one.is_dir():
                shutil.copytree(one, source / name, ignore=LEFT_OUT)
            else:
                shutil.copy(one, source / name)
        self.run_well(
            sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--no-build-isolation",
            "--no-index", "--wheel-dir", str(self.folder), str(source),
        )  # fmt: skip
        (self.wheel,) = self.folder.glob("lepidos-*.whl")

    def run_well(self, *words: str) -> str:
        done = subprocess.run(
            words, cwd=self.folder, env=ENV, capture_output=True, text=True, check=False
        )
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)
        return done.stdout

    def test_everything_is_in_it_and_it_runs_without_the_source(self) -> None:
        with zipfile.ZipFile(self.wheel) as packed:
            inside = {name for name in packed.namelist() if name.startswith("lepidos/")}
            told = next(n for n in packed.namelist() if n.endswith("METADATA"))
            needs = [
                line.removeprefix("Requires-Dist: ")
                for line in packed.read(told).decode().splitlines()
                if line.startswith("Requires-Dist: ")
            ]
        here = {
            str(path.relative_to(ROOT))
            for path in (ROOT / "lepidos").rglob("*")
            if path.is_file() and "__pycache__" not in path.parts
        }
        self.assertEqual(here - inside, set())
        pinned = [
            line for line in (ROOT / "requirements.txt").read_text().splitlines()
            if line and not line.startswith("#")
        ]  # fmt: skip
        self.assertEqual(sorted(map(plain, needs)), sorted(map(plain, pinned)))

        home = self.folder / "home"
        self.run_well(sys.executable, "-m", "venv", "--without-pip", str(home))
        python = home / "bin/python"
        site = Path(
            self.run_well(
                str(python), "-c", "import sysconfig; print(sysconfig.get_path('purelib'))"
            ).strip()
        )
        with zipfile.ZipFile(self.wheel) as packed:
            packed.extractall(site)
        # the packages that it needs, without what their own .pth files would add: our source
        (site / "needed.pth").write_text(sysconfig.get_path("purelib") + "\n")
        where = self.run_well(str(python), "-c", "import lepidos; print(lepidos.__file__)").strip()
        self.assertEqual(Path(where).parent, site / "lepidos")
        if WHOLE:  # what has the same files and packages as here answers as it does here
            self.answers(python, str(self.folder / "data"))

    def answers(self, python: Path, data: str) -> None:
        port = free_port()
        app = subprocess.Popen(
            [python, "-m", "lepidos", "demo", "--data-dir", data, "--port", str(port)],
            cwd=self.folder, env=ENV, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        self.addCleanup(app.wait)
        self.addCleanup(app.kill)
        base = f"http://127.0.0.1:{port}"
        # nothing of it is compiled yet, and on a busy machine that takes a minute
        for _ in range(1800):
            self.assertIsNone(app.poll(), "the app ended")
            try:
                urllib.request.urlopen(f"{base}/api/v1/health", timeout=2).read()
                break
            except OSError:
                time.sleep(0.1)
        for path in ("/", "/guide/pollack", "/worker.js", "/licences", "/which-fish", "/static/mark.svg",
                     "/static/app.webmanifest", "/guide/pollack/card.pdf"):  # fmt: skip
            with urllib.request.urlopen(base + path, timeout=30) as answer:
                self.assertEqual(answer.status, 200, path)
