"""A local certificate: an authority of this workshop's own, and a certificate of it for this machine's names.

A tablet that is told once to trust the authority's file trusts the machine from then on. Runs in Brunt's environment.
"""

import argparse
import os
import sys
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

AUTHORITY, AUTHORITY_KEY = "authority.pem", "authority-key.pem"
CERTIFICATE, KEY = "certificate.pem", "key.pem"
# Browsers take no certificate of more than 398 days; a new one is made a month before it ends.
_DAYS, _BEFORE, _AUTHORITY_DAYS = 397, 30, 3650


def ensure_certificate(folder: Path, names: list[str], now: datetime) -> None:
    """A certificate for these names and addresses in a folder, where the one there does not do any more."""
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    if not (folder / AUTHORITY).exists():
        _make_authority(folder, now)
    if not _does(folder, names, now):
        _make_certificate(folder, names, now)


def names_in(certificate: x509.Certificate) -> list[str]:
    """The names and addresses a certificate is for."""
    found = certificate.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    dns = found.get_values_for_type(x509.DNSName)
    return [*dns, *(str(a) for a in found.get_values_for_type(x509.IPAddress))]


def _does(folder: Path, names: list[str], now: datetime) -> bool:
    try:
        held = x509.load_pem_x509_certificate((folder / CERTIFICATE).read_bytes())
    except (OSError, ValueError):
        return False
    ends = held.not_valid_after_utc - timedelta(days=_BEFORE)
    return (folder / KEY).exists() and ends > now and set(names) <= set(names_in(held))


def _make_authority(folder: Path, now: datetime) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name(
        [x509.NameAttribute(NameOID.COMMON_NAME, "Brunt, this workshop's own authority")]
    )
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=_AUTHORITY_DAYS))
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .sign(key, hashes.SHA256())
    )
    _write(folder / AUTHORITY_KEY, _private(key))
    _write(folder / AUTHORITY, made.public_bytes(serialization.Encoding.PEM), 0o644)


def _make_certificate(folder: Path, names: list[str], now: datetime) -> None:
    authority = x509.load_pem_x509_certificate((folder / AUTHORITY).read_bytes())
    signing = serialization.load_pem_private_key((folder / AUTHORITY_KEY).read_bytes(), None)
    assert isinstance(signing, ec.EllipticCurvePrivateKey)
    key = ec.generate_private_key(ec.SECP256R1())
    made = (
        x509.CertificateBuilder()
        .subject_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Brunt")]))
        .issuer_name(authority.subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=_DAYS))
        .add_extension(x509.SubjectAlternativeName([_named(n) for n in names]), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .sign(signing, hashes.SHA256())
    )
    pem = serialization.Encoding.PEM
    _write(folder / KEY, _private(key))
    _write(folder / CERTIFICATE, made.public_bytes(pem) + authority.public_bytes(pem), 0o644)


def _named(name: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ip_address(name))
    except ValueError:
        return x509.DNSName(name)


def _private(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(
        serialization.Encoding.PEM,
        serialization.PrivateFormat.PKCS8,
        serialization.NoEncryption(),
    )


def _write(path: Path, content: bytes, mode: int = 0o600) -> None:
    part = path.with_suffix(".part")
    with open(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, mode), "wb") as file:
        file.write(content)
    os.replace(part, path)


def main() -> int:
    """Make it where it is missing or ends soon."""
    parser = argparse.ArgumentParser(prog="brunt_command.certificate", description=main.__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("names", nargs="+")
    chosen = parser.parse_args()
    ensure_certificate(chosen.folder, chosen.names, datetime.now(UTC))
    return 0


if __name__ == "__main__":
    sys.exit(main())
