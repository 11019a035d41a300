"""A crew's own fish and plans: what does not hold is refused in words, what no longer holds is kept."""

import sqlite3
import threading
import tomllib
from random import Random

from lepidos.guide.own import forget, text_of
from lepidos.stations.guide import own_guide
from tests.amount import much
from tests.web.sweep import SweepTest, spoiled

TRIED = 30


class OwnGuideTest(SweepTest):
    def text(self, key: str = "cod", kind: str = "species") -> str:
        return text_of(kind, key).replace('code = "C"', 'code = "QC"')

    def keep(self, key: str, toml: str, kind: str = "species"):
        return self.form("/guide/own", kind=kind, own_key=key, toml=toml)

    def write_behind_our_back(self, key: str, toml: str) -> None:
        self.client.__exit__(None, None, None)
        with sqlite3.connect(self.folder / "lepidos.sqlite") as file:
            file.execute("UPDATE own_guide SET toml = ? WHERE key = ?", (toml, key))
        file.close()
        self.client.__enter__()
        self.ctx = self.app.state.context

    def test_a_spoiled_fish_is_refused_in_words_or_leaves_every_page_open(self) -> None:
        trip = self.start_cold_trip()
        cases = list(spoiled(tomllib.loads(self.text())))
        self.assertGreater(len(cases), 500)
        kept = 0
        for what, toml in Random(11).sample(cases, TRIED):
            with self.subTest(what=what):
                answer = self.keep("harbour_cod", toml)
                if answer.status_code == 422:
                    self.assertIn('id="problem-toml"', answer.text)
                    self.assertNotIn("input_value", answer.text)
                    continue
                self.assertEqual(answer.status_code, 303)
                kept += 1
                self.assertEqual(self.client.get("/guide/harbour_cod").status_code, 200)
                self.land_by_api(trip, "harbour_cod", 3.0)
                self.land_by_api(trip, "harbour_cod", 70)
        self.assertGreater(kept, 3)
        self.assert_all_pages_answer(trip, ["harbour_cod"])

    def test_the_values_that_once_broke_pages_are_refused(self) -> None:
        cases = {
            "a = 0.0070": "a = inf", "mouth = [[": "mouth = []\n# [[", "root = 0.": "root = 0\n#",
            "b = 3.08": "b = nan", 'source = "foodsafety-chart"': 'source = "hearsay"',
        }  # fmt: skip
        for old, new in cases.items():
            text = self.text()
            self.assertIn(old, text)
            answer = self.keep("harbour_cod", text.replace(old, new, 1))
            self.assertEqual(answer.status_code, 422, new)
        for old, new in (
            ("[[zones]]", "[[zone]]"),
            ('B = "side B"', ""),
            ("[[steps]]", "[[step]]"),
        ):
            plan = self.text("round", "plan")
            self.assertEqual(
                self.keep("our_way", plan.replace(old, new), "plan").status_code, 422, new
            )

    def test_a_mark_cannot_carry_markup_into_the_page(self) -> None:
        text = self.text("plaice")
        self.assertIn('colour = "', text)
        for colour in ('x\\"><form action=/undo>', "red dark"):
            bad = text.replace('colour = "', f'colour = "{colour}', 1).replace("PL", "QP", 1)
            self.assertEqual(self.keep("odd_plaice", bad).status_code, 422)

    def test_a_fish_that_no_longer_loads_is_set_aside_and_repaired_where_it_is_listed(self) -> None:
        trip = self.start_cold_trip()
        self.keep("harbour_cod", self.text())
        fish = self.land_by_api(trip, "harbour_cod", 70)
        self.weigh(fish, "fillet.A", "0.5")
        self.write_behind_our_back("harbour_cod", self.text().replace("b = 3.08", "b = 9.0"))
        self.assert_all_pages_answer(trip)
        listed = self.page("/guide/own")
        self.assertIn("length_weight.b is 9.0: write a number from 2 to 3.6", listed)
        self.assertIn("/guide/own/write?kind=species&amp;from=harbour_cod", listed)
        self.assertIn("b = 9.0", self.page("/guide/own/write?kind=species&from=harbour_cod"))
        self.assertIn("set aside", self.page(f"{trip}/deck"))
        self.assertEqual(self.keep("harbour_cod", self.text()).status_code, 303)
        self.assertNotIn("set aside", self.page(f"{trip}/deck"))
        self.assertEqual(self.client.get(fish).status_code, 200)

    def test_a_late_retry_of_a_removal_does_not_drop_what_was_written_since(self) -> None:
        self.keep("harbour_cod", self.text())
        order = own_guide.RemoveOwn("species", "harbour_cod")
        own_guide.remove_own(self.ctx, "remove-once", order)
        self.keep("harbour_cod", self.text())
        own_guide.remove_own(self.ctx, "remove-once", order)
        self.assertEqual(self.client.get("/guide/harbour_cod").status_code, 200)

    def test_the_guide_can_be_read_while_it_is_changed(self) -> None:
        stop, broken = threading.Event(), []

        def read() -> None:
            while not stop.is_set():
                try:
                    sum(len(s.name) for s in self.ctx.guide.species.values())
                except RuntimeError as error:
                    broken.append(error)
                    return

        readers = [threading.Thread(target=read) for _ in range(3)]
        for reader in readers:
            reader.start()
        for k in range(much(300, 60)):
            self.ctx.guide.renew(
                species=self.ctx.guide.species | {f"odd_{k}": self.ctx.guide.one("cod")}
            )
            forget(self.ctx.guide, "species", f"odd_{k}")
        stop.set()
        for reader in readers:
            reader.join()
        self.assertEqual(broken, [])
