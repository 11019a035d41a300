"""The guide over HTTP: search, plans, cards, the whole table, and the crew's own fish."""

import io
import re
from unittest import mock

import pypdf
from markupsafe import escape

from lepidos.core.cutting.tool_check import Fault
from lepidos.guide.do_not_eat import do_not_eat
from lepidos.guide.library import load_guide
from lepidos.stations.base.fish import landed
from lepidos.stations.guide import own_guide
from tests.web.client import HOST, WebTest


class GuideTest(WebTest):
    def text(self, path: str) -> str:
        answer = self.client.get(path)
        self.assertEqual(answer.status_code, 200, answer.text[-400:])
        return answer.text

    def own(self, key: str, toml: str, kind: str = "species"):
        return self.form("/guide/own", kind=kind, own_key=key, toml=toml)


class PagesTest(GuideTest):
    def test_browse_search_and_the_catalogues(self) -> None:
        self.assertIn(
            f"{len(load_guide().species)} fish, every figure with its source", self.text("/guide")
        )
        found = self.text("/guide?q=haliut")
        self.assertIn("Pacific halibut", found)
        self.assertNotIn("Mackerel", found)
        self.assertIn("No fish of that name", self.text("/guide?q=zzzz"))
        self.assertIn('is called <a href="/guide/pollack">pollack</a>', self.text("/guide?q=lythe"))
        two = self.text("/guide?q=Ling")
        self.assertIn("2 fish go by “Ling”", two)
        self.assertLess(two.index('href="/guide/ling"'), two.index('href="/guide/cobia"'))
        self.assertLess(two.index(">Ling</h3>"), two.index(">Cobia</h3>"))
        self.assertIn("is also what some call", self.text("/guide/cobia"))
        for path, words in (("pieces", "thickest, mildest meat"), ("tools", "Sharpen when it stops gliding"),
                            ("methods", "Pin bones?"), ("cautions", "A doctor decides")):  # fmt: skip
            self.assertIn(words, self.text(f"/guide/{path}"))
        self.assertEqual(self.client.get("/guide/mermaid").status_code, 404)

    def test_what_must_not_be_eaten_is_found_by_a_name_of_its_coast(self) -> None:
        for asked in ("lagokefalos", "balon baligi", "puffer fish"):
            found = self.text(f"/guide?q={asked}")
            self.assertIn("neither cooking nor freezing", found, asked)
            self.assertIn("A doctor decides", found.replace("a doctor", "A doctor"), asked)
        for asked in ("/guide?q=plaice", "/guide"):
            self.assertNotIn('href="/guide/do-not-eat#', self.text(asked))

    def test_the_page_of_what_must_not_be_eaten_has_each_kind_once(self) -> None:
        known, text = do_not_eat(), self.text("/guide/do-not-eat")
        for one in known.kinds:
            self.assertEqual(text.count(f'id="{one.key}"'), 1, one.key)
            for order in one.do:
                self.assertIn(str(escape(order)), text)
        self.assertLess(
            text.index(known.groups["poison_whole"].text),
            text.index(known.groups["ciguatera"].text),
        )

    def test_techniques_are_drawn_for_every_family(self) -> None:
        guide = self.ctx.guide
        for key, plan in guide.plans.items():
            page = self.text(f"/guide/techniques?family={key}")
            cuts = [step for step in plan.steps if step.cut]
            with self.subTest(family=key):
                self.assertTrue(cuts)
                for step in cuts:
                    self.assertIn(escape(step.title), page)
                self.assertGreaterEqual(page.count('class="cut"'), len(cuts))
        self.assertIn(
            '"?family=round" aria-current="page"', self.text("/guide/techniques?family=x")
        )

    def test_every_fish_has_its_page(self) -> None:
        for key in self.ctx.guide.species:
            with self.subTest(species=key):
                page = self.text(f"/guide/{key}")
                self.assertIn("Pieces to expect", page)
                self.assertNotRegex(page.lower(), r"\b(safe|legal)\b")

    def test_one_spine_is_one(self) -> None:
        page = self.text("/first-aid")
        self.assertRegex(page, r"stingray\s+\(1 spine\)")
        self.assertRegex(page, r"Lionfish\s+\(18 spines\)")

    def test_a_plan_follows_what_is_asked(self) -> None:
        page = self.text(
            "/guide/summer_flounder?length=36&purpose=raw&way.flat=whole&step=whole_side&at=180"
        )
        for words in (
            "Better whole",
            "Your way",
            "Instead: four fillets",
            "Never wet it",
            'aria-current="step"',
        ):
            self.assertIn(words, page)
        self.assertNotIn("Rinse the fillets?", page)  # raw leaves no choice there
        # quicker with a minus and not with a hyphen, and nothing is 0.0 minutes longer
        self.assertRegex(page, r"−\d\.\d min")
        self.assertNotRegex(page, r"-\d\.\d min|[+−]0\.0 min")
        wrong = self.text("/guide/cod?length=long&weight=9000&purpose=sculpture")
        self.assertRegex(wrong, r'id="problem-length"')
        self.assertRegex(wrong, r'id="problem-plan"')
        self.assertIn("not a way of this", self.text("/guide/cod?way.head=half"))
        self.assertIn(
            "instead of the tweezers",
            self.text("/guide/cod?length=110&tool=fillet_knife&tool=pliers"),
        )

    def test_drawings_stay_small(self) -> None:
        for key in ("plaice", "mackerel", "lionfish", "white_sturgeon"):
            drawn = re.findall(r"<svg.*?</svg>", self.text(f"/guide/{key}"), re.S)
            self.assertLess(max(map(len, drawn)), 40_000)

    def test_the_bench_card_is_one_page_with_the_steps(self) -> None:
        pdf = self.client.get("/guide/lionfish/card.pdf?length=32")
        self.assertEqual(pdf.headers["content-type"], "application/pdf")
        reader = pypdf.PdfReader(io.BytesIO(pdf.content))
        self.assertEqual(len(reader.pages), 1)
        text = reader.pages[0].extract_text()
        self.assertIn("All 18 spines off at the base", text)
        self.assertIn("Eighteen spines carry venom", text)
        self.assertIn("First aid, stung by a venomous spine", text)
        self.assertIn("tried first on skin that is not hurt", text)
        self.assertNotIn("…", text)

    def test_a_card_of_every_kind_is_one_page_with_all_cautions_to_the_last_word(self) -> None:
        guide = load_guide()
        of_plan = {one.body_plan: one for one in guide.species.values()}
        venomous = [one for one in guide.species.values() if "venomous_spines" in one.traits]
        for one in {s.key: s for s in [*of_plan.values(), *venomous]}.values():
            with self.subTest(fish=one.key):
                content = self.client.get(f"/guide/{one.key}/card.pdf?purpose=raw").content
                (page,) = pypdf.PdfReader(io.BytesIO(content)).pages
                lowest: list[float] = []
                text = page.extract_text(
                    visitor_text=lambda t, cm, tm, font, size, seen=lowest: (
                        seen.append(tm[5]) if t.strip() else None
                    )
                )
                text = " ".join(text.split())
                self.assertNotIn("…", text)
                self.assertGreater(min(lowest), 14)  # points from the page's lower edge
                for caution in one.cautions:
                    self.assertIn(guide.cautions[caution].text[-30:], text)

    def test_the_whole_table_is_planned_together(self) -> None:
        trip = self.start_trip()
        self.assertIn("Nothing waits", self.text(f"{trip}/plan"))
        for species, cm in (
            ("greater_weever", "30"),
            ("lionfish", "30"),
            ("cod", "70"),
            ("cod", "80"),
        ):
            self.land(trip, species, cm)
        page = self.text(f"{trip}/plan")
        self.assertIn("4 fish of 3 kinds", page)
        self.assertLess(
            page.index("Sharp and venomous parts off first"), page.index("Then scales and slime")
        )
        self.assertRegex(page, r"<strong>W1</strong>: Spines off first")
        self.assertRegex(page, r"<strong>C1, C2</strong>: Rinse|C1, C2")
        reader = pypdf.PdfReader(io.BytesIO(self.client.get(f"{trip}/plan.pdf").content))
        self.assertEqual(len(reader.pages), 3)
        one = next(f.id for f, _ in self.of_trip(trip) if f.code == "C1")
        self.form(f"/fish/{one}/wish", purpose="raw")
        self.assertIn("to be eaten raw", self.text(f"{trip}/plan"))
        reader = pypdf.PdfReader(io.BytesIO(self.client.get(f"{trip}/plan.pdf").content))
        self.assertEqual(len(reader.pages), 4)

    def of_trip(self, trip: str):
        with self.ctx.store.reading():
            return landed(self.ctx, trip.rpartition("/")[2])


