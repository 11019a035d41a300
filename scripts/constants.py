"""Every figure that the core and the stations name, with what stands beside it, for the docs.

`python scripts/constants.py docs/constants.md`: whoever changes one sees it in this list as well.
"""

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
PLACES = ("lepidos/core", "lepidos/stations")
HEAD = """# The figures that the code names

Made by `python scripts/constants.py docs/constants.md` from the modules; a test compares.
What a figure is for and where it is from stands beside it in the code and in [figures](figures.md).
What is said of a kind of fish, a cut or a caution is not here but in the guide's TOML files. What
begins with `MAX`, `MIN` or the like and has no words is a bound of what the
app takes or keeps: practice.

| figure | value | what stands beside it |
|---|---|---|
"""


def figures(file: Path) -> Iterator[tuple[str, str, str]]:
    """Name, value and comment of each constant of a module that holds a number."""
    text = file.read_text("utf-8")
    lines = text.splitlines()
    for node in ast.parse(text).body:
        if isinstance(node, ast.Assign) and len(node.targets) == 1:
            target, value = node.targets[0], node.value
        elif isinstance(node, ast.AnnAssign) and node.value is not None:
            target, value = node.target, node.value
        else:
            continue
        names = [n.id for n in ast.walk(target) if isinstance(n, ast.Name)]
        numbers = [
            n for n in ast.walk(value) if isinstance(n, ast.Constant) and _is_number(n.value)
        ]
        plain = not any(isinstance(n, ast.Lambda) for n in ast.walk(value))
        if (
            numbers
            and plain
            and names
            and all(re.fullmatch(r"_?[A-Z][A-Z0-9_]*", n) for n in names)
        ):
            yield ", ".join(names), ast.unparse(value), _beside(lines, node)


def _is_number(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def _beside(lines: list[str], node: ast.stmt) -> str:
    """The comment at its end, else the one above it."""
    _, hash_, comment = lines[(node.end_lineno or node.lineno) - 1].partition("  # ")
    if hash_:
        return re.sub(r"^(noqa|type|fmt).*", "", comment).strip()
    above: list[str] = []
    for line in reversed(lines[: node.lineno - 1]):
        if not line.startswith("# "):
            break
        above.insert(0, line[2:])
    return " ".join(above)


def page() -> str:
    """The whole document."""
    rows = []
    for place in PLACES:
        for file in sorted((ROOT / place).rglob("*.py")):
            module = ".".join(file.relative_to(ROOT / "lepidos").with_suffix("").parts)
            for name, value, beside in figures(file):
                cells = [f"{module}: {name}", f"`{value}`", beside]
                rows.append("| " + " | ".join(c.replace("|", "\\|") for c in cells) + " |")
    return HEAD + "\n".join(rows) + "\n"


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(page(), "utf-8")
