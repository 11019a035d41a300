"""Would the tests notice? Small changes to the core and the stations, each against the tests that run it.

    .venv/bin/python -m bench.mutants listed           the changes of mutants.toml
    .venv/bin/python -m bench.mutants sample 150 1     that many at random, from a seed
    .venv/bin/python -m bench.mutants again FILE [TESTS]   those that survived by an earlier
                                                       sample's output; with TESTS only against them

Which tests run which line takes 20 minutes to find out; with MUTANTS_LINES=FILE it is kept there.

A change is made in a copy of the package; the tests that execute its line (by coverage, measured
first) run until one fails. A harness of our own: the ones in the registry run a whole test command
for every change, which here takes minutes.
"""

import ast
import json
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
import time
import tomllib
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

from coverage import CoverageData

ROOT = Path(__file__).parents[1]
PLACES = ("lepidos/core", "lepidos/stations")
SUITES = (
    "tests/core",
    "tests/guide",
    "tests/stations",
    "tests/store",
    "tests/exchange",
    "tests/web",
)
MAX_TESTS = 40  # of those that run a line: the closest, and some of all the others
MAX_OTHERS = 160  # that are asked when those saw nothing, the closest
SECONDS = 600
COMPARE = {ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq,
           ast.NotEq: ast.Eq, ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is}  # fmt: skip
ARITHMETIC = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.Pow: ast.Mult,
              ast.FloorDiv: ast.Mult, ast.Mod: ast.Mult}  # fmt: skip
CALLS = {"min": "max", "max": "min", "any": "all", "all": "any"}


@dataclass(frozen=True)
class Mutant:
    """A file's text with one change, and where it is."""

    file: str
    line: int
    what: str
    text: str


def mutants(file: Path) -> Iterator[Mutant]:
    """Every small change of a file: comparisons, arithmetic, and/or, not, numbers, min/max."""
    text = file.read_text("utf-8")
    for node in ast.walk(ast.parse(text)):
        for what, start, end, new in _changes(node, text):
            changed = text[:start] + new + text[end:]
            try:
                ast.parse(changed)
            except SyntaxError:
                continue
            yield Mutant(str(file.relative_to(ROOT)), getattr(node, "lineno", 0), what, changed)


def _changes(node: ast.AST, text: str) -> Iterator[tuple[str, int, int, str]]:
    if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in COMPARE:
        new = ast.Compare(node.left, [COMPARE[type(node.ops[0])]()], node.comparators)
        yield _replaced(node, new, text)
    elif isinstance(node, ast.BinOp) and type(node.op) in ARITHMETIC:
        yield _replaced(node, ast.BinOp(node.left, ARITHMETIC[type(node.op)](), node.right), text)
    elif isinstance(node, ast.BoolOp):
        other = ast.Or() if isinstance(node.op, ast.And) else ast.And()
        yield _replaced(node, ast.BoolOp(other, node.values), text)
    elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
        yield _replaced(node, node.operand, text)
    elif isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in CALLS:
        yield _replaced(node.func, ast.Name(CALLS[node.func.id]), text)
    elif isinstance(node, ast.Constant) and type(node.value) in {int, float}:
        value = node.value
        yield _replaced(
            node,
            ast.Constant(value * 1.5 if isinstance(value, float) and value else value + 1),
            text,
        )


def _replaced(node: ast.AST, new: ast.AST, text: str) -> tuple[str, int, int, str]:
    lines = text.splitlines(keepends=True)

    def offset(line: int, column: int) -> int:
        # columns count bytes, text counts letters
        return sum(map(len, lines[: line - 1])) + len(lines[line - 1].encode()[:column].decode())

    start, end = offset(node.lineno, node.col_offset), offset(node.end_lineno, node.end_col_offset)
    old, fresh = text[start:end], f"({ast.unparse(ast.fix_missing_locations(new))})"
    if isinstance(new, ast.Name | ast.Constant):
        fresh = fresh[1:-1]
    return f"{old[:70]} → {fresh[:70]}", start, end, fresh


