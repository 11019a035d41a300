"""The deck in Chromium: landing without the server, two devices, dragging, the day before the knife."""

import json
import re
import secrets
import threading
import time
import unittest
import urllib.request

from playwright.sync_api import Page, Route, expect

from tests.browser.chromium import LAPTOP, PHONE, BrowserTest
from tests.server import CLOCK

OUTAGE_S = 20  # ten tries of the queue


class DeckTest(BrowserTest):
    def trip(self, page: Page) -> str:
        """A trip over the API, as `by_hand` makes one: its form is filled in once, by the day."""
        trip = {
            "name": "Marram Lass", "harbour": "Skarrow Quay", "on_date": CLOCK[:10],
            "people": ["Ines", "Tobias"], "parties": ["Tolland", "Marsh"],
            "sea_c": 14, "air_c": 18, "ice_kg": 40,
        }  # fmt: skip
        asked = urllib.request.Request(
            f"{self.server.base}/api/v1/trips", json.dumps(trip).encode(),
            {"content-type": "application/json", "idempotency-key": f"trip-{secrets.token_hex(8)}"},
        )  # fmt: skip
        made = json.loads(urllib.request.urlopen(asked, timeout=30).read())
        page.goto(f"/trips/{made['id']}/deck")
        expect(page.get_by_role("button", name="Land it")).to_be_visible()
        return f"{self.server.base}/trips/{made['id']}"

    def by_hand(self, page: Page) -> str:
        page.goto("/trips/new")
        page.get_by_label("Boat, or shore mark").fill("Marram Lass")
        page.get_by_label("Harbour").fill("Skarrow Quay")
        page.get_by_label("Who is aboard").fill("Ines, Tobias")
        page.get_by_label("Parties that share").fill("Tolland, Marsh")
        page.get_by_label("The sea").fill("14")
        page.get_by_label("The air").fill("18")
        page.get_by_label("Ice aboard").fill("40")
        page.get_by_role("button", name="Start the trip").click()
        expect(page.get_by_role("button", name="Land it")).to_be_visible()
        return page.url.removesuffix("/deck").split("/deck")[0]

    def land(self, page: Page, cm: str) -> None:
        if not page.locator("input[name=species]:checked").count():
            self.choose(page, "albacore")
        page.get_by_label("length, cm").fill(cm)
        page.get_by_role("button", name="Land it").click()

    def choose(self, page: Page, kind: str) -> None:
        chip = page.locator(f"label[for=s-{kind}]")
        if not chip.is_visible():
            page.get_by_text("More …").click()
        chip.click()

    def say_waters(self, page: Page) -> None:
        """Its fish are at hand, without the list of all."""
        if page.get_by_text("Where do you fish?").count():
            page.get_by_text("Where do you fish?").click()
            page.get_by_role("button", name="North-east Atlantic").click()
        expect(page.locator("label[for=s-mackerel]")).to_be_visible()

    def codes(self, page: Page) -> list[str]:
        return [c.strip() for c in page.locator(".slab-fish .code").all_inner_texts()]


