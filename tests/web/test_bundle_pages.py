"""The whole log over HTTP: down, up, looked at, accepted, and what is refused."""

import io
import re
import tempfile
import time
import zipfile
from pathlib import Path

from tests.test_cli import lepidos
from tests.web.client import HOST, WebTest


class BundlePagesTest(WebTest):
    def send(self, data: bytes, name: str = "boat.zip") -> str:
        """Send a file; the page when it was read."""
        answer = self.client.post(
            "/bundle/read", files={"file": (name, data)}, headers={"origin": HOST}
        )
        self.assertEqual(answer.status_code, 303, answer.text)
        return self.page_when("ready", "failed")

    def page_when(self, *states: str) -> str:
        for _ in range(300):
            if self.client.get("/bundle/state").json()["state"] in states:
                return str(self.client.get("/bundle").text)
            time.sleep(0.02)
        raise AssertionError(self.client.get("/bundle/state").text)

    def test_a_log_goes_out_is_looked_at_and_comes_in_again(self) -> None:
        trip = self.start_trip()
        self.land(trip, "cod", "75")
        answer = self.client.get("/bundle.zip")
        self.assertEqual(answer.headers["content-type"], "application/zip")
        self.assertIn("lepidos-log-", answer.headers["content-disposition"])
        names = zipfile.ZipFile(io.BytesIO(answer.content)).namelist()
        self.assertIn("data/fish.csv", names)
        page = self.send(answer.content)
        self.assertIn("1 trip", page)
        self.assertIn("Nothing is brought in yet", page)
        token = page.partition('name="token" value="')[2].partition('"')[0]
        self.form("/bundle/accept", token=token)
        self.assertIn("all of it was here already", self.page_when("done", "failed"))
        self.form("/bundle/stop")
        self.assertNotIn("data-bundle=", self.client.get("/bundle").text)
        self.assertEqual(self.client.get("/bundle.zip").content, answer.content)

    def test_what_contradicts_itself_is_told_on_every_page_and_settled_on_one(self) -> None:
        trip = self.start_trip()
        fish = self.land(trip)
        self.weigh(fish, "fillet.A", "0.5")
        page = self.send(self.client.get("/bundle.zip").content)
        token = page.partition('name="token" value="')[2].partition('"')[0]
        self.form("/bundle/accept", token=token)
        self.page_when("done", "failed")
        self.form("/bundle/stop")
        self.assertNotIn("contradict", self.client.get(f"{trip}/deck").text)
        self.weigh(fish, "fillet.A", "0.55")  # as the other device may have done
        said = self.client.get(f"{trip}/deck").text
        self.assertIn("1 entry contradicts another since two logs were merged", said)
        page = self.client.get("/bundle").text
        self.assertIn("P1 fillet A has 2 weights: 500 g and 550 g", page)
        found = re.search(r'name="contradiction" value="([^"]+)"', page)
        assert found
        answer = self.form("/bundle/settle", contradiction=found[1], way="1")
        self.assertEqual(answer.status_code, 303)
        page = self.client.get(answer.headers["location"]).text
        self.assertIn("Keep 550 g", page)
        self.assertNotIn('id="contradictions"', page)
        self.assertNotIn("contradict", self.client.get(f"{trip}/deck").text)
        again = self.form("/bundle/settle", contradiction=found[1], way="0")
        self.assertEqual(again.status_code, 409)

    def test_what_is_no_bundle_is_said_and_an_odd_name_does_no_harm(self) -> None:
        page = self.send(b"no zip", "<b>photo</b>.zip")
        self.assertIn("no zip file", page)
        self.assertNotIn("<b>photo", page)

    def test_nothing_chosen_is_a_sentence_at_the_field(self) -> None:
        answer = self.client.post("/bundle/read", files={"x": ("", b"")}, headers={"origin": HOST})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Choose a bundle first", answer.text)

    def test_a_bundle_that_is_gone_cannot_be_accepted(self) -> None:
        answer = self.form("/bundle/accept", token="nothing")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("choose the file once more", answer.text)

    def test_the_command_line_writes_a_bundle_and_reads_it_elsewhere(self) -> None:
        self.land(self.start_trip(), "cod", "75")
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            target = folder / "log.zip"
            target.write_bytes(self.client.get("/bundle.zip").content)
            there = ("--data-dir", str(folder / "home"))
            brought = lepidos("bundle", "read", str(target), "--accept", *there)
            self.assertIn("1 trips, 1 fish, 0 bags; 0, 0, 0", brought.stdout)
            self.assertIn("1 fish new", brought.stdout)
            again = folder / "again.zip"
            lepidos("bundle", "write", str(again), *there)
            self.assertEqual(again.read_bytes(), target.read_bytes())
