"""The runner of the tests: its count is what CI believes."""

import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[1]
QUICK = [
    f"tests.core.test_{name}"
    for name in ("units", "limits", "wishes", "rules", "lookalike", "book")
]


BROKEN = """
import os, unittest

class Broken(unittest.TestCase):
    def test_holds(self): pass
    def test_fails(self): self.fail("meant")
    def test_breaks(self): raise RuntimeError("meant")
    @unittest.expectedFailure
    def test_surprises(self): pass

class Dying(unittest.TestCase):
    def test_dies(self): os._exit(3)

Broken.__module__ = Dying.__module__ = "tests.made_up"
"""


class RunnerTest(unittest.TestCase):
    def run_tests(self, *words: str, beside: str = "") -> tuple[int, list[str]]:
        """The exit code and the lines; with tests that lie beside ours."""
        done = subprocess.run(
            [sys.executable, "scripts/run_tests.py", *words], env={**os.environ, "PYTHONPATH": beside},
            cwd=ROOT, capture_output=True, text=True, timeout=600, check=False,
        )  # fmt: skip
        return done.returncode, done.stdout.splitlines()

    def test_many_processes_report_as_few_do(self) -> None:
        """Each has a pipe of its own; a machine with eight cores runs nine."""
        code, lines = self.run_tests("--jobs", str(len(QUICK)), *QUICK)
        self.assertRegex(lines[-1], r"^\d\d+ passed, 0 failed$")
        self.assertEqual(code, 0)

    def test_what_failed_stands_by_name_above_the_count(self) -> None:
        """Of a run elsewhere only the end of the log may be seen."""
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "made_up.py").write_text(BROKEN, "utf-8")
            names = ("made_up.Broken", "made_up.Dying")
            code, lines = self.run_tests("--jobs", "1", *names, beside=folder)
        self.assertEqual(code, 1)
        self.assertEqual(lines[-1], "1 passed, 4 failed")
        self.assertEqual(
            sorted(lines[-5:-1]),
            [
                "failed: tests.made_up.Broken.test_breaks",
                "failed: tests.made_up.Broken.test_fails",
                "failed: tests.made_up.Broken.test_surprises",
                "failed: the process that ran made_up.Dying (it ended with 3) died",
            ],
        )


if __name__ == "__main__":
    unittest.main()