class QueueTest(DeckTest):
    may_lose_the_server = True

    def land(self, page: Page, cm: str) -> None:
        # the keypad is there when the script is: before it a form goes its plain way, and is not kept
        expect(page.locator(".keypad")).to_be_visible()
        super().land(page, cm)

    def test_landing_goes_on_while_the_server_is_away(self) -> None:
        page = self.open(PHONE, has_touch=True)
        trip = self.trip(page)
        self.land(page, "30")
        expect(page.get_by_role("status")).to_contain_text("AB1 landed")
        began = time.monotonic()
        self.server.kill()
        lengths = ["31", "32", "33", "34", "35"]
        for cm in lengths:
            self.land(page, cm)
            page.wait_for_timeout(400)
        expect(page.get_by_text(re.compile(r"^5 on the way: .*\. Kept here"))).to_be_visible()
        # the page is closed and opened again in between: entries are kept by the browser
        while time.monotonic() - began < OUTAGE_S:
            page.wait_for_timeout(1000)
        self.server.start("2026-07-14T12:30:00+00:00")
        expect(page.locator(".slab-fish")).to_have_count(6, timeout=20_000)
        expect(page.get_by_text("on the way")).to_be_hidden()
        # in order, once each, and landed when they were entered and not when they arrived
        page.goto(f"{trip}/deck?as=list")
        self.door(page, "On the slab")
        rows = page.locator(".slab-list tbody tr")
        found = {}
        for row in rows.all():
            code = int(re.sub(r"\D", "", row.locator(".code").inner_text()))
            found[code] = row.locator("td").nth(1).inner_text().split(" ")[0]
        self.assertEqual([found[c] for c in sorted(found)], ["30", *lengths])
        last = page.get_by_role("link", name=re.compile("AB6"))
        last.click()
        noted = page.locator(".head .line").inner_text()
        expect(page.locator("#gauges")).to_contain_text("AB6 landed")
        # a minute or some before the app was back, however slow the machine
        self.assertRegex(noted, r"landed 13:2[5-9]")

    def test_entries_outlive_the_page_and_a_wrong_one_comes_back(self) -> None:
        page = self.open(LAPTOP)
        trip = self.trip(page)
        page.route("**/live/trips/**", lambda route: route.abort())
        self.land(page, "30")
        self.land(page, "6000")
        expect(page.get_by_text(re.compile("2 on the way"))).to_be_visible()
        page.goto(f"{trip}/freezer")
        page.unroute("**/live/trips/**")
        page.goto(f"{trip}/deck")
        expect(page.locator(".slab-fish")).to_have_count(1)
        # the wrong one is in the form again, with its sentence
        expect(page.get_by_label("length, cm")).to_have_value("6000")
        expect(page.locator(".field-problem")).to_contain_text("longest known")
        self.land(page, "31")
        expect(page.locator(".slab-fish")).to_have_count(2)


