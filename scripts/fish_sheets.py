"""Every fish of the guide as it is drawn, a sheet for each kind, for the docs.

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


def cell(guide: Guide, one: Species, number: int) -> str:
    """One fish in its place."""
    body = guide.body_of(one)
    window = svg.frame(body)
    scale = min((WIDTH - 20) / window.width, (HEIGHT - 40) / window.height)
    x, y = number % ACROSS * WIDTH, number // ACROSS * HEIGHT
    return (
        f'<text x="{x + 8}" y="{y + 18}">{one.name}</text>'
        f'<g transform="translate({x + 10 - window.left * scale:.1f} '
        f'{y + 30 - window.top * scale:.1f}) scale({scale:.4f})"><g transform="{svg.flip(one)}">'
        f"{svg.fish_group(one, body)}</g></g>"
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
        cells = "".join(cell(guide, one, n) for n, one in enumerate(fish))
        wide, high = ACROSS * WIDTH, (len(fish) + ACROSS - 1) // ACROSS * HEIGHT
        (folder / file_name(kind)).write_text(
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {high}" width="{wide}">'
            f"<style>{STYLE}text{{font:16px sans-serif}}</style>"
            f'<rect width="100%" height="100%" fill="#fffefb"/>{cells}</svg>\n'
        )


if __name__ == "__main__":
    main(sys.argv[1])
