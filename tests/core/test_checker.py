"""The checker of plans: what the guide plans holds, and every planted error is found."""

import unittest
from collections.abc import Callable
from dataclasses import replace

from bench.plans import TOOLS, sample, sizes
from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.cutting.checker import check_plan
from lepidos.core.cutting.hazards import cautions_by_step, never_used
from lepidos.core.cutting.model import CuttingPlan, FishToCut, Slot
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.cutting.tool_check import Fault, check_tools
from lepidos.core.fish.bodyplan import Step
from lepidos.guide.library import load_guide
from lepidos.guide.plans import ToolSets, check
from tests.amount import much

GUIDE = load_guide()
Change = Callable[[list[Step]], list[Step]]


def without(*keys: str) -> Change:
    return lambda steps: [s for s in steps if s.key not in keys]


def first(key: str) -> Change:
    """A step moved to the front."""
    return lambda steps: sorted(steps, key=lambda s: s.key != key)


def last(key: str) -> Change:
    """A step moved to the end."""
    return lambda steps: sorted(steps, key=lambda s: s.key == key)


def again(key: str) -> Change:
    """A step done a second time, at the end."""
    return lambda steps: [*steps, next(s for s in steps if s.key == key)]


def with_step(key: str, at: int = 10_000, of: str = "round") -> Change:
    """A step of the guide put in, where it was not."""

    def put(steps: list[Step]) -> list[Step]:
        step = next(s for s in GUIDE.plans[of].steps if s.key == key)
        return [*steps[:at], step, *steps[at:]]

    return put


def said(key: str, **words: object) -> Change:
    return lambda steps: [s.model_copy(update=words) if s.key == key else s for s in steps]


RULES = {
    "hurts": "what hurts goes first",
    "gone": "no step needs what is gone",
    "undoes": "no step undoes what was done",
    "forgotten": "nothing is forgotten",
    "balance": "pieces balance",
    "reasons": "reasons are this fish's",
    "tools": "tools are there",
    "unfinished": "weighed when finished",
}
# fish, cm, purpose, skin, facts, the error, the rule that finds it
PLANTED: list[tuple[str, float, str, str, set[str], Change, str]] = [
    ("greater_weever", 30, "fry", "on", set(), without("spines_venom"), "hurts"),
    ("greater_weever", 30, "fry", "on", set(), without("gill_spine"), "hurts"),
    ("greater_weever", 30, "fry", "on", set(), last("spines_venom"), "hurts"),
    ("greater_weever", 30, "pan", "on", set(), without("spines_venom", "gill_spine"), "forgotten"),
    ("lionfish", 35, "oven", "on", set(), without("spines_18"), "forgotten"),
    ("lionfish", 35, "fry", "on", set(), last("spines_18"), "hurts"),
    ("channel_catfish", 60, "fry", "on", set(), last("spines_venom"), "hurts"),
    ("black_sea_bass", 40, "fry", "on", set(), last("spines"), "hurts"),
    ("swordfish", 180, "grill", "on", set(), last("sword_off"), "hurts"),
    ("pollack", 68, "freezer", "on", set(), with_step("head_off", 0), "gone"),
    ("cod", 75, "freezer", "on", set(), again("gut_out"), "gone"),
    ("cod", 75, "freezer", "on", {"bled", "gutted"}, with_step("gut_out", 0), "gone"),
    ("cod", 75, "freezer", "on", {"bled"}, with_step("bleed", 4), "gone"),
    ("cod", 75, "freezer", "on", {"bled", "gutted", "headed"}, with_step("cheeks"), "gone"),
    ("cod", 75, "freezer", "on", set(), last("wash"), "gone"),
    ("european_sea_bass", 50, "grill", "on", set(), last("scale"), "gone"),
    ("european_sea_bass", 50, "grill", "on", set(), first("wash"), "gone"),
    ("salmon", 80, "raw", "off", set(), last("scale_raw"), "gone"),
    ("cod", 75, "raw", "off", set(), with_step("rinse"), "undoes"),
    ("cod", 75, "raw", "off", set(), last("wash"), "undoes"),
    ("cod", 75, "freezer", "on", set(), with_step("rinse"), "undoes"),
    ("cod", 75, "freezer", "on", set(), with_step("through_ribs", 12), "forgotten"),
    ("plaice", 40, "fry", "on", set(), without("turn"), "forgotten"),
    ("turbot", 55, "fry", "on", set(), without("whole_side", "quarters"), "forgotten"),
    ("cod", 75, "freezer", "off", set(), without("skin_off", "skin_deep"), "forgotten"),
    ("cod", 75, "freezer", "on", set(), with_step("skin_off"), "forgotten"),
    ("european_sea_bass", 50, "grill", "on", set(), without("scale"), "forgotten"),
    ("european_sea_bass", 50, "oven", "on", set(), without("scale"), "forgotten"),
    ("cod", 50, "oven", "on", set(), without("gut_out"), "forgotten"),
    ("cod", 75, "raw", "off", set(), without("worms"), "forgotten"),
    ("mackerel", 38, "smoke", "on", set(), without("worms"), "forgotten"),
    ("pollack", 68, "freezer", "on", set(), without("weigh_sides"), "balance"),
    ("pollack", 68, "freezer", "on", set(), again("weigh_sides"), "balance"),
    ("pollack", 68, "freezer", "on", set(), without("belly_off"), "gone"),
    ("european_squid", 25, "fry", "off", set(), without("squid_arms"), "gone"),
    ("mahi_mahi", 90, "grill", "on", set(), said("along_back", why="past the hard scutes"), "reasons"),
    ("cod", 75, "freezer", "on", set(), said("bleed", why="dark meat gains most"), "reasons"),
    ("pollack", 68, "freezer", "on", set(), said("along_back", tool="fillet knife and fillet knife"), "tools"),
    ("monkfish", 80, "freezer", "off", {"gutted", "headed"}, said("rest_headed", gives=("head", "frame")), "gone"),
    ("pollack", 68, "freezer", "on", set(), first("weigh_sides"), "unfinished"),
    ("pollack", 68, "freezer", "on", set(), last("worms"), "unfinished"),
    ("pollack", 68, "freezer", "on", set(), said("belly_off", gives=("belly",)), "unfinished"),
    ("yellowtail", 80, "raw", "off", set(), last("skin_deep"), "unfinished"),
    ("conger", 120, "fry", "off", set(), said("tail_end", gives=("tail_piece",)), "unfinished"),
    ("european_squid", 25, "fry", "off", set(), said("squid_arms", gives=("arms",)), "unfinished"),
]  # fmt: skip