class FindTest(DeckTest):
    def test_a_name_and_return_take_a_fish_by_keys_alone(self) -> None:
        page = self.open(LAPTOP)
        self.trip(page)
        page.get_by_text("More …").focus()
        page.keyboard.press("Enter")
        page.keyboard.press("Tab")
        page.keyboard.type("coley")
        page.keyboard.press("Enter")
        expect(page.locator("#s-saithe")).to_be_checked()
        expect(page.locator("#length")).to_be_focused()
        expect(page.get_by_text("✓ saithe,")).to_be_visible()
        # the list has gone, and is whole when it is opened again
        find = page.get_by_label("Find a fish by any of its names")
        expect(find).to_be_hidden()
        page.get_by_text("More …").click()
        expect(find).to_have_value("")
        expect(page.locator("label[for=s-zander]")).to_be_visible()
        # down the list of what is left
        find.fill("haddock")
        find.press("ArrowDown")
        expect(page.locator("#s-haddock")).to_be_focused()
        expect(page.locator("#s-haddock")).to_be_checked()
        expect(find).to_be_visible()  # by the arrows one goes on
        # what a fish that is not in the guide is like is found so, too
        page.get_by_text("It is not here: take the kind nearest to it").click()
        find.fill("whiting")
        find.press("Enter")
        expect(page.locator("#s-whiting")).to_be_checked()
        expect(page.locator("#nearest")).to_be_checked()
        page.get_by_text("More …").click()
        page.get_by_text("It is not here: take the kind nearest to it").click()
        # nothing was typed: nothing is taken, and nothing is landed
        find.fill("")
        find.press("Enter")
        expect(page.locator("#s-whiting")).to_be_checked()
        expect(find).to_be_focused()

    def test_keys_that_are_pressed_before_the_scripts_are_there_are_not_lost(self) -> None:
        page = self.open()
        self.trip(page)
        self.say_waters(page)
        kept: list[Route] = []
        comes = threading.Event()
        page.route(
            re.compile(r"/scripts/.*/(?!early).*|alpine"),
            lambda route: route.continue_() if comes.is_set() else kept.append(route),
        )
        page.reload(wait_until="commit")
        expect(page.locator(".panel")).to_be_visible()
        page.get_by_text("More …").click()
        page.locator("#find-fish").press_sequentially("haddock")
        page.keyboard.press("Enter")
        page.keyboard.type("67")
        page.keyboard.press("Backspace")
        page.keyboard.type("2")
        expect(page.locator("#s-haddock")).not_to_be_checked()
        self.assertTrue(kept)
        comes.set()
        for one in kept:
            one.continue_()
        expect(page.locator("#s-haddock")).to_be_checked()
        expect(page.get_by_label("length, cm")).to_have_value("62")
        self.assertIn("/deck", page.url)
        page.keyboard.press("Enter")
        expect(page.locator(".slab-fish")).to_have_count(1)

    def test_what_must_not_be_eaten_is_told_where_its_name_is_typed(self) -> None:
        for size in (PHONE, LAPTOP):
            page = self.open(size, has_touch=size is PHONE)
            self.trip(page)
            expect(page.locator(".keypad")).to_be_visible()
            page.get_by_text("More …").click()
            name = page.get_by_label("a name", exact=False).or_(page.locator("#find-fish")).first
            told = page.locator(".more-danger a:visible")
            for typed, says in (
                ("lagokef", "do not eat it"),
                ("lièvre de m", "do not eat it"),
                ("walu", "its fat is wax"),
            ):
                name.fill(typed)
                expect(told.first).to_contain_text(says)
                expect(told.first).to_be_in_viewport()
            for typed in ("mackerel", "plaice", "pu"):
                name.fill(typed)
                expect(told).to_have_count(0)
            name.fill("balon baligi")
            told.first.click()
            expect(page.locator("#silver_cheeked_toadfish_pufferfish")).to_be_in_viewport()
            self.assert_stands(page)

    def test_a_kind_of_the_first_row_is_found_by_its_name_too(self) -> None:
        for size, go in ((PHONE, "touch"), (LAPTOP, "Enter")):
            with self.subTest(go=go):
                page = self.open(size, has_touch=True)
                self.trip(page)
                self.say_waters(page)
                page.get_by_text("More …").click()
                near = page.locator(".near-only[data-kind=mackerel]")
                expect(near).to_be_hidden()
                find = page.get_by_label("Find a fish by any of its names")
                find.fill("mackerel")
                expect(page.locator("#nearest")).not_to_be_checked()
                if go == "touch":
                    near.tap()
                    expect(find).to_be_hidden()  # the list has gone
                else:
                    find.press("Enter")
                expect(page.locator("#s-mackerel")).to_be_checked()
                self.land(page, "35")
                expect(page.get_by_role("status")).to_contain_text("M1 landed")


