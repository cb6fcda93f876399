"""A certificate authority made on this machine, and a certificate from it for the address on the local network.

Run as a module of our Python environment, by `lan.py`: it needs more than the standard library. The authority may vouch for
addresses of local networks and nothing else, so that whoever trusts it on a phone risks no other page.
"""

import argparse
import ipaddress
import json
import os
from datetime import UTC, datetime, timedelta
from pathlib import Path

import segno
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from widedusk.command.lan import LOCAL

AUTHORITY_YEARS = 10
CERTIFICATE_DAYS = 397  # the most that browsers accept
RENEW_DAYS = 30


def _named(name: str) -> x509.Name:
    return x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name)])


def _write(path: Path, content: bytes, mode: int) -> None:
    beside = path.with_name(f".{path.name}")
    with os.fdopen(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, mode), "wb") as out:
        out.write(content)
    beside.replace(path)


def _key_bytes(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())


def _pem(certificate: x509.Certificate) -> bytes:
    return certificate.public_bytes(serialization.Encoding.PEM)


def _fresh(certificate: x509.Certificate) -> bool:
    return certificate.not_valid_after_utc - datetime.now(UTC) > timedelta(days=RENEW_DAYS)


def _begun(subject: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePrivateKey, days: float) -> x509.CertificateBuilder:
    now = datetime.now(UTC)
    return (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(issuer)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))  # the clock of a phone may be behind
        .not_valid_after(now + timedelta(days=days))
    )


def authority(folder: Path) -> tuple[ec.EllipticCurvePrivateKey, x509.Certificate]:
    """The authority of this machine, made when there is none that still holds."""
    key_file, file = folder / "authority.key", folder / "authority.crt"
    if key_file.is_file() and file.is_file():
        key = serialization.load_pem_private_key(key_file.read_bytes(), None)
        found = x509.load_pem_x509_certificate(file.read_bytes())
        if isinstance(key, ec.EllipticCurvePrivateKey) and _fresh(found):
            return key, found
    key = ec.generate_private_key(ec.SECP256R1())
    name = _named(f"Wide Dusk on one machine, {datetime.now(UTC):%Y-%m-%d}")
    made = (
        _begun(name, name, key, AUTHORITY_YEARS * 365.25)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(
            x509.KeyUsage(
                digital_signature=False,
                content_commitment=False,
                key_encipherment=False,
                data_encipherment=False,
                key_agreement=False,
                key_cert_sign=True,
                crl_sign=True,
                encipher_only=False,
                decipher_only=False,
            ),
            critical=True,
        )
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .add_extension(
            x509.NameConstraints([x509.IPAddress(ipaddress.ip_network(one)) for one in LOCAL], [x509.DNSName("")]), critical=True
        )
        .sign(key, hashes.SHA256())
    )
    _write(key_file, _key_bytes(key), 0o600)
    _write(file, _pem(made), 0o644)
    return key, made


def certificate(folder: Path, address: str) -> None:
    """One for the address, from the authority; made when there is none of it that still holds."""
    signer, issuer = authority(folder)
    key_file, file = folder / "server.key", folder / "server.crt"
    wanted = ipaddress.ip_address(address)
    if key_file.is_file() and file.is_file():
        found = x509.load_pem_x509_certificate(file.read_bytes())
        names = found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        if _fresh(found) and names.get_values_for_type(x509.IPAddress) == [wanted] and found.issuer == issuer.subject:
            return
    key = ec.generate_private_key(ec.SECP256R1())
    made = (
        _begun(_named("Wide Dusk on the local network"), issuer.subject, key, CERTIFICATE_DAYS)
        .add_extension(x509.SubjectAlternativeName([x509.IPAddress(wanted)]), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(signer.public_key()), critical=False)
        .sign(signer, hashes.SHA256())
    )
    _write(key_file, _key_bytes(key), 0o600)
    _write(file, _pem(made), 0o644)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("address")
    parser.add_argument("url")
    asked = parser.parse_args()
    asked.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    certificate(asked.folder, asked.address)
    _, made = authority(asked.folder)
    digest = made.fingerprint(hashes.SHA256()).hex().upper()
    code = segno.make(asked.url, error="m")
    rows = [[bool(cell) for cell in row] for row in code.matrix_iter(border=2)]
    print(json.dumps({"fingerprint": ":".join(digest[at : at + 2] for at in range(0, len(digest), 2)), "code": rows}))


if __name__ == "__main__":
    main()
