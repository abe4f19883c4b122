"""The machine on its own network: its address, and a certificate phones can be told to trust."""

from __future__ import annotations

import ipaddress
import os
import socket
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import NamedTuple

import segno
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from cantrel.surroundings import said, whole

TLS_PORT, TRUST_PORT = whole("PHONE_PORT", 8443), whole("TRUST_PORT", 8081)
AUTHORITY_DAYS, LEAF_DAYS = 3650, 390
RENEW = timedelta(days=30)


def address() -> str:
    """Address of this machine on the network it would go out by; the loopback where it has none. Nothing is sent."""
    given = said("PHONE_HOST")
    if given:
        return given
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # of a range kept for documents: a route is looked up, no packet goes
            return str(probe.getsockname()[0])
        except OSError:
            return "127.0.0.1"


def over_tls() -> str:
    """Where a phone finds the program."""
    return f"https://{address()}:{TLS_PORT}/"


def to_trust() -> str:
    """Where a phone finds what it has to trust first; in the clear, as it can't trust anything yet."""
    return f"http://{address()}:{TRUST_PORT}/"


def code(text: str) -> str:
    """A QR code to be looked at, as SVG."""
    return str(segno.make(text, error="m").svg_inline(scale=4, border=3, dark="#000", light="#fff"))


class Certificates(NamedTuple):
    """Where the authority's certificate is, and the server's certificate and key."""

    authority: Path
    certificate: Path
    key: Path


def certificates(folder: Path, host: str) -> Certificates:
    """The authority of this machine, made once, and a certificate of it for a host; made anew before it runs out or
    where the host is another. Keys are for whoever serves alone.
    """
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    found = Certificates(folder / "authority.crt", folder / "server.crt", folder / "server.key")
    authority_key = folder / "authority.key"
    if not (found.authority.exists() and authority_key.exists()):
        _authority(found.authority, authority_key)
    if not _holds(found, host):
        _leaf(found, authority_key, host)
    return found


def _authority(certificate: Path, key_path: Path) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Cantrel on this machine")])
    built = (
        _begun(name, name, key.public_key(), AUTHORITY_DAYS)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_usage(signs=True), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
    )
    _write(key_path, _pem(key))
    _write(certificate, built.sign(key, hashes.SHA256()).public_bytes(serialization.Encoding.PEM))


def _leaf(found: Certificates, authority_key: Path, host: str) -> None:
    issuer = x509.load_pem_x509_certificate(found.authority.read_bytes())
    signer = serialization.load_pem_private_key(authority_key.read_bytes(), None)
    key = ec.generate_private_key(ec.SECP256R1())
    named = [x509.DNSName("localhost"), x509.IPAddress(ipaddress.ip_address("127.0.0.1")), _name(host)]
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, host)])
    built = (
        _begun(name, issuer.subject, key.public_key(), LEAF_DAYS)
        .add_extension(x509.SubjectAlternativeName(list(dict.fromkeys(named))), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(issuer.public_key()), critical=False)
    )
    _write(found.key, _pem(key))
    _write(found.certificate, built.sign(signer, hashes.SHA256()).public_bytes(serialization.Encoding.PEM))


def _begun(name: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePublicKey, days: int) -> x509.CertificateBuilder:
    now = datetime.now(UTC)
    builder = x509.CertificateBuilder().subject_name(name).issuer_name(issuer).public_key(key)
    builder = builder.serial_number(x509.random_serial_number())
    return builder.not_valid_before(now - timedelta(days=1)).not_valid_after(now + timedelta(days=days))


def _usage(signs: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs, content_commitment=False, key_encipherment=False, data_encipherment=False,
        key_agreement=False, key_cert_sign=signs, crl_sign=signs, encipher_only=False, decipher_only=False,
    )  # fmt: skip


def _name(host: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(host))
    except ValueError:
        return x509.DNSName(host)


def _holds(found: Certificates, host: str) -> bool:
    """Whether there is a certificate of this authority for this host that does not run out soon."""
    if not (found.certificate.exists() and found.key.exists()):
        return False
    leaf = x509.load_pem_x509_certificate(found.certificate.read_bytes())
    issuer = x509.load_pem_x509_certificate(found.authority.read_bytes())
    named = leaf.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    soon = datetime.now(UTC) + RENEW
    return _name(host) in list(named) and leaf.issuer == issuer.subject and leaf.not_valid_after_utc > soon


def _pem(key: ec.EllipticCurvePrivateKey) -> bytes:
    plain = serialization.NoEncryption()
    return key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, plain)


def _write(path: Path, content: bytes) -> None:
    """Written beside and moved, so that nobody reads half of it; for its owner alone."""
    beside = path.with_suffix(path.suffix + ".new")
    with open(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as file:
        file.write(content)
    beside.replace(path)
