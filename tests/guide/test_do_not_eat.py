"""What must not be eaten is found by whatever a crew calls it, and says what to do."""

import itertools
import unittest

from lepidos.core.errors import Unknown
from lepidos.guide.do_not_eat import do_not_eat
from lepidos.guide.library import load_guide
from lepidos.guide.names import FITS

KNOWN = do_not_eat()

# what people of a coast call it, as it is found in fishery and health notices of that coast (from memory),
# and a word of what it is
CALLED = {
    "lagokefalos": "pufferfish",
    "balon balığı": "pufferfish",
    "balon baligi": "pufferfish",
    "fugu": "tiger puffer",
    "Lagocephalus": "pufferfish",
    "puffer fish": "puffer",
    "sugar toad": "northern puffer",
    "tamboril": "puffer",
    "lièvre de mer": "puffer",
    "lievre de mer": "puffer",
    "mola": "ocean sunfish",
    "poisson-lune": "ocean sunfish",
    "månefisk": "ocean sunfish",
    "blue-ringed octopus": "octopus",
    "Hapalochlaena": "octopus",
    "walu": "escolar",
    "white tuna": "escolar",
    "oilfish": "oilfish",
    "Ruvettus": "oilfish",
    "håkjerring": "Greenland shark",
    "salpa": "salema",
    "saupe": "salema",
    "gar": "gar roe",
    "grass carp gall": "carp gall",
    "barracuda": "barracuda",
    "moray": "moray",
    "red bass": "red bass",
    "chinamanfish": "chinamanfish",
    "European eel": "European eel",
    "sturgeon": "sturgeon",
}
FORBIDDEN = ("safe", "legal", "illegal", "harmless")


class SearchTest(unittest.TestCase):
    def test_it_is_found_by_what_people_of_its_coast_call_it(self) -> None:
        for text, what in CALLED.items():
            found = KNOWN.search(text)
            with self.subTest(called=text):
                self.assertTrue(found)
                self.assertTrue(any(what in one.name for one in found), [one.name for one in found])

    def test_every_name_of_every_kind_finds_it(self) -> None:
        for one in KNOWN.kinds:
            for name in one.names:
                with self.subTest(kind=one.key, name=name):
                    self.assertIn(one, KNOWN.search(name, 128, least=FITS))

    def test_a_slip_of_the_finger_finds_it_unless_another_fish_bears_that_name(self) -> None:
        self.assertIn("pufferfish", KNOWN.search("lagokephalos")[0].name)
        self.assertEqual(KNOWN.search("lagokephalos", least=FITS), [])
        self.assertEqual(KNOWN.search("witch", least=FITS), [])
        self.assertIn("European eel", KNOWN.search("ål")[0].name)  # a whole name, however short
        self.assertEqual(KNOWN.search("pu"), [])  # half a coast begins so

    def test_what_is_no_food_comes_before_what_asks_for_care(self) -> None:
        for one in ("gar", "shark", "tuna"):
            stops = [
                KNOWN.stops(found)
                for found in KNOWN.search(one, 20, least=FITS)
                if one in found.names
            ]
            self.assertEqual(stops, sorted(stops, reverse=True))


class WordsTest(unittest.TestCase):
    def test_each_says_what_to_do_and_every_danger_is_of_some_fish(self) -> None:
        for one in KNOWN.kinds:
            with self.subTest(kind=one.key):
                self.assertTrue(one.do and one.part and one.why and one.where)
                for order in one.do:
                    self.assertTrue(order[0].isupper(), order)
                    self.assertFalse(order.endswith("."), order)
        used = set(itertools.chain.from_iterable(one.groups for one in KNOWN.kinds))
        self.assertEqual(used, set(KNOWN.groups))

    def test_nothing_is_ever_called_safe_or_legal(self) -> None:
        for one in KNOWN.kinds:
            words = " ".join((one.part, one.why, *one.do)).lower().replace("-", " ").split()
            self.assertFalse(set(words) & set(FORBIDDEN), one.key)

    def test_who_decides_is_named_for_each_danger(self) -> None:
        for danger in KNOWN.groups.values():
            self.assertRegex(danger.decides, "decide|doctor")

    def test_a_poison_in_the_whole_fish_is_never_left_to_taste(self) -> None:
        for one in KNOWN.kinds:
            if "poison_whole" in one.groups:
                orders = " ".join(one.do).lower()
                self.assertRegex(orders, r"do not (eat|touch)|return|hand it in|bin", one.key)


class FindTest(unittest.TestCase):
    def test_no_other_fish_is_offered_in_the_place_of_one_that_must_not_be_eaten(self) -> None:
        """A puffer was answered with: did you mean bluefish, monkfish?"""
        guide = load_guide()
        borne = {name for name in CALLED if guide.called(name)}
        self.assertLess(len(borne), len(CALLED) / 4)
        for name in CALLED.keys() - borne:
            with self.subTest(name), self.assertRaises(Unknown) as told:
                guide.find(name)
            # only fish that are called so with a word before it: a white sturgeon of “sturgeon”
            near = told.exception.suggestions
            self.assertTrue(all(name in one.split() for one in near), near)
            self.assertEqual("may be: " in str(told.exception), not near)

    def test_a_slip_in_a_name_of_the_guide_is_still_helped(self) -> None:
        with self.assertRaisesRegex(Unknown, "did you mean mackerel"):
            load_guide().find("mackrel")


class GuideTest(unittest.TestCase):
    def test_a_fish_of_the_guide_that_is_warned_of_carries_a_caution_itself(self) -> None:
        """A crew that finds its fish in the guide must hear it there as well."""
        for one in load_guide().species.values():
            for warned in KNOWN.kinds:
                if KNOWN.stops(warned) and one.scientific in warned.scientific:
                    with self.subTest(fish=one.key, warned=warned.key):
                        self.assertTrue(one.cautions)
