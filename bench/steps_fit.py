"""How many of the guide's steps fit their place at the bench without scrolling, by window.

`python -m bench.steps_fit ADDRESS_OF_A_BENCH`: of a running app, such as http://…/fish/01…
"""

import sys
from itertools import product

from playwright.sync_api import sync_playwright

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.cutting.hazards import cautions_by_step
from lepidos.core.cutting.model import FishToCut
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.errors import LepidosError
from lepidos.guide.library import load_guide
from tests.browser.chromium import program

WINDOWS = ((390, 844), (844, 390), (768, 1024), (360, 740))
Words = tuple[str, str, tuple[str, ...]]

# The words of one step in the present one's place; how much of them is out of sight [px].
PUT = """([title, why, cares]) => {
  const now = document.querySelector("#bench-now"), step = now.querySelector(".now-step");
  for (const other of now.querySelectorAll(".now-step.extra, .advice")) other.remove();
  step.querySelector("h2").textContent = title;
  step.querySelector(".reason").textContent = why;
  const length = cares.join("").length;
  step.className = `now-step${length > 300 ? " very-wordy" : length > 150 ? " wordy" : ""}`;
  for (const old of step.querySelectorAll(".caution")) old.remove();
  for (const text of cares) {
    const care = Object.assign(document.createElement("p"), { className: "caution", textContent: text });
    step.querySelector(".reason").after(care);
  }
  return now.scrollHeight - now.clientHeight;
}"""


def every_step() -> list[Words]:
    """The words of each step that differs, over all fish and purposes."""
    guide, found = load_guide(), {}
    for species, purpose, skin in product(
        guide.species.values(), ("freezer", "raw", "grill", "pan", "smoke"), ("on", "off")
    ):
        cm = species.longest_cm * 0.6
        kg = weight_from_length(cm / 100, species.length_type, species).value
        fish = FishToCut(kg, cm / 100, skin, frozenset(), purpose, {})  # type: ignore[arg-type]
        try:
            plan = plan_cut(fish, species, guide.plan_of(species), guide.pieces, guide.methods)
        except LepidosError:
            continue
        said = cautions_by_step(plan, species, guide.cautions)
        for step in plan.steps:
            cares = tuple(
                f"{guide.cautions[c].text} {guide.cautions[c].decides}"
                for c in said.get(step.key, ())
            )
            why = f"{step.why[:1].upper()}{step.why[1:]}. With: {step.tool}."
            found[step.title, why, cares] = None
    return list(found)


def main(address: str) -> None:
    """Print, for each window, how many fit and the worst."""
    steps = every_step()
    with sync_playwright() as p:
        browser = p.chromium.launch(executable_path=program(), args=["--no-sandbox"])
        for width, height in WINDOWS:
            page = browser.new_page(viewport={"width": width, "height": height}, locale="en-GB")
            page.goto(address)
            page.wait_for_load_state()
            over = {step: page.evaluate(PUT, step) for step in steps}
            worst = sorted(over, key=lambda step: -over[step])[:12]
            fit = sum(px <= 1 for px in over.values())
            print(f"{width}x{height}: {fit} of {len(steps)} fit")
            for step in worst:
                if over[step] > 1:
                    print(f"   {over[step]} px: {step[0]} ({len(step[2])} cautions)")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