class NearestTest(DeckTest):
    def test_a_fish_that_the_guide_lacks_is_landed_as_its_nearest_kind_in_two_touches(self) -> None:
        for size in (PHONE, LAPTOP):
            page = self.open(size, has_touch=True)
            trip = self.trip(page)
            page.get_by_text("More …").click()
            page.get_by_text("It is not here: take the kind nearest to it").click()
            page.locator("label[for=s-whiting]:visible").first.click()
            expect(page.get_by_text("✓ unknown fish, like whiting,")).to_be_visible()
            care = page.get_by_text("The guide does not know this fish").locator("visible=true")
            expect(care).to_have_count(1)
            self.assert_accessible(page)
            page.get_by_label("length, cm").fill("31")
            page.get_by_role("button", name="Land it").click()
            expect(page.get_by_role("status")).to_contain_text("landed")
            page.goto(f"{trip}/deck?as=list")
            self.door(page, "On the slab")
            expect(page.locator(".slab-list tbody tr")).to_contain_text(
                "unknown fish (like whiting)"
            )

    def test_a_run_of_such_fish_needs_only_the_number_and_another_kind_ends_it(self) -> None:
        page = self.open(LAPTOP)
        trip = self.trip(page)
        page.get_by_text("More …").click()
        page.get_by_text("It is not here: take the kind nearest to it").click()
        page.locator("label[for=s-whiting]:visible").first.click()
        for cm in ("25", "27"):
            self.land(page, cm)
            expect(page.get_by_role("status")).to_contain_text("landed")
        self.choose(page, "albacore")
        self.land(page, "60")
        expect(page.get_by_role("status")).to_contain_text("landed")
        expect(page.locator("#nearest")).not_to_be_checked()
        page.goto(f"{trip}/deck?as=list")
        rows = page.locator(".slab-list tbody tr")
        expect(rows).to_have_count(3)
        expect(rows.filter(has_text="unknown fish (like whiting)")).to_have_count(2)

    def test_a_name_that_nobody_has_is_what_the_fish_is_called(self) -> None:
        page = self.open(LAPTOP)
        trip = self.trip(page)
        self.say_waters(page)
        page.get_by_text("More …").click()
        search = page.get_by_label("Find a fish by any of its names")
        search.press_sequentially("silvery pout")
        expect(search).to_have_value("silvery pout")  # nothing is taken from whoever still types
        expect(page.get_by_label("What you call it")).to_have_value("silvery pout")
        # a slip that is put right is no unknown fish
        search.fill("whitingg")
        expect(page.locator("#nearest")).to_be_checked()
        search.press("Backspace")
        expect(page.locator("#nearest")).not_to_be_checked()
        search.fill("silvery pout")
        # the kinds of the first row can be touched here, too, and the one chosen already
        page.locator(".near-only:visible").first.click()
        name = page.locator("input[name=species]:checked").get_attribute("data-name")
        self.land(page, "25")
        expect(page.get_by_role("status")).to_contain_text("landed")
        page.goto(f"{trip}/deck?as=list")
        expect(page.locator(".slab-list tbody tr")).to_contain_text(f"silvery pout (like {name})")
        # and the next fish is of the guide again
        page.goto(f"{trip}/deck")
        self.assertFalse(page.locator("#nearest").is_checked())

    def test_a_kind_from_far_down_the_list_brings_its_length_back_into_sight(self) -> None:
        page = self.open(LAPTOP)
        self.trip(page)
        page.get_by_text("More …").click()
        page.locator("label[for=s-zander]").click()
        expect(page.get_by_text("✓ zander,")).to_be_in_viewport()
        expect(page.get_by_label("Find a fish by any of its names")).to_be_hidden()
        keypad = page.locator(".keypad").bounding_box()
        below = page.get_by_role("button", name="Land it").bounding_box()
        assert keypad
        assert below
        self.assertLessEqual(keypad["y"] + keypad["height"], below["y"])
        self.assertLess(page.evaluate("document.querySelector('.panel').scrollTop"), 200)


class EmptyTest(DeckTest):
    def test_before_anything_is_weighed_packs_button_and_columns_keep_apart(self) -> None:
        page = self.open(PHONE, has_touch=True)
        page.goto(f"{self.trip(page)}/pack")
        button = page.get_by_role("link", name="To the table").bounding_box()
        column = page.locator(".bag-column").first.bounding_box()
        assert button
        assert column
        self.assertGreaterEqual(column["y"] - button["y"] - button["height"], 8)


class RefusedTest(DeckTest):
    """A form that is refused is shown on its page: at that page's address, and live."""

    expects = ("status of 422",)

    def test_it_looks_again_and_keeps_what_was_wrong_in_sight(self) -> None:
        page = self.open()
        deck = self.trip(page) + "/deck"
        self.land(page, "60")
        expect(page.locator(".slab-fish")).to_have_count(1)
        code = self.codes(page)[0]
        page.goto(f"{self.server.base}{page.locator('a[href$=card]').first.get_attribute('href')}")
        card, asked = page.url, []
        page.locator("details:has(form[action$='/correct']) > summary").first.click()
        form = page.locator("form[action$='/correct']")
        form.locator("[name=length]").fill("abc")
        form.locator("[name=length]").press("Enter")
        expect(page.locator(".field-problem")).to_be_visible()
        self.assertEqual(page.url.partition("?")[0], card)
        page.on("response", lambda answer: asked.append((answer.url, answer.status)))
        other = self.open()
        other.goto(deck)
        with page.expect_response(lambda answer: answer.url == card):
            self.land(other, "70")
        expect(page.locator(".field-problem")).to_be_visible()
        self.assertEqual({status for url, status in asked if url == card}, {200})
        page.reload()
        expect(page.locator("h1")).to_contain_text(code)