def planned(key: str, cm: float, purpose: str, skin: str, facts: set[str]) -> CuttingPlan:
    species = GUIDE.find(key.replace("_", " ")) if key == "salmon" else GUIDE.one(key)
    kg = weight_from_length(cm / 100, species.length_type, species).value
    to_cut = FishToCut(kg, cm / 100, skin, frozenset(facts), purpose)  # type: ignore[arg-type]
    return plan_cut(to_cut, species, GUIDE.plan_of(species), GUIDE.pieces, GUIDE.methods)


def faults(
    key: str, cut: CuttingPlan, purpose: str, facts: set[str], **more: object
) -> list[Fault]:
    species = GUIDE.find(key.replace("_", " ")) if key == "salmon" else GUIDE.one(key)
    arguments: dict[str, object] = {
        "said": cautions_by_step(cut, species, GUIDE.cautions),
        "parts": {key: one.part for key, one in GUIDE.cautions.items() if one.part},
        "never": never_used(species, GUIDE.cautions),
    } | more
    return check_plan(
        cut, species, GUIDE.pieces, GUIDE.checks,
        arguments["said"], kg=1.0, facts=facts, purpose=purpose,  # type: ignore[arg-type]
        whole=GUIDE.methods.purposes[purpose].whole, never=arguments["never"],  # type: ignore[arg-type]
        pieces=arguments.get("pieces", {}), parts=arguments["parts"],  # type: ignore[arg-type]
    )  # fmt: skip


