"""What hurts comes off first and is said where the hand is; nothing poisonous is ever food."""

import itertools
import tomllib
import unittest
from pathlib import Path

from lepidos.core.cutting.hazards import at_landing, never_used, own_caution
from lepidos.core.fish.species import Species
from lepidos.guide.library import load_guide
from lepidos.stations.guide.planner import STATES, AskPlan, Planned, plan_fish
from scripts.hazards import table

GUIDE = load_guide()
VENOMOUS = [s for s in GUIDE.species.values() if "venomous_spines" in s.traits]
SIZES = (0.15, 0.5, 0.95)  # of the longest
ROOT = Path(__file__).parents[2]


KNOWN_FOR = tomllib.loads((ROOT / "tests/guide/known_for.toml").read_text("utf-8"))

MAX_NEW_FISH = 5  # in the guide before the documents were made again


def plans(one: Species, **more: object) -> list[Planned]:
    """Every purpose, state, skin and a few sizes of a fish."""
    return [
        plan_fish(GUIDE, AskPlan(one.key, one.longest_cm / 100 * size, purpose=purpose, state=state, skin=skin, **more))
        for purpose, state, skin, size in itertools.product(GUIDE.methods.purposes, STATES, ("on", "off"), SIZES)
    ]  # fmt: skip


class VenomTest(unittest.TestCase):
    def test_the_first_step_disarms_every_venomous_fish_for_every_purpose(self) -> None:
        self.assertGreaterEqual(len(VENOMOUS), 6)
        for one in VENOMOUS:
            for planned in plans(one):
                with self.subTest(fish=one.key, purpose=planned.fish.purpose):
                    first = planned.cut.steps[0]
                    self.assertTrue(first.caution.startswith("venom"), first.title)
                    self.assertIn("shears", first.tool)
                    self.assertIn(
                        own_caution("venom", one, GUIDE.cautions), planned.cautions[first.key]
                    )

    def test_each_has_a_sting_text_of_its_own_that_is_said_at_landing(self) -> None:
        for one in VENOMOUS:
            key = own_caution("venom", one, GUIDE.cautions)
            self.assertNotEqual(key, "venom", one.key)
            self.assertEqual(at_landing(one, GUIDE.cautions)[0], key)
            for word in ("hot water", "medical help", "breathing", "even after death"):
                self.assertIn(word, GUIDE.cautions[key].text, key)

    def test_catfish_and_rockfish_say_more_than_punctures(self) -> None:
        for key, word in (
            ("channel_catfish", "breast fin"),
            ("rockfish", "mild venom"),
            ("greater_weever", "gill cover"),
        ):
            one = GUIDE.one(key)
            self.assertIn(word, GUIDE.cautions[own_caution("venom", one, GUIDE.cautions)].text)

    def test_a_fish_without_venom_is_not_told_of_any(self) -> None:
        for key in ("cod", "scup", "red_gurnard", "mackerel"):
            for planned in plans(GUIDE.one(key)):
                self.assertFalse(any(s.caution.startswith("venom") for s in planned.cut.steps))

    def test_armour_comes_off_a_fish_that_is_cooked_whole_too(self) -> None:
        for planned in plans(GUIDE.one("red_gurnard")):
            handled = [s.key for s in planned.cut.steps if s.phase != "look"]
            self.assertEqual(handled[0], "armour")


