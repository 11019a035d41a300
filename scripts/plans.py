"""Writes plans out whole, to be read as a cutter would: `python scripts/plans.py docs/plans`.

With `--golden FILE` also their meaning (order of steps, pieces, cautions), which a test holds.
"""

import json
import sys
from pathlib import Path

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.cutting.hazards import cautions_by_step
from lepidos.core.cutting.model import CuttingPlan, FishToCut
from lepidos.core.cutting.plan import plan_cut
from lepidos.guide.library import Guide, load_guide

Row = tuple[str, float, str, str, tuple[str, ...], dict[str, str]]
# fish, length [cm], purpose, skin, state, ways
CHOSEN: list[Row] = [
    ("cod", 75, "freezer", "on", (), {}),
    ("cod", 110, "raw", "off", ("bled",), {}),
    ("cod", 60, "freezer", "on", ("bled", "gutted", "headed"), {}),
    ("pollack", 68, "fry", "off", (), {"ribs": "through"}),
    ("haddock", 45, "smoke", "on", (), {}),
    ("ling", 98, "freezer", "on", ("bled",), {"head": "off"}),
    ("european_sea_bass", 48, "oven", "on", (), {}),
    ("european_sea_bass", 55, "raw", "off", (), {}),
    ("red_grouper", 60, "fry", "off", (), {"blade": "electric"}),
    ("black_sea_bream", 33, "pan", "on", (), {}),
    ("gilthead_bream", 38, "fry", "on", (), {}),
    ("mackerel", 38, "freezer", "on", (), {}),
    ("mackerel", 36, "raw", "off", ("bled",), {}),
    ("herring", 27, "smoke", "on", (), {}),
    ("plaice", 40, "fry", "on", (), {}),
    ("plaice", 48, "freezer", "off", ("gutted",), {"sides": "both"}),
    ("turbot", 60, "grill", "on", (), {}),
    ("sole", 34, "pan", "on", (), {}),
    ("atlantic_halibut", 120, "freezer", "off", (), {}),
    ("greater_weever", 30, "fry", "on", (), {}),
    ("greater_weever", 26, "pan", "on", (), {}),
    ("lionfish", 34, "fry", "on", (), {}),
    ("red_gurnard", 35, "freezer", "on", (), {}),
    ("greater_amberjack", 95, "grill", "on", (), {}),
    ("crevalle_jack", 70, "raw", "off", (), {}),
    ("mahi_mahi", 95, "grill", "off", (), {}),
    ("bluefin_tuna", 160, "raw", "off", ("bled",), {}),
    ("swordfish", 180, "grill", "on", (), {}),
    ("atlantic_salmon", 80, "smoke", "on", (), {}),
    ("channel_catfish", 60, "fry", "off", (), {}),
    ("northern_pike", 75, "fry", "off", (), {}),
    ("common_carp", 60, "oven", "on", (), {}),
    ("white_sturgeon", 130, "smoke", "off", (), {}),
    ("cobia", 110, "grill", "on", (), {}),
    ("cabezon", 50, "freezer", "on", (), {}),
    ("conger", 150, "fry", "off", (), {}),
    ("european_eel", 60, "smoke", "off", (), {}),
    ("spiny_dogfish", 80, "fry", "off", (), {}),
    ("monkfish", 80, "grill", "on", (), {}),
    ("red_drum", 80, "grill", "on", (), {}),
    ("john_dory", 45, "freezer", "off", (), {}),
    ("sole", 38, "fry", "off", (), {}),
    ("sardine", 20, "fry", "on", (), {}),
    ("pouting", 30, "stock", "on", (), {}),
    ("thornback_ray", 70, "fry", "off", (), {}),
    ("common_stingray", 60, "grill", "off", (), {}),
    ("european_squid", 35, "fry", "off", (), {}),
    ("european_squid", 22, "pan", "on", (), {}),
    ("skipjack_tuna", 60, "raw", "off", (), {}),
]


def planned(guide: Guide, row: Row) -> CuttingPlan:
    """The plan of one row."""
    key, cm, purpose, skin, facts, methods = row
    species = guide.one(key)
    kg = weight_from_length(cm / 100, species.length_type, species).value
    fish = FishToCut(kg, cm / 100, skin, frozenset(facts), purpose, methods)  # type: ignore[arg-type]
    return plan_cut(fish, species, guide.plan_of(species), guide.pieces, guide.methods)


def _sentence(text: str) -> str:
    return text if text.endswith("?") else f"{text}."


def name_of(row: Row) -> str:
    """What a plan's page is called."""
    key, cm, purpose, skin, facts, methods = row
    ways = [f"{k}-{v}" for k, v in methods.items()]
    return "-".join([key.replace("_", "-"), f"{cm:g}", purpose, *facts, f"skin-{skin}", *ways])


def page(guide: Guide, row: Row) -> str:
    """A plan as it would be read out."""
    key, cm, purpose, _, facts, methods = row
    species, cut = guide.one(key), planned(guide, row)
    said = cautions_by_step(cut, species, guide.cautions)
    was = ", ".join(facts) or "as it came from the water"
    ways = "".join(f", {guide.methods.by_key()[k].options[v]}" for k, v in methods.items())
    lines = [
        f"# {species.name[:1].upper()}{species.name[1:]}, {cm:g} cm, "
        f"{guide.methods.purposes[purpose].text}",
        f"It is {was}{ways}; skin {cut.skin}. {len(cut.steps)} steps, {cut.minutes:.0f} min.\n",
    ]
    for number, step in enumerate(cut.steps, 1):
        lines.append(
            f"{number}. **{_sentence(step.title)}** {step.why[:1].upper()}{step.why[1:]}. "
            f"With: {step.tool}."
        )
        if step.feel:
            lines.append(f"   You feel: {step.feel}.")
        if step.wrong:
            lines.append(f"   If {step.wrong}: {step.rescue}.")
        lines += [
            f"   *Care: {guide.cautions[c].text} {guide.cautions[c].decides}*"
            for c in said.get(step.key, ())
        ]
    lines.append(f"\nPieces: {', '.join(slot.key for slot in cut.slots)}.\n")
    return "\n".join(lines)


def meaning(guide: Guide, row: Row) -> dict[str, object]:
    """What a plan says, without its wording."""
    cut = planned(guide, row)
    said = cautions_by_step(cut, guide.one(row[0]), guide.cautions)
    return {
        "steps": [step.key for step in cut.steps],
        "pieces": [slot.key for slot in cut.slots],
        "cautions": {step: list(keys) for step, keys in said.items()},
        "skin": cut.skin,
    }


def main(folder: str, golden: str = "") -> None:
    """Write every page, and the index."""
    guide, to = load_guide(), Path(folder)
    to.mkdir(parents=True, exist_ok=True)
    for row in CHOSEN:
        (to / f"{name_of(row)}.md").write_text(page(guide, row), "utf-8")
    if golden:
        found = {name_of(row): meaning(guide, row) for row in CHOSEN}
        Path(golden).write_text(json.dumps(found, indent=1) + "\n", "utf-8")


if __name__ == "__main__":
    main(*[word for word in sys.argv[1:] if not word.startswith("--")])