class KeyPagesTest(GuideTest):
    def test_a_tell_that_fades_is_drawn_as_it_is_on_a_dead_fish_too_and_one_that_stays_is_not(
        self,
    ) -> None:
        faded = self.text("/which-fish/rockfish")
        colour = load_guide().lookalike("rockfish").questions[0]
        self.assertIn(colour.dead, faded)
        self.assertEqual(faded.count('class="sketch dead"'), len(colour.answers))
        kept = self.text("/which-fish/gadoids")
        self.assertNotIn('class="sketch dead"', kept)
        self.assertIn("looks the same on a dead fish", kept)

    def test_the_length_that_is_dragged_is_the_one_that_is_usual_for_the_fish(self) -> None:
        # longest 60 cm to the fork: a usual mackerel is 30 cm, and dragging it there changes nothing
        page = self.text("/guide/mackerel")
        self.assertIn("Fork length", page)
        (at,) = re.findall(r'id="length"[^>]*?value="([\d.]+)"', page, re.S)
        self.assertEqual(float(at), 30.0)
        grams = re.findall(r"≈ [\d.,]+ (?:g|kg)", page)[0]
        self.assertIn(grams, self.text(f"/guide/mackerel?length={at}+cm&length_type=fork"))
        self.assertIn("Mantle length", self.text("/guide/european_squid"))

    def test_spines_lengths_and_rings_are_said_with_their_source(self) -> None:
        page = self.text("/guide/black_rockfish")
        for words in ("dorsal 13, anal 3", "Total per standard length", "Rings mark the spines"):
            self.assertIn(words, page)
        self.assertNotIn("Rings mark", self.text("/guide/cod"))
        self.assertIn("Total per disc width", self.text("/guide/thornback_ray"))


