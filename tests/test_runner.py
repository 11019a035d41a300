"""The runner of the tests: its count is what CI believes."""

import subprocess
import sys
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[1]
QUICK = [
    f"tests.core.test_{name}"
    for name in ("units", "limits", "wishes", "rules", "lookalike", "book")
]


class RunnerTest(unittest.TestCase):
    def run_tests(self, *words: str) -> tuple[int, str]:
        """The exit code and the last line."""
        done = subprocess.run(
            [sys.executable, "scripts/run_tests.py", *words],
            cwd=ROOT, capture_output=True, text=True, timeout=600, check=False,
        )  # fmt: skip
        return done.returncode, done.stdout.splitlines()[-1]

    def test_many_processes_report_as_few_do(self) -> None:
        """Each has a pipe of its own; a machine with eight cores runs nine."""
        code, last = self.run_tests("--jobs", str(len(QUICK)), *QUICK)
        self.assertRegex(last, r"^\d\d+ passed, 0 failed$")
        self.assertEqual(code, 0)


if __name__ == "__main__":
    unittest.main()
