"""Runs every unittest in several processes and ends with `N passed, N failed`.

Each worker takes the next class of tests when it is free, the slow ones first. Fails when no test
ran, when a worker died, and when a test was not reported.
"""

import argparse
import contextlib
import importlib
import json
import os
import pkgutil
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from collections.abc import Iterator
from pathlib import Path

import coverage

ROOT = Path(__file__).parents[1]
# a long one that comes last leaves the other processes without work
SLOW_FIRST = (
    "tests.browser", "tests.test_kill", "tests.test_cli", "tests.test_package", "tests.test_runner",
    "tests.web", "tests.stations", "tests.core.test_trial", "tests.core.test_checker",
    "tests.core.test_pooling",
)  # fmt: skip
# Tests that another package makes of ours, by that package: the module of ours they stand in.
OTHERS = {
    "doctest": "tests.core.test_doctests",
    "hypothesis.stateful": "tests.stations.test_session",
}
# They do the same thousands of times; the lines they run are run by others, too.
REPEATING = (
    "tests.core.test_checker.GuideTest",
    "tests.core.test_drift.CrewTest",
    "tests.core.test_fair_split.AnewTest",
    "tests.core.test_marks.LearningTest",
    "tests.core.test_pooling.CalibrationTest",
    "tests.core.test_portions.MarksTest",
    "tests.core.test_trial.SeasonsTest",
)
# a server that is killed cannot give its semaphores back: its tracker does, and need not say so
ENV = {**os.environ, "PYTHONWARNINGS": "ignore:resource_tracker:UserWarning"}
ENV["OPENBLAS_NUM_THREADS"] = "1"  # a matrix of ours is small, and there is a process for each core


class Counting(unittest.TextTestResult):
    """Counts passes, and remembers how long each test took."""

    passed = 0

    def __init__(self, *args: object, **more: object) -> None:
        super().__init__(*args, **more)  # type: ignore[arg-type]
        self.took: list[tuple[float, str]] = []
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


