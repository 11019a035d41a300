"""One fish of every body plan with its pieces, bones and section, on one sheet for the docs.

`python scripts/contact_sheet.py docs/body-plans.svg`
"""

import sys
from pathlib import Path

from lepidos.core.fish.anatomy import zone_polygon
from lepidos.exchange import svg
from lepidos.guide.library import Guide, load_guide
from lepidos.stations.guide.planner import AskPlan, plan_fish
from lepidos.web.drawings.cuts import section_svg

ROOT = Path(__file__).parents[1]
STYLE = "".join(
    (ROOT / f"lepidos/web/static/{name}.css").read_text() for name in ("tokens", "fish")
)
SHOWN = (
    "cod", "black_sea_bream", "summer_flounder", "cobia", "greater_amberjack", "white_sturgeon",
    "channel_catfish", "swordfish", "lionfish", "mackerel", "northern_pike", "conger",
    "smooth_hound", "monkfish", "thornback_ray", "european_squid",
)  # fmt: skip
WIDTH, HEIGHT, ACROSS = 480, 230, 3


def cell(guide: Guide, key: str, x: float, y: float) -> str:
    """One fish in its place."""
    one = guide.one(key)
    body, plan = guide.body_of(one), guide.plan_of(one)
    planned = plan_fish(guide, AskPlan(key, one.longest_cm / 200))
    window = svg.frame(body)
    scale = min((WIDTH - 130) / window.width, (HEIGHT - 50) / window.height)
    zones = "".join(
        f'<path class="zone" d="{svg.path_of(zone_polygon(body, plan, p.zone), True)}"/>'
        for p in planned.cut.pieces
        if p.zone
    )
    drawn = f"{svg.fish_group(one, body)}{zones}{svg.bones(body, plan)}"
    cut = str(section_svg(guide, one, 1.5)).replace(
        "<svg ", f'<svg x="{x + WIDTH - 110}" y="{y + 50}" width="90" height="{HEIGHT - 90}" ', 1
    )
    return (
        f'<text x="{x + 10}" y="{y + 20}">{plan.name}: {one.name}</text>'
        f'<g transform="translate({x + 10 - window.left * scale} {y + 40 - window.top * scale}) '
        f'scale({scale})"><g transform="{svg.flip(one)}">{drawn}</g></g>{cut}'
    )


def main(target: str) -> None:
    """Write the sheet to `target`."""
    guide = load_guide()
    cells = [
        cell(guide, key, n % ACROSS * WIDTH, n // ACROSS * HEIGHT) for n, key in enumerate(SHOWN)
    ]
    wide, high = ACROSS * WIDTH, (len(SHOWN) + ACROSS - 1) // ACROSS * HEIGHT
    Path(target).write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {high}" width="{wide}">'
        f"<style>{STYLE}text{{font:16px sans-serif}}</style>"
        f'<rect width="100%" height="100%" fill="#fffefb"/>{"".join(cells)}</svg>'
    )


if __name__ == "__main__":
    main(sys.argv[1])