class LiveTest(DeckTest):
    def test_a_landing_is_on_the_other_device_without_a_reload(self) -> None:
        one, other = self.open(LAPTOP), self.open(PHONE)
        trip = self.trip(one)
        other.goto(f"{trip}/deck?by=species")
        expect(other.get_by_text("Land the first fish: its kind")).to_be_visible()
        other.wait_for_timeout(500)
        for n in range(3):
            self.land(one, str(30 + n))
            expect(one.get_by_role("status")).to_contain_text("landed")
            expect(other.locator(".slab-fish")).to_have_count(n + 1)
        expect(other.locator("#gauges")).to_contain_text("3 of 3")
        expect(other.locator("#gauges")).to_contain_text("landed")

    def test_a_kind_that_was_not_aboard_yet_is_drawn_on_every_open_page(self) -> None:
        one, other = self.open(LAPTOP), self.open(LAPTOP)
        trip = self.trip(one)
        other.goto(f"{trip}/table")
        # the table draws the fish that comes next
        for kind, pages in (("albacore", (one, other)), ("arctic_char", (one,))):
            self.choose(one, kind)
            self.land(one, "60")
            for page in pages:
                drawing = page.locator(f"use[href='#fish-{kind}']")
                expect(drawing).to_have_count(1)
                page.wait_for_function(
                    "use => use.getBoundingClientRect().width > 20", arg=drawing.element_handle()
                )
                expect(page.locator(f"#fish-{kind}")).to_have_count(1)

    def test_an_open_why_and_what_is_being_typed_are_left_alone(self) -> None:
        one, other = self.open(LAPTOP), self.open(LAPTOP)
        trip = self.trip(one)
        self.land(one, "30")
        other.goto(f"{trip}/table")
        other.get_by_text("why", exact=True).first.click()
        other.get_by_label("Add a cutter").fill("Ine")
        self.land(one, "31")
        expect(other.locator("#gauges")).to_contain_text("2 of 2")
        expect(other.locator("#why-order")).to_have_attribute("open", "")
        expect(other.get_by_label("Add a cutter")).to_have_value("Ine")


