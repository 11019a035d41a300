"""TLS by itself: what is vouched for, what is not, and the two ways into one app."""

import asyncio
import socket
import ssl
import stat
import tempfile
import threading
import unittest
import urllib.request
from datetime import timedelta
from pathlib import Path
from types import SimpleNamespace
from unittest.mock import patch

from anyio.from_thread import start_blocking_portal
from cryptography import x509

from lepidos.settings import Settings
from lepidos.web.shell import serve
from lepidos.web.shell.addresses import own_names
from lepidos.web.shell.certificates import (
    MACHINE_LASTS,
    RENEW_BEFORE,
    Certificates,
    _make_machines,
    certificates,
    machine_now,
)
from tests.server import Server, free_port

NAMES = ("lepidos.local", "quayside")


class CertificateTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "tls"
        self.now = machine_now()
        self.files = certificates(self.folder, NAMES, ["192.168.4.1"], self.now)

    def accepted(self, files: Certificates, name: str) -> str:
        """What OpenSSL says as a browser that trusts this authority and wants this name; "" for yes."""
        server = ssl.create_default_context(ssl.Purpose.CLIENT_AUTH)
        server.load_cert_chain(files.chain, files.key)
        client = ssl.create_default_context(cafile=str(self.files.authority))
        near, far = socket.socketpair()

        def answer() -> None:
            try:
                server.wrap_socket(far, server_side=True).close()
            except (ssl.SSLError, OSError):
                far.close()

        other = threading.Thread(target=answer)
        other.start()
        try:
            with client.wrap_socket(near, server_hostname=name):
                return ""
        except ssl.SSLError as error:
            return str(error)
        finally:
            near.close()
            other.join()

    def test_a_device_that_trusts_it_takes_its_names_and_addresses_and_no_others(self) -> None:
        for name in ("lepidos.local", "quayside", "192.168.4.1", "127.0.0.1", "localhost"):
            with self.subTest(name=name):
                self.assertEqual(self.accepted(self.files, name), "")
        self.assertIn("mismatch", self.accepted(self.files, "192.168.4.2"))

    def test_it_cannot_vouch_for_another_site(self) -> None:
        rogue = Certificates(self.files.authority, self.folder / "r.pem", self.folder / "r-key.pem")
        for names, addresses, wanted in (
            (("bank.example",), [], "bank.example"),
            (("quayside",), ["8.8.8.8"], "8.8.8.8"),
        ):
            with self.subTest(wanted=wanted):
                _make_machines(rogue, self.folder / "authority-key.pem", names, addresses, self.now)
                self.assertIn("permitted subtree violation", self.accepted(rogue, wanted))

    def test_an_address_that_it_may_not_vouch_for_is_left_out(self) -> None:
        moved = certificates(self.folder, NAMES, ["203.0.113.9", "10.0.0.7"], self.now)
        self.assertEqual(self.accepted(moved, "10.0.0.7"), "")
        self.assertIn("mismatch", self.accepted(moved, "203.0.113.9"))
        own = certificates(self.folder.parent / "other", NAMES, ["203.0.113.9"], self.now)
        self.files = own
        self.assertEqual(self.accepted(own, "203.0.113.9"), "")

    def test_keys_are_private_and_the_authority_stays_while_the_machines_is_renewed(self) -> None:
        for name in ("authority-key.pem", "machine-key.pem"):
            self.assertEqual(stat.S_IMODE((self.folder / name).stat().st_mode), 0o600)
        known, chain = self.files.fingerprint, self.files.chain.read_bytes()
        same = certificates(self.folder, NAMES, ["192.168.4.1"], self.now)
        self.assertEqual(same.chain.read_bytes(), chain)
        moved = certificates(self.folder, NAMES, ["10.0.0.7"], self.now)
        self.assertNotEqual(moved.chain.read_bytes(), chain)
        self.assertEqual(self.accepted(moved, "10.0.0.7"), "")
        before = moved.chain.read_bytes()
        late = self.now + MACHINE_LASTS - RENEW_BEFORE + timedelta(hours=1)
        renewed = certificates(self.folder, NAMES, ["10.0.0.7"], late)
        self.assertNotEqual(renewed.chain.read_bytes(), before)
        self.assertEqual(renewed.fingerprint, known)

    def test_a_key_that_is_not_the_certificates_is_made_anew_with_it(self) -> None:
        other = certificates(self.folder.parent / "other", NAMES, ["192.168.4.1"], self.now)
        self.files.key.write_bytes(other.key.read_bytes())  # as if stopped between the two
        again = certificates(self.folder, NAMES, ["192.168.4.1"], self.now)
        self.assertEqual(self.accepted(again, "192.168.4.1"), "")

    def test_it_ends_within_what_browsers_take(self) -> None:
        (machine, authority) = x509.load_pem_x509_certificates(self.files.chain.read_bytes())
        lasts = machine.not_valid_after_utc - machine.not_valid_before_utc
        self.assertLessEqual(lasts, timedelta(days=398))
        limits = authority.extensions.get_extension_for_class(x509.NameConstraints)
        self.assertTrue(limits.critical)


