"""Runs what a change touches: every lint, and the tests that name a changed module, in a minute.

`make quick`. What it leaves out it names: `make test` is what must hold before anything lands.
"""

import ast
import json
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
TIMES = ROOT / ".test-times.json"  # of each test, left by the last `make test` on this machine
BUDGET_S = 70.0  # of tests one after another; two or three processes share them
USUAL_S = 0.4  # of a test that was not timed yet
# what no import tells: a part of the tree, and the tests that look at it
BESIDE = (
    ("lepidos/guide/", ("tests.guide.test_library", "tests.guide.test_problems")),
    ("lepidos/store/migrations/", ("tests.store.test_migrate", "tests.store.test_store")),
    ("lepidos/web/templates/", ("tests.web.test_path",)),
    ("lepidos/web/static/", ("tests.web.test_styles", "tests.web.test_kept")),
    ("lepidos/web/access.toml", ("tests.web.test_access",)),
    ("docs/", ("tests.test_constants",)),
)


def changed() -> list[str]:
    """Files that differ from the last commit, new ones too; of the last commit when none does."""
    said = _git("diff", "--name-only", "HEAD") + _git("ls-files", "--others", "--exclude-standard")
    return said or _git("diff", "--name-only", "HEAD~1", "HEAD")


def _git(*words: str) -> list[str]:
    done = subprocess.run(["git", *words], cwd=ROOT, capture_output=True, text=True, check=True)
    return done.stdout.splitlines()


def imported(path: Path) -> Iterator[str]:
    """The modules of ours that a test module names."""
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.ImportFrom) and node.module:
            yield node.module
            yield from (f"{node.module}.{alias.name}" for alias in node.names)
        elif isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)


def touched(files: list[str]) -> list[str]:
    """Test modules that a change touches, those changed themselves first."""
    modules = {_module(name) for name in files if name.endswith(".py")}
    found = dict.fromkeys(m for m in sorted(modules) if m.rpartition(".")[2].startswith("test_"))
    for path in sorted((ROOT / "tests").rglob("test_*.py")):
        if modules & set(imported(path)):
            found[_module(str(path.relative_to(ROOT)))] = None
    for name in files:
        for place, tests in BESIDE:
            if name.startswith(place):
                found.update(dict.fromkeys(tests))
    return [m for m in found if (ROOT / f"{m.replace('.', '/')}.py").exists()]


def _module(name: str) -> str:
    return name.removesuffix(".py").removesuffix("/__init__").replace("/", ".")


def within(modules: list[str]) -> tuple[list[str], list[str]]:
    """The classes of tests that fit into the time, the shortest first, and those that do not."""
    timed = json.loads(TIMES.read_text("utf-8")) if TIMES.exists() else []
    took: dict[str, float] = {}
    for seconds, test in timed:
        name = test.rpartition(".")[0]
        took[name] = took.get(name, 0.0) + seconds
    classes = {f"{module}.{name}": count for module in modules for name, count in _classes(module)}
    cost = {name: took.get(name, USUAL_S * count) for name, count in classes.items()}
    chosen, spent = [], 0.0
    for name in sorted(cost, key=lambda one: cost[one]):
        spent += cost[name]
        if spent <= BUDGET_S:
            chosen.append(name)
    return chosen, sorted(cost.keys() - set(chosen))


def _classes(module: str) -> Iterator[tuple[str, int]]:
    tree = ast.parse((ROOT / f"{module.replace('.', '/')}.py").read_text("utf-8"))
    for node in tree.body:
        if isinstance(node, ast.ClassDef):
            tests = sum(
                isinstance(part, ast.FunctionDef) and part.name.startswith("test")
                for part in node.body
            )
            if tests:
                yield node.name, tests


def main() -> int:
    """Lints and tests side by side; 1 when one of them failed."""
    began = time.monotonic()
    lints = subprocess.Popen(["scripts/lint.sh"], cwd=ROOT, stdout=subprocess.PIPE, text=True)
    chosen, left = within(["tests.test_structure", *touched(changed())])
    tests = subprocess.run(
        [sys.executable, "scripts/run_tests.py", *chosen], cwd=ROOT, capture_output=True, text=True
    )
    said, _ = lints.communicate()
    if tests.returncode:
        print(tests.stderr[-8000:])
    if lints.returncode:
        print(said)
    if left:
        print("left to `make test`, for the time they take: " + ", ".join(left))
    print("\n".join(line for line in tests.stdout.splitlines() if line.startswith("failed: ")))
    print(f"{tests.stdout.splitlines()[-1]}; lints {'failed' if lints.returncode else 'fine'}; "
          f"{time.monotonic() - began:.0f} s")  # fmt: skip
    return 1 if tests.returncode or lints.returncode else 0


if __name__ == "__main__":
    sys.exit(main())