def every_test(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    """The tests of nested suites."""
    for part in suite:
        if isinstance(part, unittest.TestSuite):
            yield from every_test(part)
        else:
            yield part


def load(names: list[str]) -> unittest.TestSuite:
    """The named tests, or all."""
    loader = unittest.TestLoader()
    if names:
        return unittest.TestSuite(
            loader.discover(str(folder), top_level_dir=str(ROOT))
            if (folder := ROOT / name.replace(".", "/")).is_dir()
            else loader.loadTestsFromName(name)
            for name in names
        )
    return loader.discover(str(ROOT / "tests"), top_level_dir=str(ROOT))


def group(test: unittest.TestCase) -> str:
    """What a worker runs in one go: a class; doctests and modules that fail to load by module."""
    kind = type(test)
    if kind.__module__.startswith("tests."):
        return f"{kind.__module__}.{kind.__qualname__}"
    return OTHERS.get(kind.__module__, "")


class Traced:
    """Counts which lines of the core its own tests run. Tracing costs half of a test's time."""

    def __init__(self) -> None:
        self._coverage = coverage.Coverage(data_suffix=True)
        with self:
            for found in pkgutil.walk_packages([str(ROOT / "lepidos/core")], "lepidos.core."):
                importlib.import_module(found.name)

    def of(self, name: str) -> contextlib.AbstractContextManager[object]:
        """What to run a group in."""
        wanted = name.startswith("tests.core.") and name not in REPEATING
        return self if wanted else contextlib.nullcontext()

    def __enter__(self) -> None:
        self._coverage.start()

    def __exit__(self, *_: object) -> None:
        self._coverage.stop()
        self._coverage.save()


def run_worker(report_to: int, count_lines: bool) -> int:
    """Run each group that comes in on a line, and report it on a line of JSON.

    The report goes to a pipe of its own: nothing that a test prints can disturb it.
    """
    traced = Traced() if count_lines else None
    os.set_inheritable(report_to, False)
    with os.fdopen(report_to, "w") as report:
        for line in sys.stdin:
            name = line.strip()
            runner = unittest.TextTestRunner(resultclass=Counting, verbosity=0)
            with traced.of(name) if traced else contextlib.nullcontext():
                result = runner.run(load([name]))
            assert isinstance(result, Counting)
            bad = [test.id() for test, _ in (*result.failures, *result.errors)]
            bad += [test.id() for test in result.unexpectedSuccesses]
            told = {
                "ran": result.testsRun, "passed": result.passed, "failed": bad,
                "skipped": len(result.skipped), "took": result.took,
            }  # fmt: skip
            report.write(json.dumps(told) + "\n")
            report.flush()
    return 0


class Worker(threading.Thread):
    """Hands groups to one process, and to a new one when that dies."""

    def __init__(self, groups: Iterator[str], lock: threading.Lock, count_lines: bool) -> None:
        super().__init__()
        self.reports: list[dict[str, object]] = []
        self.lost: list[str] = []
        self._groups, self._lock, self._count_lines = groups, lock, count_lines
        self._begin()

    def _begin(self) -> None:
        read, write = os.pipe()
        self._process = subprocess.Popen(
            [sys.executable, str(Path(__file__)), "--worker", str(write),
             *(["--coverage"] if self._count_lines else [])],
            stdin=subprocess.PIPE, text=True, pass_fds=(write,), cwd=ROOT, env=ENV,
        )  # fmt: skip
        os.close(write)
        self._report = os.fdopen(read)

    def _end(self) -> int:
        with contextlib.suppress(subprocess.TimeoutExpired):
            return self._process.wait(5)
        self._process.kill()  # it is there, and what it reports cannot be read
        return self._process.wait()

    def run(self) -> None:
        while True:
            with self._lock:
                name = next(self._groups, None)
            if name is None:
                break
            assert self._process.stdin
            try:
                self._process.stdin.write(name + "\n")
                self._process.stdin.flush()
                self.reports.append(json.loads(self._report.readline()))
            except (OSError, ValueError):
                self.lost.append(f"{name} (it ended with {self._end()})")
                self._begin()
        assert self._process.stdin
        self._process.stdin.close()
        self._process.wait()


def main(names: list[str], jobs: int, count_lines: bool, times: Path | None) -> int:
    """Run the named tests, or all, and print the count; how long each took goes to a file."""
    sys.path.insert(0, str(ROOT))
    tests = list(every_test(load(names)))
    unloadable = [t for t in tests if not group(t)]
    for test in unloadable:
        test.debug()  # raises with the reason why the module could not be read
    folders = [n for n in names if (ROOT / n.replace(".", "/")).is_dir()]
    inside = tests if not names else every_test(load(folders)) if folders else ()
    groups = dict.fromkeys([*(n for n in names if n not in folders), *(group(t) for t in inside)])
    order = sorted(
        groups, key=lambda g: next((i for i, s in enumerate(SLOW_FIRST) if g.startswith(s)), 99)
    )
    waiting, lock = iter(order), threading.Lock()
    with tempfile.TemporaryDirectory() as shared:
        ENV["LEPIDOS_TESTS_FOLDER"] = shared  # for what is made once, see `tests.server`
        workers = [Worker(waiting, lock, count_lines) for _ in range(max(1, min(jobs, len(order))))]
        for worker in workers:
            worker.start()
        for worker in workers:
            worker.join()
    reports = [r for w in workers for r in w.reports]
    lost = [name for w in workers for name in w.lost]
    bad = [name for r in reports for name in r["failed"]]  # type: ignore[attr-defined]
    total = {k: sum(int(str(r[k])) for r in reports) for k in ("ran", "passed", "skipped")}
    took = sorted((t for r in reports for t in r["took"]), reverse=True)  # type: ignore[attr-defined]
    for seconds, name in took[:8]:
        print(f"{seconds:6.1f} s  {name}")
    if times:
        times.write_text(json.dumps(took, indent=0), "utf-8")
    missing = max(0, len(tests) - total["passed"] - total["skipped"])
    failed = max(len(bad) + len(lost), missing)  # a test that a dead process took along is missing
    # last, where whoever sees only the end of a log looks
    for name in dict.fromkeys([*bad, *(f"the process that ran {name} died" for name in lost)]):
        print(f"failed: {name}")
    if total["ran"] == 0:
        print("no test ran", file=sys.stderr)
        failed = max(failed, 1)
    skipped = f", {total['skipped']} skipped" if total["skipped"] else ""
    print(f"{total['passed']} passed, {failed} failed{skipped}", flush=True)
    return 1 if failed else 0


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("names", nargs="*")
    # one more than there are cores: browsers and servers make a test wait
    parser.add_argument("--jobs", type=int, default=(os.cpu_count() or 1) + 1)
    parser.add_argument("--coverage", action="store_true")
    parser.add_argument("--worker", type=int, help="be one, which reports to this pipe")
    parser.add_argument("--times", type=Path, help="write how long each test took")
    asked = parser.parse_args()
    if asked.worker is not None:
        sys.path.insert(0, str(ROOT))
        sys.exit(run_worker(asked.worker, asked.coverage))
    sys.exit(main(asked.names, asked.jobs, asked.coverage, asked.times))
