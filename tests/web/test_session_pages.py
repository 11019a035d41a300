"""The bench's page and its forms over HTTP: every write, every slip, and the scale's stream."""

import json
import re
import threading

from tests.web.client import WebTest


class SessionPages(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.fish = self.land(self.trip, weight="2.91")

    def post(self, path: str, /, **fields: object) -> str:
        answer = self.form(f"{self.fish}/{path}", **fields)
        self.assertEqual(answer.status_code, 303, re.sub(r"<[^>]+>", " ", answer.text)[-900:])
        return self.page()

    def page(self) -> str:
        """The bench's own part of the page, without its drawing: short enough for a failure."""
        answer = self.client.get(self.fish)
        self.assertEqual(answer.status_code, 200)
        return re.sub(r"<svg.*?</svg>", "", answer.text.split("<main")[1], flags=re.S)

    def text(self) -> str:
        return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", self.page()))

    def boards(self) -> list[str]:
        for name in ("Ines", "Tobias"):
            self.form(f"{self.trip}/boards", cutter=name)
        page = self.client.get(f"{self.trip}/table").text
        return list(dict.fromkeys(re.findall(r"/boards/([0-9A-Z]{26})/mine", page)))


class DrawingTest(SessionPages):
    def drawing(self, fish: str, side: str) -> str:
        page = self.client.get(f"{fish}?side={side}").text
        return page.split('class="sheet picture"')[1].split("</svg>")[0]

    def caption(self, drawing: str, name: str) -> float:
        return float(re.findall(rf'class="caption" x="(-?\d+)" y="-?\d+">{name}', drawing)[0])

    def test_a_flatfish_lies_with_the_side_up_that_is_worked(self) -> None:
        plaice = self.land(self.trip, species="plaice", length="48")
        eyed, blind = (self.drawing(plaice, side) for side in "AB")
        self.assertIn("skin-sand pale", eyed)
        self.assertIn("skin-white", blind)
        # its right side is the eyed one: turned over, its head comes to the left
        heads = [self.caption(drawing, "head") for drawing in (eyed, blind)]
        self.assertGreater(heads[0], 600)
        self.assertAlmostEqual(heads[1], 1000 - heads[0], delta=1)
        # a touch on the drawing is told in the fish's own geometry
        self.assertIn("data-flip", self.client.get(f"{plaice}?side=A").text)
        self.assertNotIn("data-flip", self.client.get(f"{plaice}?side=B").text)

    def test_all_spines_are_in_sight_while_they_are_taken_off(self) -> None:
        lionfish = self.land(self.trip, species="lionfish", length="34")
        page = self.client.get(lionfish).text
        (whole,), (near,) = (
            re.findall(rf'data-{name}="([^"]+)"', page) for name in ("whole", "near")
        )
        self.assertEqual(near, whole)
        self.assertEqual(
            self.drawing(lionfish, "A").count('class="sting"'), 17
        )  # one pelvic a side

    def test_any_other_fish_looks_the_same_on_both_sides(self) -> None:
        self.assertEqual(
            self.caption(self.drawing(self.fish, "A"), "head"),
            self.caption(self.drawing(self.fish, "B"), "head"),
        )
        self.assertIn("skin-brown", self.drawing(self.fish, "B"))  # a dead pollack


class FormTest(SessionPages):
    def test_a_queued_weighing_arrives_once_however_often_it_is_sent(self) -> None:
        fields = {"key": "queued-0001", "slot": "fillet.A", "weight": "0.58", "waited_ms": "60000"}
        answers = [
            self.client.post(f"/live{self.fish}/weighings", data=fields).json() for _ in range(5)
        ]
        self.assertEqual(len({a["id"] for a in answers}), 1)
        self.assertEqual([a["repeated"] for a in answers], [False, True, True, True, True])
        self.assertEqual(answers[0]["sentence"], "P1 fillet A: 580 g")

    def test_a_weighing_sent_again_later_is_no_other(self) -> None:
        fields = {"key": "queued-0002", "slot": "fillet.A", "weight": "0.58"}
        for waited_ms in (400, 61_000):
            answer = self.client.post(
                f"/live{self.fish}/weighings", data={**fields, "waited_ms": waited_ms}
            )
            self.assertEqual(answer.status_code, 200, answer.text[:200])
        self.assertIn("1 weighing", self.text())

    def test_the_pages_script_sends_any_form_and_asks_what_was_done(self) -> None:
        script = {"accept": "application/json"}
        step = re.findall(r'name="step" value="(\w+)"', self.page())[0]
        fields = {"key": "script-0001", "step": step, "waited_ms": "120000"}
        answer = self.client.post(f"{self.fish}/steps", data=fields, headers=script)
        self.assertEqual(answer.status_code, 303)
        done = self.client.get("/live/done/script-0001").json()
        self.assertEqual((done["kind"], done["question"]), ("fact", ""))
        self.assertTrue(done["sentence"].startswith("P1: "))
        # once more, later: the same; as something new: a sentence for the script
        again = self.client.post(
            f"{self.fish}/steps", data={**fields, "waited_ms": "180000"}, headers=script
        )
        self.assertEqual(again.status_code, 303)
        other = self.client.post(
            f"{self.fish}/steps", data={**fields, "key": "script-0002"}, headers=script
        )
        self.assertEqual(other.status_code, 422)
        self.assertEqual(other.json()["errors"][0]["detail"], "That step is ticked already")
        self.assertEqual(self.client.get("/live/done/script-0002").status_code, 404)
        self.assertEqual(self.client.get("/live/done/short").status_code, 404)

    def test_two_hands_at_once_are_two_weighings(self) -> None:
        results: list[int] = []

        def send(k: int) -> None:
            fields = {"key": f"both-{k:05d}", "slot": "trim", "weight": "0.02"}
            results.append(self.client.post(f"/live{self.fish}/weighings", data=fields).status_code)

        hands = [threading.Thread(target=send, args=(k,)) for k in range(8)]
        for hand in hands:
            hand.start()
        for hand in hands:
            hand.join()
        self.assertEqual(results, [200] * 8)
        self.assertIn("8 weighings", self.text())

    def test_what_the_display_showed_comes_with_the_form(self) -> None:
        fields = {"key": "shown-0001", "slot": "fillet.A", "shown_kg": "0.577", "mark": "ab.1.2"}
        answer = self.client.post(f"/live{self.fish}/weighings", data=fields)
        self.assertEqual(answer.json()["sentence"], "P1 fillet A: 577 g")
        again = self.client.post(
            f"/live{self.fish}/weighings", data={**fields, "key": "shown-0002", "slot": "gut"}
        )
        self.assertEqual(again.status_code, 422)
        self.assertIn("was taken as P1 fillet A", again.json()["errors"][0]["detail"])

    def test_what_no_display_shows_is_refused_and_nothing_is_saved(self) -> None:
        for n, kg in enumerate(("nan", "inf", "-inf", "-1", "0", "31", "1e300")):
            fields = {"key": f"odd-{n:08d}", "slot": "fillet.A", "shown_kg": kg, "mark": "ab.1.2"}
            answer = self.client.post(f"/live{self.fish}/weighings", data=fields)
            with self.subTest(kg=kg):
                self.assertEqual(answer.status_code, 422)
                self.assertEqual(answer.json()["errors"][0]["field"], "weight")
        made = self.client.post(
            f"/live{self.fish}/weighings",
            data={"key": "right-0001", "slot": "fillet.A", "weight": "0.5"},
        ).json()
        for kg in ("nan", "inf", "0", "-2", "99", "much"):
            answer = self.form(f"{self.fish}/corrections", weighing=made["id"], kg=kg)
            with self.subTest(corrected=kg):
                self.assertEqual(answer.status_code, 422)
        self.assertIn("1 weighing", self.text())

    def test_a_question_is_answered_each_way(self) -> None:
        page = self.post("weighings", slot="fillet.A", weight="5.8")
        self.assertIn("It is 580 g", page)
        weighing, kg = re.search(
            r'name="weighing" value="(\w+)">\s*<input[^>]*name="kg" value="([\d.]+)"', page
        ).groups()
        page = self.post("corrections", weighing=weighing, kg=kg)
        self.assertNotIn("It is 580 g", page)
        page = self.post("weighings", slot="belly.A", weight="0.16")
        self.assertIn("Usually", page)
        question = re.search(r'name="question" value="([^"]+)"', page).group(1)
        page = self.post("kept", question=question)
        self.assertNotIn('aria-label="A question"', page)

    def test_several_together(self) -> None:
        page = self.post("together", slots=["collar.A", "collar.B"], weight="0.094")
        self.assertIn("with others", page)
        answer = self.form(f"{self.fish}/together", slots="collar.A", weight="0.05")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Choose two pieces or more", answer.text)

    def test_seen_and_fates(self) -> None:
        page = self.post("seen", what="worms", number="4", place="tail end")
        self.assertIn("Worms, 4, tail end.", page)
        self.assertIn("For raw only after a parasite hold", page)
        self.assertEqual(self.form(f"{self.fish}/seen", what="worms", number="0").status_code, 422)
        self.assertEqual(self.form(f"{self.fish}/seen", what="ufo").status_code, 422)
        self.post("weighings", slot="frame", weight="0.35")
        page = self.post("fates", piece="frame", fate="stock")
        self.assertIn("Gills out before the pot", page)
        self.assertIn("aria-pressed", page)
        self.assertEqual(
            self.form(f"{self.fish}/fates", piece="frame", fate="sky").status_code, 422
        )
        day = self.client.get(f"{self.trip}/waste").text
        self.assertRegex(day, r"Stock</h2>\s*<strong class=\"kg\">350 g")

    def test_a_spot_cut_out_by_a_form_alone(self) -> None:
        page = self.post("seen", spot="1", what="wound", slot="fillet.A", size="thumb")
        self.assertRegex(page, r"Gaff, gig or bite wound, fillet A:\s*<span class=\"est\">\d+ g")
        self.assertIn("meat cut out", page)
        page = self.post("seen", spot="1", what="blood", slot="belly.B", lost="0.03", size="palm")
        self.assertRegex(page, r"Blood in the meat, belly B:\s*30 g cut out")
        # a touch beside every zone is of the nearest piece, on the side that was shown
        page = self.post("seen", spot="1", what="worms", x="0.6", y="0.0", shown_side="B")
        self.assertIn("Worms, 1, fillet B.", page)

    def test_a_spot_that_cannot_be_is_refused_at_its_field(self) -> None:
        for wrong, field, words in (
            ({"size": "thumb"}, "slot", "choose its piece"),
            ({"slot": "fillet.A", "lost": "80"}, "lost", "Less than the whole fish"),
            ({"slot": "fillet.A", "lost": "much"}, "lost", "much"),
            ({"x": "nan", "y": "0", "shown_side": "A"}, "slot", "Touch the fish"),
        ):
            with self.subTest(wrong=wrong):
                answer = self.form(f"{self.fish}/seen", spot="1", what="wound", **wrong)
                self.assertEqual(answer.status_code, 422)
                shown = re.search(rf'id="problem-{field}"[^>]*>([^<]*)', answer.text)
                self.assertIn(words, shown[1] if shown else answer.text[:200])
        self.assertNotIn("Gaff, gig or bite wound", self.client.get(self.fish).text)

    def test_waiting_handing_over_and_the_next_fish(self) -> None:
        one, two = self.boards()
        self.post("board", board=one)
        page = self.post("pause")
        self.assertIn("Go on", page)
        page = self.post("pause", go_on="1")
        page = self.post("board", board=two)
        self.assertIn("Hand to Ines", page)
        self.assertEqual(self.form(f"{self.fish}/board", board=two).status_code, 422)
        self.land(self.trip, "mackerel", "37")
        self.post("weighings", slot="fillet.A", weight="0.58")
        page = self.post("close")
        self.assertIn("Next: M1", page)

    def test_a_board_of_ones_own(self) -> None:
        one, two = self.boards()
        answer = self.form(f"/boards/{one}/mine")
        self.assertEqual(answer.headers["location"], f"/boards/{one}")
        self.assertIn("board=", answer.headers["set-cookie"])
        pages = [self.client.get(f"/boards/{b}").text for b in (one, two)]
        self.assertTrue(any("Put P1 on the board" in p for p in pages))
        self.post("board", board=one)
        self.assertEqual(self.client.get(f"/boards/{one}").status_code, 303)
        self.assertIn("This device stands here", self.client.get(f"{self.trip}/table").text)
        self.assertEqual(self.client.get("/boards/nosuch").status_code, 404)

    def test_a_step_is_done_without_its_weight(self) -> None:
        page = self.post("steps", step="gut_out")
        self.assertIn("<span data-piece>belly A</span>", page)

    def test_text_from_people_is_never_markup(self) -> None:
        self.form(f"{self.trip}/boards", cutter="<b>Ines</b>")
        self.assertNotIn("<b>Ines", self.page())


class ScaleTest(SessionPages):
    def test_tare_and_zero_by_form_and_by_script(self) -> None:
        self.ctx.scale.put_on(0.3)
        self.ctx.scale.rest()
        self.assertEqual(self.form("/scale/tare", back=self.fish).status_code, 303)
        self.assertAlmostEqual(self.client.get("/live/scale").json()["kg"], 0.0, delta=0.002)
        self.ctx.scale.put_on(4.0)
        self.ctx.scale.rest()
        said = self.client.post("/live/scale/zero").json()
        self.assertIn("Something lies on the pan", said["problem"])
        self.assertEqual(self.form("/scale/zero", back=self.fish).status_code, 503)

    def test_the_panel_drives_cat_drift_and_zero(self) -> None:
        for fields in ({"do": "cat"}, {"do": "drift", "drift": "5"}, {"do": "no_cat"}):
            self.assertEqual(self.form("/devices/scale", **fields).status_code, 303)
        self.assertEqual(self.ctx.scale.drifting, 5)
        answer = self.form("/devices/scale", do="drift", drift="500")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("up to 20 g per minute", answer.text)

    def test_the_mark_tells_loads_apart(self) -> None:
        self.ctx.scale.put_on(0.3)
        self.ctx.scale.rest()
        first = self.client.get("/live/scale").json()
        self.assertTrue(first["steady"])
        self.ctx.scale.put_on(0.0)
        self.ctx.scale.rest()
        self.ctx.scale.put_on(0.3)
        self.ctx.scale.rest()
        self.assertNotEqual(self.client.get("/live/scale").json()["mark"], first["mark"])


class ApiTest(SessionPages):
    def send(self, path: str, body: dict[str, object] | None = None, status: int = 201):
        answer = self.client.post(
            f"/api/v1{path}", json=body, headers={"idempotency-key": self.key()}
        )
        self.assertEqual(answer.status_code, status, answer.text)
        return answer.json()

    def test_the_session_through_the_api(self) -> None:
        fish = self.fish.rpartition("/")[2]
        made = self.send(
            f"/fish/{fish}/weighings", {"piece": "fillet", "side": "A", "weight_kg": 5.8}
        )
        view = self.client.get(f"/api/v1/fish/{fish}").json()
        self.assertAlmostEqual(view["questions"][0]["corrected_kg"], 0.58)
        self.send(f"/fish/{fish}/corrections", {"weighing_id": made["id"], "weight_kg": 0.58})
        self.send(f"/fish/{fish}/together", {"slots": ["collar.A", "collar.B"], "weight_kg": 0.094})
        self.send(f"/fish/{fish}/seen", {"what": "roe"})
        spot = {"x": 0.6, "y": 0.03, "side": "A", "across_m": 0.025}
        self.send(f"/fish/{fish}/seen", {"what": "wound", "spot": spot})
        self.send(f"/fish/{fish}/weighings", {"piece": "gut", "weight_kg": 0.4})
        self.send(f"/fish/{fish}/fates", {"piece": "gut", "fate": "crab"})
        self.send(f"/fish/{fish}/pause", status=422)
        view = self.client.get(f"/api/v1/fish/{fish}").json()
        self.assertEqual(view["questions"], [])
        self.assertEqual([s["what"] for s in view["seen"]], ["roe", "wound"])
        self.assertEqual((view["seen"][1]["piece"], view["seen"][1]["side"]), ("fillet", "A"))
        self.assertGreater(view["seen"][1]["cut_out_kg"], 0.004)
        self.assertEqual(view["fates"], {"gut": "crab"})
        self.assertEqual(len({w["joint"] for w in view["weighings"] if w["joint"]}), 1)
        waste = self.client.get(f"/api/v1{self.trip}/waste").json()
        self.assertEqual(waste["lines"][0]["fate"], "crab")
        self.assertAlmostEqual(json.loads(json.dumps(waste))["lines"][0]["kg"], 0.4)