class DayTest(DeckTest):
    def test_the_day_before_the_knife(self) -> None:
        for size in (LAPTOP, PHONE):
            with self.subTest(size=size["width"]):
                self.walk(self.open(size))

    def walk(self, page: Page) -> None:
        trip = self.by_hand(page)
        # which fish is it
        if not page.get_by_role("link", name="Which is it?").is_visible():
            page.get_by_text("More …").click()  # on a phone it stands among the fish
        page.get_by_role("link", name="Which is it?").click()
        page.get_by_role("link", name=re.compile("Cod and its kin")).click()
        self.assert_stands(page)
        page.get_by_role("link", name="Three", exact=True).click()
        page.get_by_role("link", name="Yes, clear to see").click()
        expect(page.get_by_text("The answers leave one")).to_contain_text("cod")
        self.assert_stands(page)
        # a rule card of one's own
        page.goto("/rules/new")
        page.get_by_label("Which fish").select_option("cod")
        page.get_by_label("Which water").fill(f"Bay {page.viewport_size}")
        page.get_by_label("Smallest size").fill("60")
        page.get_by_label("Where the rule stands").fill("made up for this test")
        page.get_by_label("The day you looked").fill("2026-07-10")
        page.get_by_role("button", name="Keep the card").click()
        expect(page.get_by_role("status")).to_contain_text("Rule card for cod written")
        self.assert_stands(page)
        # land it: within measuring error of the card's size
        page.goto(f"{trip}/deck")
        if not page.locator("label", has_text=re.compile("^Cod$")).is_visible():
            page.get_by_text("More …").click()
        page.locator("label", has_text=re.compile("^Cod$")).click()
        self.land(page, "60.2")
        expect(page.get_by_role("status")).to_contain_text("within measuring error")
        self.door(page, "On the slab")
        page.locator(".slab-fish", has_text="C1 cod").click()
        self.assert_stands(page)
        # its states, the probe, the look
        page.get_by_role("button", name="Gutted").click()
        expect(page.get_by_role("status")).to_contain_text("C1 gutted")
        page.get_by_role("button", name="Lying in meltwater").click()
        expect(page.locator("#advice")).to_contain_text("Lying in meltwater: drain the box.")
        page.get_by_role("button", name="Undo", exact=False).first.click()
        expect(page.locator("#advice")).not_to_contain_text("meltwater")
        page.get_by_label(re.compile("Typed")).fill("13.4")
        page.get_by_role("button", name="Take it").click()
        expect(page.get_by_role("status")).to_contain_text("C1 core 13.4")
        page.locator("label", has_text="flat, a little cloudy").click()
        page.locator("label", has_text="springs back").click()
        page.get_by_role("button", name="Note the look").click()
        expect(page.get_by_role("status")).to_contain_text("C1 looked over: 1 point")
        # ice
        page.goto(f"{trip}/ice")
        self.assert_stands(page)
        page.get_by_label("Ice left").fill("31")
        page.get_by_role("button", name="Note it").click()
        expect(page.locator("#gauges")).to_contain_text("31")
        # the order of work, and to the board
        page.goto(f"{trip}/table")
        page.get_by_label("Add a cutter").fill("Ines")
        page.get_by_role("button", name="Take a board").click()
        self.assert_stands(page)
        page.get_by_role("button", name="Cut C1 next").click()
        expect(page.get_by_role("heading", name="C1 cod")).to_be_visible()
        page.goto(f"{trip}/table")
        expect(page.get_by_role("link", name="Go on with C1")).to_be_visible()

    def test_without_scripts_landing_and_ordering_still_work(self) -> None:
        page = self.open(LAPTOP, java_script_enabled=False)
        trip = self.trip(page)
        for cm in ("30", "40"):
            self.land(page, cm)
            expect(page.get_by_role("status")).to_contain_text("landed")
        page.goto(f"{trip}/table")
        page.get_by_role("button", name=re.compile("^Put .* before")).first.click()
        expect(page.get_by_text("held")).not_to_have_count(0)


class DragTest(DeckTest):
    def test_a_fish_dragged_before_another_stays_there(self) -> None:
        page = self.open(LAPTOP)
        self.trip(page)
        for n in range(3):
            self.land(page, str(30 + n))
            expect(page.locator(".slab-fish")).to_have_count(n + 1)
        page.wait_for_timeout(1000)  # the slab is drawn again when it hears of the last landing
        before = self.codes(page)
        last, first = page.locator(".slab-fish").nth(1), page.locator(".slab-fish").nth(0)
        a, b = last.bounding_box(), first.bounding_box()
        assert a
        assert b
        page.mouse.move(a["x"] + 40, a["y"] + 20)
        page.mouse.down()
        page.wait_for_timeout(150)
        for step in range(12):
            k = (step + 1) / 12
            page.mouse.move(
                a["x"] + 40 + (b["x"] - 20 - a["x"]) * k, a["y"] + 20 + (b["y"] - a["y"]) * k
            )
            page.wait_for_timeout(30)
        page.wait_for_timeout(400)  # what is under the hand has moved aside by then
        page.mouse.up()
        expect(page.get_by_role("status")).to_contain_text("put in its place")
        self.assertEqual(self.codes(page)[0], before[1])
        self.assertEqual(set(self.codes(page)), set(before))
        expect(page.get_by_text("held")).to_have_count(1)


if __name__ == "__main__":
    unittest.main()
