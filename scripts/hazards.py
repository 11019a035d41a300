"""Writes the table of every fish's hazards, and at which step of each purpose they are said.

`python scripts/hazards.py docs/hazards.md`
"""

import sys
from pathlib import Path

from lepidos.core.fish.species import Species
from lepidos.guide.library import Guide, load_guide
from lepidos.stations.guide.planner import AskPlan, plan_fish

HEAD = """# Hazards, fish by fish

Made by `python scripts/hazards.py docs/hazards.md` from the guide; a test keeps it so. For each
fish and hazard: the step of the plan that says it, with its number, for which purposes, and the
first aid for it. First aid is from memory; a first aid book goes before it, a doctor decides.

"""
USUAL = frozenset({"raw"})  # every fish's


def rows(guide: Guide, one: Species) -> list[str]:
    """A line for each of its hazards."""
    steps: dict[str, dict[str, list[str]]] = {}
    for purpose in guide.methods.purposes:
        planned = plan_fish(guide, AskPlan(one.key, one.longest_cm / 200, purpose=purpose))
        titles = {s.key: (n, s.title) for n, s in enumerate(planned.cut.steps, 1)}
        for step, keys in planned.cautions.items():
            for key in keys:
                if key in one.cautions:
                    number, title = titles[step]
                    steps.setdefault(key, {}).setdefault(f"{number}. {title}", []).append(purpose)
    found = []
    for key in sorted(one.cautions, key=lambda k: guide.cautions[k].grave):
        if key in USUAL:
            continue
        every = len(guide.methods.purposes)
        said = "; ".join(
            f"{title} ({', '.join(purposes) if len(purposes) < every else 'every purpose'})"
            for title, purposes in steps.get(key, {}).items()
        )
        aids = ", ".join(a.title.lower() for a in guide.first_aid.aids if key in a.cautions)
        found.append(f"| {one.name} | {key.replace('_', ' ')} | {said} | {aids or '–'} |")
    return found


def table(guide: Guide) -> str:
    """The whole document."""
    lines = [
        "| fish | hazard | the step that says it | first aid |",
        "| --- | --- | --- | --- |",
    ]
    for one in sorted(guide.species.values(), key=lambda s: s.name.lower()):
        lines += rows(guide, one)
    texts = ["", "## What is said", ""]
    for key, caution in sorted(guide.cautions.items(), key=lambda pair: pair[1].grave):
        if any(key in one.cautions for one in guide.species.values()):
            texts.append(f"- **{key.replace('_', ' ')}**: {caution.text} *{caution.decides}*")
    texts += ["", "## First aid", ""]
    for aid in guide.first_aid.aids:
        texts += [f"**{aid.title}.** {aid.help}", *(f"- {line}" for line in aid.do), ""]
    return HEAD + "\n".join([*lines, *texts]) + "\n"


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(table(load_guide()), "utf-8")