def measured() -> tuple[dict[str, dict[int, list[str]]], dict[str, float]]:
    """By file and line: the tests that run it; and how long each test takes [s]."""
    kept = os.environ.get("MUTANTS_LINES")
    if kept and Path(kept).exists():
        lines, took = json.loads(Path(kept).read_text())
        by_number = {file: {int(n): t for n, t in of.items()} for file, of in lines.items()}
        return by_number, took
    found = _measured()
    if kept:
        Path(kept).write_text(json.dumps(found))
    return found


def _measured() -> tuple[dict[str, dict[int, list[str]]], dict[str, float]]:
    folder = Path(tempfile.mkdtemp())
    script = folder / "run.py"
    script.write_text(
        "import sys, time, json, unittest\n"
        f"sys.path.insert(0, {str(ROOT)!r})\n"
        "took = {}\n"
        "class Result(unittest.TextTestResult):\n"
        "    def startTest(self, test):\n"
        "        self.began = time.perf_counter(); super().startTest(test)\n"
        "        import coverage; coverage.Coverage.current().switch_context(test.id())\n"
        "    def stopTest(self, test):\n"
        "        took[test.id()] = time.perf_counter() - self.began; super().stopTest(test)\n"
        "suite = unittest.TestLoader().loadTestsFromName(sys.argv[2])\n"
        "unittest.TextTestRunner(resultclass=Result, verbosity=0).run(suite)\n"
        "json.dump(took, open(sys.argv[1], 'w'))\n"
    )

    def run(module: str) -> None:
        subprocess.run(
            [sys.executable, "-m", "coverage", "run", f"--data-file={folder / module}.data",
             "--source=lepidos/core,lepidos/stations", str(script), str(folder / f"{module}.json"), module],
            cwd=ROOT, check=True, capture_output=True,
        )  # fmt: skip

    modules = [
        ".".join(path.relative_to(ROOT).with_suffix("").parts)
        for suite in SUITES
        for path in sorted((ROOT / suite).glob("test_*.py"))
    ]
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        list(pool.map(run, modules))
    lines: dict[str, dict[int, list[str]]] = {}
    took: dict[str, float] = {}
    for module in modules:
        found = CoverageData(str(folder / f"{module}.data"))
        found.read()
        took |= json.loads((folder / f"{module}.json").read_text())
        for name in found.measured_files():
            of_file = lines.setdefault(str(Path(name).relative_to(ROOT)), {})
            for n, contexts in found.contexts_by_lineno(name).items():
                of_file.setdefault(n, []).extend(c for c in contexts if c)
    return lines, took


def noticed(mutant: Mutant, tests: list[str]) -> bool:
    """Whether one of the tests fails on the changed package."""
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder)
        for name in ("lepidos", "tests", "scripts", "docs", "bench"):
            shutil.copytree(
                ROOT / name,
                copy / name,
                ignore=shutil.ignore_patterns("__pycache__", "*.png"),
            )
        (copy / mutant.file).write_text(mutant.text, "utf-8")
        env = {
            **os.environ,
            "PYTHONPATH": folder,
            "PYTHONDONTWRITEBYTECODE": "1",
            "NUMBA_CACHE_DIR": "/tmp/numba",
        }
        try:
            done = subprocess.run(
                [sys.executable, "-m", "unittest", "-f", *tests], cwd=folder, env=env, capture_output=True,
                timeout=SECONDS, check=False,
            )  # fmt: skip
        except subprocess.TimeoutExpired:
            return True
        return done.returncode != 0


def listed() -> int:
    """The changes of mutants.toml."""
    rows = tomllib.loads((ROOT / "bench/mutants.toml").read_text())["listed"]

    def one(row: dict[str, object]) -> bool:
        text = (ROOT / str(row["file"])).read_text()
        assert str(row["old"]) in text, row
        changed = text.replace(str(row["old"]), str(row["new"]), 1)
        return noticed(Mutant(str(row["file"]), 0, str(row["name"]), changed), list(row["tests"]))  # type: ignore[call-overload]

    first = rows[0]
    same = Mutant(first["file"], 0, "no change", (ROOT / first["file"]).read_text())
    if noticed(same, [name for row in rows for name in row["tests"]]):
        print("the tests fail without any change")
        return 1
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        for row, found in zip(rows, pool.map(one, rows), strict=True):
            print("noticed " if found else "SURVIVED", row["name"], flush=True)
            row["found"] = found
    return sum(not row["found"] for row in rows)