class FollowTest(GuideTest):
    def test_a_plan_of_the_guide_is_followed_at_the_table(self) -> None:
        page = self.text("/guide/pollack?length=66&purpose=smoke&way.head=off&tool=stiff_knife")
        form = re.search(r'<form method="post" action="/guide/pollack/follow".*?</form>', page)
        assert form is not None
        fields = dict(re.findall(r'name="([^"]+)" value="([^"]*)"', form.group()))
        answer = self.form("/guide/pollack/follow", **fields)
        self.assertEqual(answer.status_code, 303)
        self.assertIn(
            "From now on a usual pollack: to smoke; head before filleting off first",
            self.text(answer.headers["location"]),
        )
        bench = self.text(self.land(self.start_trip(), "pollack", "66"))
        self.assertIn("To smoke, skin", bench)
        self.assertIn("Head off", bench)
        self.assertIn('id="w-tool-stiff_knife" checked', bench)
        page = self.text("/guide/pollack")
        self.assertIn("At the table now, usual size: <strong>to smoke", page)
        back = re.search(
            r'<form method="post" action="/guide/pollack/follow"(?:(?!</form>).)*As usual', page
        )
        assert back is not None
        forms = back.group().split("<form")[-1]
        fields = dict(re.findall(r'name="([^"]+)" value="([^"]*)"', forms))
        self.assertEqual(self.form("/guide/pollack/follow", **fields).status_code, 303)
        self.assertNotIn("At the table now", self.text("/guide/pollack"))
        fresh = self.text(self.land(self.start_trip(), "pollack", "66"))
        self.assertIn("Fillets for the freezer", fresh)
        self.assertNotIn("Fish for the pot", fresh)