class RenewTest(unittest.TestCase):
    def test_a_running_server_shows_what_was_made_anew(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        settings = Settings(data_dir=Path(folder.name), share=True)
        loaded: list[bytes] = []

        class Told:
            """The context of a server that runs."""

            def load_cert_chain(self, chain: Path, _: Path) -> None:
                loaded.append(chain.read_bytes())

        server = SimpleNamespace(config=SimpleNamespace(ssl=Told()))

        async def look() -> None:
            task = asyncio.create_task(serve._renew(server, settings))
            await asyncio.sleep(0.2)
            self.assertEqual(loaded, [])
            serve.certificates_of(settings).chain.unlink()  # its end, or another network
            await asyncio.sleep(0.2)
            task.cancel()

        with patch.object(serve, "LOOK_EVERY_S", 0.02), start_blocking_portal() as portal:
            portal.call(look)
        self.assertEqual(loaded, [serve.certificates_of(settings).chain.read_bytes()])


class SharedTest(unittest.TestCase):
    def test_this_machine_comes_in_plainly_and_a_stranger_over_tls_meets_the_pairing_page(
        self,
    ) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        tls = free_port()
        server = Server(
            Path(folder.name), searches=False, LEPIDOS_SHARE="1", LEPIDOS_SHARE_PORT=str(tls)
        )
        server.start()
        self.addCleanup(server.kill)
        page = urllib.request.urlopen(f"{server.base}/boat").read().decode()
        self.assertIn("What devices send is encrypted", page)
        authority = Path(folder.name) / "tls" / "authority.pem"
        trusting = ssl.create_default_context(cafile=str(authority))
        for host in ("127.0.0.1", "localhost"):
            # as a proxy would pass a stranger on
            asked = urllib.request.Request(
                f"https://{host}:{tls}/trips", headers={"x-forwarded-for": "192.168.4.9"}
            )
            answer = urllib.request.urlopen(asked, context=trusting)
            self.assertIn("/join?to=/trips", answer.url)
            self.assertIn("Come aboard", answer.read().decode())
        fetched = urllib.request.urlopen(f"https://127.0.0.1:{tls}/authority.crt", context=trusting)
        self.assertEqual(fetched.read(), authority.read_bytes())
        trust = (
            urllib.request.urlopen(f"https://127.0.0.1:{tls}/trust", context=trusting)
            .read()
            .decode()
        )
        self.assertRegex(trust, r"([0-9A-F]{2}:){31}[0-9A-F]{2}")
        with self.assertRaises(OSError):
            urllib.request.urlopen(f"https://127.0.0.1:{tls}/")  # whoever does not trust it
        self.assertEqual(server.stop(), 0)

    def test_the_machine_has_a_name_on_the_network(self) -> None:
        self.assertEqual(own_names()[0], "lepidos.local")