def sample(number: int, seed: int) -> int:
    """That many changes at random, among the lines that tests run."""
    every = _every()
    print(f"{number} of {len(every)} changes, seed {seed}", flush=True)
    return _judge(random.Random(seed).sample(every, number))


def again(output: Path, tests: list[str]) -> int:
    """What survived by an earlier output, where it still is: the nearest line of the same change.

    `tests` are asked first: those that were written since, or stand for the file.
    """
    chosen = []
    every = _every()
    for line in output.read_text("utf-8").splitlines():
        told = re.fullmatch(r"survived: (\S+):(\d+)  (.*)", line)
        fitting = [m for m in every if told and (m.file, m.what) == (told[1], told[3])]
        if told and fitting:
            chosen.append(min(fitting, key=lambda m, at=int(told[2]): abs(m.line - at)))  # type: ignore[misc]
    if tests:
        left = [m for m in chosen if not noticed(m, tests)]
        for mutant in left:
            print(f"survived: {mutant.file}:{mutant.line}  {mutant.what}", flush=True)
        print(f"{len(chosen)} changes: {len(chosen) - len(left)} noticed by {' '.join(tests)}")
        return 0
    return _judge(chosen)


def _every() -> list[Mutant]:
    return [
        m
        for place in PLACES
        for path in sorted((ROOT / place).rglob("*.py"))
        for m in mutants(path)
    ]


def _judge(chosen: list[Mutant]) -> int:
    began = time.monotonic()
    lines, took = measured()
    print(f"coverage measured in {time.monotonic() - began:.0f} s, {len(took)} tests", flush=True)

    # a test that runs little looks closely at what it runs
    runs: dict[str, int] = {}
    for of_lines in lines.values():
        for names in of_lines.values():
            for name in names:
                runs[name] = runs.get(name, 0) + 1

    def one(mutant: Mutant) -> str:
        of_file = lines.get(mutant.file, {})
        # a module's constants run when it is read: every test of the module may notice them
        ran = of_file.get(mutant.line) or [t for found in of_file.values() for t in found]
        tests = sorted({t for t in ran if t.startswith("tests.")}, key=lambda t: runs.get(t, 0))
        if not tests:
            return "no test"
        near, far = tests[: MAX_TESTS // 2], tests[MAX_TESTS // 2 :]
        some = near + far[:: max(1, len(far) // (MAX_TESTS - len(near)))][: MAX_TESTS - len(near)]
        # the others are only asked when these are content
        rest = [t for t in tests if t not in some][:MAX_OTHERS]
        if not noticed(mutant, some):
            if not rest or not noticed(mutant, rest):
                return "survived"
            some = rest
        tests = some
        # tests that fail on the package as it is would notice everything
        as_it_is = replace(mutant, text=(ROOT / mutant.file).read_text("utf-8"))
        return "not to be judged" if noticed(as_it_is, tests) else "noticed"

    counts: dict[str, int] = {}
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        for mutant, found in zip(chosen, pool.map(one, chosen), strict=True):
            counts[found] = counts.get(found, 0) + 1
            if found != "noticed":
                print(f"{found}: {mutant.file}:{mutant.line}  {mutant.what}", flush=True)
    minutes = (time.monotonic() - began) / 60
    print(f"{len(chosen)} changes: {counts}, {minutes:.0f} min")
    return 0


if __name__ == "__main__":
    if sys.argv[1] == "listed":
        sys.exit(listed())
    if sys.argv[1] == "again":
        sys.exit(again(Path(sys.argv[2]), sys.argv[3:]))
    sys.exit(sample(int(sys.argv[2]), int(sys.argv[3])))
