"""The licences page: all that is shipped or run with is on it, each with its text."""

from lepidos.web.health.licences import VENDOR, installed, shipped
from tests.web.client import WebTest


class LicencesTest(WebTest):
    def test_every_shipped_package_has_its_text(self) -> None:
        found = {one.name: one for one in shipped()}
        self.assertEqual(
            set(found),
            {"bootstrap", "@alpinejs/csp", "sortablejs", "@fontsource/barlow-condensed",
             "@fontsource/atkinson-hyperlegible-next", "swagger-ui-dist", "dejavu-sans"},
        )  # fmt: skip
        for one in found.values():
            self.assertTrue(one.texts, one.name)
        folders = {path.name for path in VENDOR.iterdir() if path.is_dir()}
        rows = (VENDOR / "VENDORED.md").read_text("utf-8")
        self.assertEqual({f for f in folders if f"| {f} |" in rows}, folders)

    def test_the_packages_that_the_app_runs_with_are_named_with_a_licence(self) -> None:
        found = {one.name.lower(): one for one in installed()}
        for name, word in (("fastapi", "MIT"), ("peewee", ""), ("fpdf2", "LGPL"), ("numpy", "BSD")):
            self.assertIn(word, found[name].licence)
            self.assertTrue(found[name].texts, name)
        self.assertLess(sum(not one.texts for one in found.values()), 4)
        self.assertTrue(all(one.licence and len(one.licence) < 61 for one in found.values()))

    def test_the_page_leads_to_every_text_and_to_nothing_else(self) -> None:
        page = self.client.get("/licences").text
        for one in (*shipped(), *installed()):
            self.assertIn(f">{one.name}<", page)
            if one.texts:
                answer = self.client.get(f"/licences/{one.name}")
                self.assertEqual(answer.status_code, 200, one.name)
                self.assertGreater(len(answer.text), 200)
        for name in ("nothing", "../VENDORED.md", "%2e%2e/VENDORED.md", "bootstrap/../x"):
            self.assertEqual(self.client.get(f"/licences/{name}").status_code, 404, name)
