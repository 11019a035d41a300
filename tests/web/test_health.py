"""How the app is, and what is said when its file cannot be read or written."""

import sqlite3
import sys
from contextlib import closing
from unittest.mock import patch

from lepidos.store.file.database import Store
from lepidos.store.file.file_problems import FullDisk
from tests.web.client import WebTest


class HealthPageTest(WebTest):
    def test_it_says_what_is_well_and_makes_a_copy_when_asked(self) -> None:
        page = self.client.get("/health").text
        self.assertIn("All is well.", page)
        self.assertIn("Only this machine can open the app.", page)
        before = len(list((self.folder / "backups").glob("*.sqlite")))
        made = self.form("/health/copy")
        self.assertEqual(made.status_code, 200)
        self.assertIn("asked for", made.text)
        self.assertEqual(len(list((self.folder / "backups").glob("*-asked.sqlite"))), 1)
        self.assertEqual(len(list((self.folder / "backups").glob("*.sqlite"))), before + 1)

    def test_what_needs_a_look_comes_first(self) -> None:
        self.app.state.copies.problem = "The last copy could not be made."
        page = self.client.get("/health").text
        self.assertIn("1 thing to look at.", page)
        self.assertLess(page.index("could not be made"), page.index("Data file"))


class FileProblemTest(WebTest):
    def test_a_file_that_is_gone_is_told_on_every_page_with_what_to_do(self) -> None:
        trip = self.start_trip()
        path = self.ctx.store.path
        away = path.with_name("away.sqlite")
        path.rename(away)
        for answer in (self.client.get(f"{trip}/deck?done=x"), self.client.get("/guide"),
                       self.form("/settings/currency", currency="EUR")):  # fmt: skip
            self.assertEqual(answer.status_code, 503)
            self.assertIn("was moved, deleted or exchanged", answer.text)
            self.assertIn("lepidos restore FILE", answer.text)
            self.assertEqual(answer.headers["retry-after"], "5")
            self.assertIn("content-security-policy", answer.headers)
        problem = self.client.get("/api/v1/trips")
        self.assertEqual(problem.headers["content-type"], "application/problem+json")
        self.assertIn("moved, deleted or exchanged", problem.json()["detail"])
        self.assertNotIn("All is well", self.client.get("/health").text)
        away.rename(path)
        self.assertEqual(self.client.get(f"{trip}/deck").status_code, 200)

    def test_on_a_full_disk_what_was_typed_is_kept(self) -> None:
        full = FullDisk(self.ctx.store.path)
        with patch.object(Store, "writing", side_effect=full):
            answer = self.form(
                "/trips",
                name="Sea Thrift",
                kind="boat",
                harbour="Skarrow Quay",
                on_date="2026-07-14",
            )
        self.assertEqual(answer.status_code, 507)
        self.assertIn("The disk is full", answer.text)
        self.assertIn('value="Sea Thrift"', answer.text)

    def test_a_log_that_cannot_be_written_breaks_no_answer(self) -> None:
        full = OSError(28, "No space left on device")
        with patch.object(sys, "stderr") as terminal:
            terminal.write.side_effect = terminal.flush.side_effect = full
            with patch.object(Store, "writing", side_effect=FullDisk(self.ctx.store.path)):
                answer = self.form("/settings/currency", currency="EUR")
        self.assertGreater(terminal.write.call_count, 0)
        self.assertEqual(answer.status_code, 507)

    def test_a_lock_of_another_program_does_not_stop_reading(self) -> None:
        trip = self.start_trip()
        with closing(sqlite3.connect(self.ctx.store.path, isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")
            fish = {"key": self.key(), "species": "cod", "length": "60", "lies": "iced"}
            answer = self.client.post(
                f"/live{trip}/fish", data=fish, headers={"origin": "http://127.0.0.1"}
            )
            self.assertEqual(answer.status_code, 503)
            self.assertIn("Something else is writing", answer.json()["detail"])
            self.assertEqual(self.client.get(f"{trip}/deck").status_code, 200)
        again = self.client.post(
            f"/live{trip}/fish", data=fish, headers={"origin": "http://127.0.0.1"}
        )
        self.assertEqual(again.status_code, 200)