class OwnTest(GuideTest):
    def cod(self, **changes: str) -> str:
        text = self.text("/guide/text/species/cod.toml")
        for old, new in {'code = "C"': 'code = "QC"', **changes}.items():
            self.assertIn(old, text)
            text = text.replace(old, new, 1)
        return text

    def test_a_copied_fish_is_landed_planned_and_survives_a_new_start(self) -> None:
        self.assertEqual(
            self.own(
                "harbour_cod", self.cod(**{'name = "cod"': 'name = "harbour cod"'})
            ).status_code,
            303,
        )
        self.assertIn("Harbour cod", self.text("/guide/harbour_cod"))
        self.assertIn('href="/guide/harbour_cod">harbour cod</a>', self.text("/guide/own"))
        quay = {'name = "cod"': 'name = "cod (of the quay)"', 'code = "QC"': 'code = "QQ"'}
        self.own("quay_cod", self.cod(**quay))
        self.assertIn('href="/guide/quay_cod">cod (of the quay)</a>', self.text("/guide/own"))
        trip = self.start_trip()
        self.land(trip, "harbour_cod", "70")
        self.assertIn("QC1", self.text(f"{trip}/deck"))
        self.assertNotIn("harbour_cod", load_guide().species)

    def test_it_is_there_after_a_new_start_and_ours_is_never_touched(self) -> None:
        ours = self.text("/guide/text/species/cod.toml")
        self.own("cod", ours.replace("mean = 0.43", "mean = 0.40"))
        self.assertEqual(self.ctx.guide.one("cod").yields.fillet_skin_on.mean, 0.40)
        self.assertEqual(load_guide().one("cod").yields.fillet_skin_on.mean, 0.43)
        self.client.__exit__(None, None, None)
        self.client.__enter__()
        self.assertEqual(self.app.state.context.guide.one("cod").yields.fillet_skin_on.mean, 0.40)
        answer = self.form("/guide/own/species/cod/remove")
        self.assertEqual(answer.status_code, 303)
        self.assertEqual(self.app.state.context.guide.one("cod").yields.fillet_skin_on.mean, 0.43)

    def test_a_plan_that_hurts_is_refused_and_one_that_forgets_is_told(self) -> None:
        plan = self.text("/guide/text/plan/spiny.toml").replace('key = "spiny"', 'key = "bold"')
        unarmed = re.sub(
            r'\[\[steps\]\]\nkey = "spines_18".*?(?=\[\[steps\]\])', "", plan, flags=re.S
        )
        self.assertEqual(self.own("bold", unarmed, "plan").status_code, 303)
        fish = self.text("/guide/text/species/lionfish.toml")
        fish = fish.replace('body_plan = "spiny"', 'body_plan = "bold"').replace(
            'code = "LF"', 'code = "QL"'
        )
        answer = self.own("bold_lionfish", fish)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("comes while the venomous spines are on", answer.text)
        self.assertNotIn("bold_lionfish", self.ctx.guide.species)
        bass = self.text("/guide/text/species/european_sea_bass.toml")
        code = re.search(r'code = "(\w+)"', bass)
        assert code is not None
        bass = bass.replace(code.group(), 'code = "QB"')
        scaly = bass.replace('body_plan = "round"', 'body_plan = "spiny"')
        told = self.own("scaly_bass", scaly)
        self.assertEqual(told.status_code, 303)
        self.assertIn("Look at its plan again", self.text(told.headers["location"]))

    def test_of_many_faults_six_are_told_and_the_others_counted(self) -> None:
        for number, more in ((1, ""), (6, ""), (7, "; and 1 more"), (9, "; and 3 more")):
            faults = [Fault("tools are there", "", f"fault {n}") for n in range(number)]
            with (
                self.subTest(faults=number),
                mock.patch.object(own_guide, "faults_of", lambda *_, f=faults: f),
            ):
                said = own_guide._look_again(self.ctx.guide, "species", "cod")
                self.assertEqual(said.count("fault "), min(6, number))
                self.assertTrue(said.endswith(more or "(cod: tools are there)"), said)

    def test_what_does_not_hold_is_said_and_nothing_is_kept(self) -> None:
        cases = [
            ("harbour_cod", "name = [", "toml"),
            ("harbour_cod", self.cod(**{"b = 3.08": "b = 9.0"}), "toml"),
            ("harbour_cod", self.cod(**{'body_plan = "round"': 'body_plan = "cube"'}), "toml"),
            ("harbour_cod", self.text("/guide/text/species/cod.toml"), "toml"),
            ("Harbour Cod", self.cod(), "own_key"),
        ]
        for key, text, field in cases:
            with self.subTest(field=field, text=text[:20]):
                answer = self.own(key, text)
                self.assertEqual(answer.status_code, 422)
                self.assertIn(f'id="problem-{field}"', answer.text)
        self.assertIn("Nothing of your own yet", self.text("/guide/own"))

    def test_a_body_plan_of_ones_own(self) -> None:
        plan = self.text("/guide/text/plan/round.toml").replace(
            'name = "Round fish"', 'name = "Our way"'
        )
        self.assertEqual(self.own("our_way", plan, "plan").status_code, 303)
        self.own("harbour_cod", self.cod(**{'body_plan = "round"': 'body_plan = "our_way"'}))
        self.assertIn("our way · lean", self.text("/guide"))
        self.assertEqual(self.form("/guide/own/plan/our_way/remove").status_code, 409)
        trip = self.start_trip()
        self.land(trip, "harbour_cod", "70")
        self.assertEqual(self.client.get(f"{trip}/table").status_code, 200)
        self.assertEqual(self.form("/guide/own/species/harbour_cod/remove").status_code, 409)

    def test_a_plan_that_still_says_school_for_method_is_taken(self) -> None:
        plan = self.text("/guide/text/plan/flat.toml")
        self.assertIn("\nmethod = [", plan)
        old = plan.replace("\nmethod = [", "\nschool = [")
        self.assertEqual(self.own("old_way", old, "plan").status_code, 303)
        now, then = (self.ctx.guide.plans[key] for key in ("flat", "old_way"))
        self.assertEqual([s.method for s in then.steps], [s.method for s in now.steps])
        self.assertTrue(any(s.method for s in then.steps))
        self.assertEqual(self.client.get("/guide/schools").headers["location"], "/guide/methods")

    def test_a_fish_drawn_after_another(self) -> None:
        text = self.text("/guide/text/species/haddock.toml").replace('code = "HA"', 'code = "QH"')
        self.assertEqual(self.own("deep_haddock", text).status_code, 303)
        self.assertEqual(self.client.get("/guide/text/species/deep_haddock.toml").text, text)
        upload = self.client.post(
            "/guide/own", headers={"origin": HOST},
            data={"key": self.key(), "kind": "species", "own_key": "deep_haddock"},
            files={"file": ("x.toml", text.replace("depth = 0.21", "depth = 0.25").encode())},
        )  # fmt: skip
        self.assertEqual(upload.status_code, 303)
        self.assertIn("depth = 0.25", self.client.get("/guide/text/species/deep_haddock.toml").text)