class PlantedTest(unittest.TestCase):
    def test_each_planted_error_is_found_by_its_rule_and_was_not_there_before(self) -> None:
        self.assertGreaterEqual(len(PLANTED), 25)
        for key, cm, purpose, skin, facts, change, rule in PLANTED:
            cut = planned(key, cm, purpose, skin, facts)
            with self.subTest(fish=key, purpose=purpose, rule=rule):
                self.assertEqual(faults(key, cut, purpose, facts), [])
                broken = replace(cut, steps=tuple(change(list(cut.steps))))
                self.assertNotEqual(broken.steps, cut.steps)
                self.assertIn(RULES[rule], {f.rule for f in faults(key, broken, purpose, facts)})

    def mixed(self, skin: str, apart: dict[str, str], purpose: str = "freezer") -> CuttingPlan:
        """A bass whose pieces are not all for the same."""
        bass = GUIDE.one("european_sea_bass")
        to_cut = FishToCut(1.3, 0.5, skin, frozenset(), purpose, {}, apart)  # type: ignore[arg-type]
        return plan_cut(to_cut, bass, GUIDE.plan_of(bass), GUIDE.pieces, GUIDE.methods)

    def test_planted_errors_of_pieces_that_are_for_something_else(self) -> None:
        apart = {"fillet.B": "raw"}
        cut = self.mixed("on", apart)
        self.assertEqual(faults("european_sea_bass", cut, "freezer", set(), pieces=apart), [])
        off = next(s.key for s in cut.steps if s.skin == "off")
        for change, rule in (
            (without(off), "forgotten"),
            (without("scale"), "forgotten"),
            (said(off, title="Skin off"), "forgotten"),
            (said(off, title="Skin off: of fillet A only"), "forgotten"),
            (with_step("rinse"), "undoes"),
        ):
            broken = replace(cut, steps=tuple(change(list(cut.steps))))
            self.assertNotEqual(broken.steps, cut.steps)
            found = faults("european_sea_bass", broken, "freezer", set(), pieces=apart)
            self.assertIn(RULES[rule], {f.rule for f in found})

    def test_a_fish_for_raw_with_one_side_for_its_skin_is_scaled_once_and_all_over(self) -> None:
        apart = {"fillet.B": "grill"}
        cut = self.mixed("off", apart, "raw")
        scaling = [s for s in cut.steps if "scale" in s.title.lower()]
        self.assertEqual([s.key for s in scaling], ["scale"])
        self.assertNotIn("fillet B", scaling[0].title)
        self.assertEqual(faults("european_sea_bass", cut, "raw", set(), pieces=apart), [])

    def test_a_tool_that_is_not_there_must_be_told(self) -> None:
        names = {key: tool.name for key, tool in GUIDE.tools.items()}
        to_hand = {"fillet_knife"}
        fine = {"a": ("fillet knife", ""), "b": ("pliers", "no pliers to hand: fingers")}
        self.assertEqual(check_tools(fine, names, to_hand), [])
        self.assertEqual(check_tools({"a": ("shears", "")}, names, ()), [])
        # a tool whose name holds another's is not the other
        longer = {"knife": "knife", "flexible": "flexible knife"}
        step = {"a": ("flexible knife", "")}
        self.assertEqual(check_tools(step, longer, ("flexible",)), [])
        self.assertEqual(len(check_tools(step, longer, ("knife",))), 1)
        bad = check_tools({"a": ("fillet knife and shears", "")}, names, to_hand)
        self.assertEqual([(f.rule, f.step) for f in bad], [(RULES["tools"], "a")])

    def test_a_caution_that_no_step_says_is_missed(self) -> None:
        cut = planned("greater_weever", 30, "fry", "on", set())
        found = faults("greater_weever", cut, "fry", set(), said={})
        missed = {f.words.split(" ")[0] for f in found if f.rule == "every caution is said"}
        self.assertEqual(missed, set(GUIDE.one("greater_weever").cautions))

    def test_nothing_poisonous_is_a_piece(self) -> None:
        cut = planned("cabezon", 50, "freezer", "on", set())
        offered = replace(cut, slots=(*cut.slots, Slot("roe", "")))
        rules = {f.rule for f in faults("cabezon", offered, "freezer", set())}
        self.assertIn("nothing poisonous is a piece", rules)

    def test_meat_that_was_not_planned_is_noticed(self) -> None:
        cut = planned("pollack", 68, "freezer", "on", set())
        fewer = replace(cut, pieces=tuple(p for p in cut.pieces if p.piece != "fillet"))
        found = faults("pollack", fewer, "freezer", set())
        self.assertIn("fillet is weighed but not planned", {f.words for f in found})


class GuideTest(unittest.TestCase):
    def test_thousands_of_plans_hold(self) -> None:
        # a fixed sample; the whole is `python -m bench.plans`
        tools = ToolSets(GUIDE, TOOLS)
        for one, to_cut in sample(GUIDE, much(20_000, 3_000), 1):
            if found := check(GUIDE, one, to_cut, tools):
                self.fail(f"{one.key}, {to_cut}: {found[0]}")

    def test_every_step_that_the_checker_knows_is_in_some_plan(self) -> None:
        known = {s.key for plan in GUIDE.plans.values() for s in plan.steps}
        self.assertLessEqual(set(GUIDE.checks.steps), known)

    def test_sizes_go_from_small_to_large(self) -> None:
        for one in GUIDE.species.values():
            self.assertEqual(list(sizes(one)), sorted(sizes(one)))


if __name__ == "__main__":
    unittest.main()
