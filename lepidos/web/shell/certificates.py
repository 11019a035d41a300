"""TLS by itself: a local authority, and a certificate for this machine's names and addresses.

A phone trusts the authority once. What it may vouch for is constrained (RFC 5280, 4.2.1.10) to this
machine's names, `.local` and private addresses, so that nobody can use it against another site.
"""

import hashlib
import ipaddress
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from lepidos.store.file import durable

AUTHORITY_LASTS = timedelta(days=3650)
MACHINE_LASTS = timedelta(days=397)  # browsers take no longer ones (CA/Browser Forum, ballot SC31)
RENEW_BEFORE = timedelta(days=30)
MACHINE = "machine.pem"  # this machine's certificate, and the authority's after it
SLACK = timedelta(days=1)  # a phone's clock may be behind
# RFC 1918, RFC 3927 and RFC 4193; and this machine itself
PRIVATE = (
    "10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "127.0.0.0/8", "fd00::/8",
)  # fmt: skip


@dataclass(frozen=True)
class Certificates:
    """Files: the authority's certificate, to be trusted; this machine's chain and its key."""

    authority: Path
    chain: Path
    key: Path

    @property
    def fingerprint(self) -> str:
        """SHA-256 of the authority's certificate, to compare on both devices."""
        found = x509.load_pem_x509_certificate(self.authority.read_bytes())
        return fingerprint_of(found)


def fingerprint_of(certificate: x509.Certificate) -> str:
    """As browsers show it: pairs of hexadecimal digits."""
    digest = hashlib.sha256(certificate.public_bytes(serialization.Encoding.DER)).hexdigest()
    return ":".join(digest[n : n + 2].upper() for n in range(0, len(digest), 2))


def certificates(
    folder: Path, names: Sequence[str], addresses: Sequence[str], now: datetime
) -> Certificates:
    """Those in a folder; made when there are none, this machine's again when it needs another.

    It needs another for a name or address that it does not bear, and thirty days before its end.
    """
    durable.make_folder(folder)
    files = Certificates(folder / "authority.pem", folder / MACHINE, folder / "machine-key.pem")
    signing = folder / "authority-key.pem"
    if not files.authority.exists() or not signing.exists():
        _make_authority(files.authority, signing, names, addresses, now)
    # one address that the authority may not vouch for would spoil the whole certificate
    addresses = _permitted(files.authority, addresses)
    if not _holds(files, {*names, "localhost"}, {*addresses, "127.0.0.1"}, now):
        _make_machines(files, signing, names, addresses, now)
    return files


def _permitted(authority: Path, addresses: Sequence[str]) -> list[str]:
    made = x509.load_pem_x509_certificate(authority.read_bytes())
    limits = made.extensions.get_extension_for_class(x509.NameConstraints).value
    trees = limits.permitted_subtrees or []
    networks = [tree.value for tree in trees if isinstance(tree, x509.IPAddress)]
    return [a for a in addresses if any(ipaddress.ip_address(a) in net for net in networks)]  # type: ignore[operator]


def _make_authority(
    path: Path, signing: Path, names: Sequence[str], addresses: Sequence[str], now: datetime
) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Lepidos on {names[-1]}"[:64])])
    # and the address that the machine has when its authority is made, which may be a public one
    networks = [x509.IPAddress(ipaddress.ip_network(text)) for text in (*PRIVATE, *addresses)]
    allowed = [x509.DNSName(text) for text in dict.fromkeys((*names, "local", "localhost"))]
    made = (
        _builder(name, name, key, now, AUTHORITY_LASTS)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(x509.NameConstraints([*allowed, *networks], None), critical=True)
        .add_extension(_usage(signs=True), critical=True)
        .sign(key, hashes.SHA256())
    )
    _write_key(signing, key)
    durable.write(path, made.public_bytes(serialization.Encoding.PEM))


def _make_machines(
    files: Certificates,
    signing: Path,
    names: Sequence[str],
    addresses: Sequence[str],
    now: datetime,
) -> None:
    authority = x509.load_pem_x509_certificate(files.authority.read_bytes())
    signer = serialization.load_pem_private_key(signing.read_bytes(), None)
    if not isinstance(signer, ec.EllipticCurvePrivateKey):
        raise ValueError(f"{signing} is no key of ours")
    key = ec.generate_private_key(ec.SECP256R1())
    numbers = [ipaddress.ip_address(text) for text in dict.fromkeys((*addresses, "127.0.0.1"))]
    bears = [
        *(x509.DNSName(text) for text in dict.fromkeys((*names, "localhost"))),
        *(x509.IPAddress(number) for number in numbers),
    ]
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, names[-1][:64])])
    made = (
        _builder(subject, authority.subject, key, now, MACHINE_LASTS)
        .add_extension(x509.SubjectAlternativeName(bears), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(
            x509.AuthorityKeyIdentifier.from_issuer_public_key(signer.public_key()), critical=False
        )
        .sign(signer, hashes.SHA256())
    )
    _write_key(files.key, key)
    pem = serialization.Encoding.PEM
    durable.write(files.chain, made.public_bytes(pem) + authority.public_bytes(pem))


def _builder(
    subject: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePrivateKey, now: datetime,
    lasts: timedelta,
) -> x509.CertificateBuilder:  # fmt: skip
    return (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(issuer)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - SLACK)
        .not_valid_after(now - SLACK + lasts)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
    )


def _usage(signs: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs, content_commitment=False, key_encipherment=False,
        data_encipherment=False, key_agreement=False, key_cert_sign=signs, crl_sign=signs,
        encipher_only=False, decipher_only=False,
    )  # fmt: skip


def _holds(files: Certificates, names: set[str], addresses: set[str], now: datetime) -> bool:
    if not files.chain.exists() or not files.key.exists():
        return False
    chain = x509.load_pem_x509_certificates(files.chain.read_bytes())
    authority = x509.load_pem_x509_certificate(files.authority.read_bytes())
    bears = chain[0].extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    key = serialization.load_pem_private_key(files.key.read_bytes(), None)
    return (
        # stopped between writing one and the other, they do not belong together
        chain[0].public_key() == key.public_key()
        and chain[-1] == authority
        and names <= set(bears.get_values_for_type(x509.DNSName))
        and addresses <= {str(ip) for ip in bears.get_values_for_type(x509.IPAddress)}
        and chain[0].not_valid_before_utc <= now
        and now + RENEW_BEFORE < chain[0].not_valid_after_utc
    )


def _write_key(path: Path, key: ec.EllipticCurvePrivateKey) -> None:
    pem = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    durable.write(path, pem)


def machine_now() -> datetime:
    """The machine's own clock: a phone compares the certificate with its own, too."""
    return datetime.now(UTC)
