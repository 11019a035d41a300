"""Every species of the guide, with its zones, on one SVG: for looking at the drawings."""

import sys
from pathlib import Path

from lepidos.core.anatomy import volume_weight_kg, zone_polygon
from lepidos.core.catch import weight_from_length
from lepidos.exchange import svg
from lepidos.guide.library import load_guide

STYLE = (Path(__file__).parents[1] / "lepidos/web/static/fish.css").read_text()
TOKENS = (Path(__file__).parents[1] / "lepidos/web/static/tokens.css").read_text()


def main(target: str) -> None:
    """Write the sheet to `target`."""
    guide = load_guide()
    rows, y = [], 10.0
    for one in guide.species.values():
        body, plan = guide.body_of(one), guide.plan_of(one)
        window = svg.frame(body)
        zones = "".join(
            f'<path class="zone" d="{svg.path_of(zone_polygon(body, plan, z.key), True)}"/>'
            for z in plan.zones
        )
        metres = one.longest_cm / 200
        by_volume = volume_weight_kg(body, metres)
        by_length = weight_from_length(metres, "total", one).value
        for k, extra in enumerate(("", zones + svg.bones(body, plan))):
            rows.append(
                f'<g transform="translate({20 + k * 620} {y - window.top * 0.57}) scale(0.57)">'
                f'<g transform="{svg.flip(one)}">{svg.fish_group(one, body)}{extra}</g></g>'
            )
        label = f"{one.name}: volume {by_volume:.2f} kg, length {by_length:.2f} kg"
        rows.append(f'<text x="20" y="{y + 12}">{label}</text>')
        y += window.height * 0.57 + 16
    Path(target).write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1260 {y:.0f}" width="1260">'
        f"<style>{TOKENS}{STYLE}text{{font:15px sans-serif}}</style>"
        f'<rect width="100%" height="100%" fill="#fffefb"/>{"".join(rows)}</svg>'
    )


if __name__ == "__main__":
    main(sys.argv[1])