class SaidTest(unittest.TestCase):
    def test_every_caution_of_every_fish_is_said_at_a_step_of_every_plan(self) -> None:
        for one in GUIDE.species.values():
            for purpose in GUIDE.methods.purposes:
                planned = plan_fish(GUIDE, AskPlan(one.key, one.longest_cm / 200, purpose=purpose))
                said = {key for keys in planned.cautions.values() for key in keys}
                self.assertLessEqual(set(one.cautions), said, (one.key, purpose))
                self.assertLessEqual(set(planned.cautions), {s.key for s in planned.cut.steps})

    def test_reef_toxin_and_mercury_are_said_before_the_knife(self) -> None:
        for key in ("black_grouper", "swordfish", "bluefin_tuna"):
            planned = plan_fish(GUIDE, AskPlan(key, 1.0))
            self.assertLessEqual(
                {"ciguatera", "mercury"} & set(GUIDE.one(key).cautions),
                set(planned.cautions["look"]),
            )

    def test_smoked_fish_is_looked_over_for_worms(self) -> None:
        for key in ("cod", "mackerel", "plaice"):
            planned = plan_fish(GUIDE, AskPlan(key, 0.4, purpose="smoke"))
            self.assertIn("raw", planned.cautions["worms"])

    def test_jacks_and_tunas_keep_their_histamine_clock(self) -> None:
        forming = ("crevalle_jack", "bar_jack", "horse_eye_jack", "yellow_jack", "greater_amberjack", "yellowtail",
                   "mahi_mahi", "mackerel", "albacore", "skipjack_tuna", "sardine", "herring")  # fmt: skip
        for key in forming:
            self.assertIn("histamine", GUIDE.one(key).traits, key)
            self.assertTrue(GUIDE.one(key).warns_of("histamine"), key)
        for one in GUIDE.species.values():
            self.assertEqual("histamine" in one.traits, one.warns_of("histamine"), one.key)

    def test_every_kind_warns_of_what_it_is_known_for(self) -> None:
        for general, kinds in (
            ("liver", KNOWN_FOR["liver_rich"]), ("bites", KNOWN_FOR["biting"]), ("ciguatera", KNOWN_FOR["reef_toxin"]),
            ("mercury", [*KNOWN_FOR["much_mercury"], *KNOWN_FOR["some_mercury"]]), ("histamine", KNOWN_FOR["histamine"]),
            ("sharp_spines", ["common_carp"]), ("carp_gall", ["common_carp"]), ("venom", ["common_stingray"]),
        ):  # fmt: skip
            for key in kinds:
                with self.subTest(kind=key, of=general):
                    self.assertTrue(GUIDE.one(key).warns_of(general))
        for key in KNOWN_FOR["much_mercury"]:
            self.assertIn("mercury", GUIDE.one(key).cautions, key)

    def test_a_caution_is_true_of_the_kinds_that_carry_it(self) -> None:
        for one in GUIDE.species.values():
            said = " ".join(GUIDE.cautions[key].text for key in one.cautions)
            with self.subTest(kind=one.key):
                if "dark" in said:
                    self.assertIn("dark_meat", one.traits)
                if "reef predator" in said:
                    self.assertIn(one.key, KNOWN_FOR["reef_toxin"])
                if "among its arms" in said:
                    self.assertIn("squid", one.key)

    def test_the_liver_that_poisons_is_never_a_piece_or_a_use(self) -> None:
        found = [one for one in GUIDE.species.values() if "liver_never" in one.cautions]
        self.assertGreaterEqual(len(found), 20)
        for one in found:
            self.assertIn("liver", never_used(one, GUIDE.cautions))
            for planned in plans(one):
                pieces = {slot.piece for slot in planned.cut.slots}
                self.assertNotIn("liver", pieces, one.key)

    def test_the_backbone_of_a_giant_is_told_in_one_way(self) -> None:
        for key in ("swordfish", "bluefin_tuna", "albacore"):
            for planned in plans(GUIDE.one(key)):
                said = " ".join(f"{s.title} {s.why} {s.feel} {s.rescue}" for s in planned.cut.steps)
                self.assertNotIn("marrow", said)
                self.assertNotIn("gap between two joints", said, key)

    def test_the_table_in_the_documents_is_what_the_guide_says(self) -> None:
        # a fish that is new in the guide comes in with the next `make docs`
        listed = (ROOT / "docs/hazards.md").read_text("utf-8").splitlines()
        said = table(GUIDE).splitlines()
        self.assertEqual([line for line in listed if line not in said], [])
        known = {line.split(" | ")[0] for line in listed}
        missing = [line for line in said if line not in listed and line.split(" | ")[0] in known]
        self.assertEqual(missing, [])
        self.assertLessEqual(len({line.split(" | ")[0] for line in said} - known), MAX_NEW_FISH)


class PoisonTest(unittest.TestCase):
    def test_poisonous_roe_is_never_asked_for(self) -> None:
        poisonous = [s for s in GUIDE.species.values() if "roe" in never_used(s, GUIDE.cautions)]
        self.assertIn("cabezon", [s.key for s in poisonous])
        for one in poisonous:
            for planned in plans(one):
                for step in planned.cut.steps:
                    self.assertNotIn("look for roe", f"{step.title} {step.why}")
                self.assertNotIn("roe", {slot.piece for slot in planned.cut.slots})
                said = [key for keys in planned.cautions.values() for key in keys]
                self.assertIn("toxic_roe", said)

    def test_its_gut_step_says_so_and_other_fish_are_asked_for_their_roe(self) -> None:
        planned = plan_fish(GUIDE, AskPlan("cabezon", 0.5))
        gut = next(s for s in planned.cut.steps if "gut" in s.gives)
        self.assertIn("poisonous", gut.why)
        self.assertEqual(planned.cautions[gut.key][:1], ("toxic_roe",))
        self.assertIn("gall", planned.cautions[gut.key])
        cod = next(s for s in plan_fish(GUIDE, AskPlan("cod", 0.7)).cut.steps if "gut" in s.gives)
        self.assertIn("look for roe", cod.why)


class RibsTest(unittest.TestCase):
    def test_ribs_that_are_cut_through_are_cut_out_after_both_sides(self) -> None:
        tried = 0
        for one in GUIDE.species.values():
            plan = GUIDE.plan_of(one)
            if "ribs:through" not in plan.ways:
                continue
            tried += 1
            cut = plan_fish(
                GUIDE, AskPlan(one.key, one.longest_cm / 200, methods={"ribs": "through"})
            ).cut
            keys = [s.key for s in cut.steps]
            self.assertLess(keys.index("through_ribs"), keys.index("ribs_out"), one.key)
            self.assertLess(keys.index("side_b"), keys.index("ribs_out"), one.key)
            over = plan_fish(
                GUIDE, AskPlan(one.key, one.longest_cm / 200, methods={"ribs": "over"})
            ).cut
            self.assertNotIn("ribs_out", [s.key for s in over.steps])
        self.assertGreater(tried, 40)
