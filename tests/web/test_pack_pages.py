"""Pack's page: bags and pieces are kept as they were shown, and only as long as they are so."""

import re
from unittest.mock import patch

from lepidos.web.pack import lines
from tests.web.client import WebTest

KG = (("pollack", 0.58), ("cod", 0.71))


class KeptLinesTest(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip(parties="Tolland, Marsh")
        self.fish = {}
        for species, kg in KG:
            self.fish[species] = self.land(self.trip, species)
            self.weigh(species, "fillet.A", kg)

    def weigh(self, species: str, slot: str, kg: float) -> str:
        answer = self.form(f"/live{self.fish[species]}/weighings", slot=slot, weight=f"{kg} kg")
        self.assertEqual(answer.status_code, 200, answer.text)
        return str(answer.json()["id"])

    def bags(self, **asked: str) -> list[str]:
        """The words of each bag in the columns."""
        page = self.client.get(f"{self.trip}/pack", params=asked).text
        found = re.findall(r'<a class="one-bag.*?</a>', page)
        return [re.sub(r"\s+", " ", re.sub("<[^>]+>", " ", one)).strip() for one in found]

    def made(self) -> list[str]:
        """The kinds of fish whose bags and pieces are made anew as the page is shown."""
        with patch.object(lines, "fragment", wraps=lines.fragment) as fragment:
            self.bags()
        shown = [call.kwargs.get("r") or call.kwargs["bag"] for call in fragment.call_args_list]
        return sorted(line.species.key for line in shown)

    def test_only_what_changed_is_made_again(self) -> None:
        first = self.made()
        self.assertEqual(len(first), len(self.bags()) + len(KG))  # a line for each piece, too
        self.assertEqual(set(first), {"cod", "pollack"})
        self.assertEqual(self.made(), [])
        self.weigh("cod", "fillet.B", 0.69)
        self.assertEqual(set(self.made()), {"cod"})
        self.assertEqual(self.made(), [])

    def test_a_corrected_weight_is_shown(self) -> None:
        before = self.bags()
        made = self.weigh("pollack", "fillet.B", 0.31)
        more = self.bags()
        self.assertNotEqual(before, more)
        answer = self.form(f"{self.fish['pollack']}/corrections", weighing=made, kg="0.62")
        self.assertEqual(answer.status_code, 303, answer.text[-300:])
        self.assertNotEqual(self.bags(), more)
        whole = self.client.get(f"{self.trip}/pack").text
        self.assertIn('<span class="measured">620 g</span>', whole)
        self.assertNotIn('<span class="measured">310 g</span>', whole)

    def test_units_columns_and_the_bag_at_hand_are_those_that_were_asked_for(self) -> None:
        grams = self.bags()
        self.assertTrue(all(" g" in one or " kg" in one for one in grams), grams)
        self.client.cookies.set("units", "imperial")
        self.assertTrue(all(" oz" in one or " lb" in one for one in self.bags()), self.bags())
        self.client.cookies.set("units", "metric")
        self.assertEqual(self.bags(), grams)
        page = self.client.get(f"{self.trip}/pack").text
        keys = re.findall(r'<a class="one-bag.*?href="\?bag=([^"]+)"', page)
        other = self.client.get(f"{self.trip}/pack", params={"bag": keys[-1]}).text
        at_hand = re.findall(r'<a class="one-bag at-hand".*?href="\?bag=([^"]+)"', other)
        self.assertEqual(at_hand, [keys[-1]])
        self.assertEqual(re.findall(r'one-bag at-hand".*?href="\?bag=([^"]+)"', page), keys[:1])
