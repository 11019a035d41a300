"""Every fish of the guide as it is drawn, a sheet for each kind, for the docs.

Beside a fish that changes its colours stands what it is some hours after death, and beside a
flatfish its blind side.

`python scripts/fish_sheets.py docs/fish`
"""

import re
import sys
from collections import defaultdict
from pathlib import Path

from lepidos.core.fish.species import Species
from lepidos.exchange import svg
from lepidos.guide.library import Guide, load_guide

ROOT = Path(__file__).parents[1]
STYLE = "".join(
    (ROOT / f"lepidos/web/static/{name}.css").read_text() for name in ("tokens", "fish")
)
WIDTH, HEIGHT, ACROSS = 330, 190, 4


def file_name(kind: str) -> str:
    """Of a kind's sheet."""
    return re.sub(r"[^a-z]+", "-", kind.lower()).strip("-") + ".svg"


def looks(one: Species, lies_flat: bool) -> list[tuple[svg.Look, str]]:
    """The ways in which a fish is shown, and what is said of each."""
    changes = one.shape.skin_dead or any(mark.dead != "stays" for mark in one.shape.marks)
    found: list[tuple[svg.Look, str]] = [("alive", "")]
    if changes:
        found.append(("dead", ", some hours dead"))
    if lies_flat:
        found.append(("blind", ", blind side"))
    return found


def cell(guide: Guide, one: Species, look: svg.Look, words: str, number: int) -> str:
    """One fish in its place."""
    body = guide.body_of(one)
    window = svg.frame(body, svg.is_turned(one, look))
    scale = min((WIDTH - 20) / window.width, (HEIGHT - 40) / window.height)
    x, y = number % ACROSS * WIDTH, number // ACROSS * HEIGHT
    return (
        f'<text x="{x + 8}" y="{y + 18}">{one.name}{words}</text>'
        f'<g transform="translate({x + 10 - window.left * scale:.1f} '
        f'{y + 30 - window.top * scale:.1f}) scale({scale:.4f})">'
        f'<g transform="{svg.flip(one, look)}">'
        f"{svg.fish_group(one, body, True, look)}</g></g>"
    )


def main(target: str) -> None:
    """Write a sheet for each kind into the folder `target`."""
    guide = load_guide()
    kinds: dict[str, list[Species]] = defaultdict(list)
    for one in guide.species.values():
        kinds[one.kind].append(one)
    folder = Path(target)
    folder.mkdir(parents=True, exist_ok=True)
    for kind, fish in kinds.items():
        fish.sort(key=lambda one: one.name.lower())
        shown = [
            (one, look, words)
            for one in fish
            for look, words in looks(one, guide.plan_of(one).lies_flat)
        ]
        cells = "".join(cell(guide, *row, n) for n, row in enumerate(shown))
        wide, high = ACROSS * WIDTH, (len(shown) + ACROSS - 1) // ACROSS * HEIGHT
        (folder / file_name(kind)).write_text(
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {high}" width="{wide}">'
            f"<style>{STYLE}text{{font:16px sans-serif}}</style>"
            f'<rect width="100%" height="100%" fill="#fffefb"/>{cells}</svg>\n'
        )


if __name__ == "__main__":
    main(sys.argv[1])
