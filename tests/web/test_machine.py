"""What the doctor says of fonts, browser and certificate; each is wrong once."""

import tempfile
import unittest
import webbrowser
from datetime import timedelta
from pathlib import Path
from unittest.mock import patch

from lepidos.settings import Settings
from lepidos.stations.health.checks import Check
from lepidos.web.health import machine
from lepidos.web.shell.certificates import MACHINE_LASTS, certificates, machine_now


class MachineTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.settings = Settings(data_dir=self.folder, share=True)

    def said(self, name: str) -> Check:
        return next(c for c in machine.check_machine(self.settings) if c.name == name)

    def test_the_shipped_fonts_are_whole(self) -> None:
        self.assertTrue(self.said("Fonts").well)
        with patch.object(machine, "FACES", self.folder):
            self.assertIn("missing", self.said("Fonts").said)
        for name in ("a", "b", "c", "d"):
            (self.folder / f"{name}.ttf").write_bytes(b"no font")
        with patch.object(machine, "LABEL_FACES", self.folder):
            self.assertFalse(self.said("Fonts").well)

    def test_a_machine_without_a_browser_is_told_how_to_go_on(self) -> None:
        with patch.object(webbrowser, "get", side_effect=webbrowser.Error):
            self.assertIn("from a phone", self.said("Browser").said)

    def test_the_certificate_is_told_while_it_is_good_when_it_ends_and_when_it_is_none(
        self,
    ) -> None:
        self.assertIn("None yet", self.said("Certificate").said)
        tls = self.folder / "tls"
        certificates(tls, ["lepidos.local"], ["192.168.4.2"], machine_now())
        self.assertTrue(self.said("Certificate").well)
        late = machine_now() + MACHINE_LASTS - timedelta(days=3)
        with patch.object(machine, "machine_now", lambda: late):
            self.assertFalse(self.said("Certificate").well)
        (tls / "machine.pem").write_text("no certificate")
        self.assertIn("cannot be read", self.said("Certificate").said)
        self.settings = Settings(data_dir=self.folder)
        names = [c.name for c in machine.check_machine(self.settings)]
        self.assertEqual(names, ["Fonts", "Browser"])
