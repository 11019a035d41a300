"""What a device keeps for when the app does not answer."""

from tests.web.client import WebTest


class KeptTest(WebTest):
    def test_all_that_is_to_be_kept_is_there_under_that_address(self) -> None:
        """The worker keeps no answer that leads elsewhere, so such a page would be missing."""
        trip = self.start_trip()
        fish = self.land(trip)
        kept = self.client.get("/live/kept").json()
        for name in ("fresh", "lasting", "drawings", "files"):
            self.assertTrue(kept[name], name)
        self.assertIn(fish, kept["fresh"])
        lasting = kept["lasting"][:12]  # the pages of the fish are one page, and many
        self.assertIn("/guide/pollack", lasting)
        for path in (*kept["fresh"], *lasting, *kept["files"], *kept["drawings"][:1]):
            with self.subTest(path=path):
                self.assertEqual(self.client.get(path).status_code, 200)
