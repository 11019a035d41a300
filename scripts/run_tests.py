"""Runs every unittest and ends with `N passed, N failed`; fails when no test ran."""

import sys
import time
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[1]


class Counting(unittest.TextTestResult):
    """Counts passes, and remembers how long each test took."""

    passed = 0
    took: list[tuple[float, str]]

    def __init__(self, *args: object, **more: object) -> None:
        super().__init__(*args, **more)  # type: ignore[arg-type]
        self.took = []
        self._began = 0.0

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802 - unittest's own name
        self._began = time.perf_counter()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        self.took.append((time.perf_counter() - self._began, test.id()))
        super().stopTest(test)

    def addSuccess(self, test: unittest.TestCase) -> None:  # noqa: N802
        self.passed += 1
        super().addSuccess(test)


def main(names: list[str]) -> int:
    """Run the named tests, or all."""
    sys.path.insert(0, str(ROOT))
    loader = unittest.TestLoader()
    suite = (
        loader.loadTestsFromNames(names)
        if names
        else loader.discover(str(ROOT / "tests"), top_level_dir=str(ROOT))
    )
    runner = unittest.TextTestRunner(resultclass=Counting, verbosity=1, buffer=False)
    result = runner.run(suite)
    assert isinstance(result, Counting)
    for seconds, name in sorted(result.took, reverse=True)[:5]:
        print(f"{seconds:6.1f} s  {name}")
    failed = result.testsRun - result.passed - len(result.skipped) - len(result.expectedFailures)
    failed = max(failed, len(result.failures) + len(result.errors))
    skipped = f", {len(result.skipped)} skipped" if result.skipped else ""
    if result.testsRun == 0:
        print("no test ran", file=sys.stderr)
        failed = max(failed, 1)
    print(f"{result.passed} passed, {failed} failed{skipped}", flush=True)
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
